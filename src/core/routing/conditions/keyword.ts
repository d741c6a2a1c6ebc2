/** What a message says: words, or a pattern. */
import { z } from 'zod';
import { type KeywordWay, pattern, plainWords, says } from '../keyword';
import { list, quoted } from '../names';
import type { ConditionKind, Matcher } from './kind';

const schema = z.strictObject({
  on: z.literal('keyword'),
  way: z.enum(['exact', 'begins', 'contains', 'pattern']),
  words: z.array(z.string().max(200)).max(50).readonly(),
});
type Keyword = z.infer<typeof schema>;
interface Word {
  on: 'keyword';
  way: KeywordWay;
  word: string;
}

const never: Matcher = () => false;

export const keyword: ConditionKind<Keyword, Word> = {
  on: 'keyword',
  label: 'the words',
  fresh: () => ({ on: 'keyword', way: 'begins', words: [] }),
  fields: [
    {
      control: 'choice',
      label: 'How the words are looked for',
      options: () => [
        ['exact', 'are exactly'],
        ['begins', 'begin with'],
        ['contains', 'contain the word'],
        ['pattern', 'fit the pattern'],
      ],
      value: ({ way }) => way,
      set: (condition, way) => ({ ...condition, way: way as KeywordWay }),
    },
    {
      control: 'word',
      label: 'pattern',
      size: 26,
      value: ({ words }) => words[0] ?? '',
      set: (condition, word) => ({ ...condition, words: word ? [word] : [] }),
      when: ({ way }) => way === 'pattern',
    },
    {
      control: 'words',
      label: 'words',
      value: ({ words }) => words,
      set: (condition, words) => ({ ...condition, words }),
      when: ({ way }) => way !== 'pattern',
    },
  ],
  schema,
  words({ way, words }) {
    if (way === 'exact') return `it says exactly ${quoted(words)}`;
    if (way === 'begins') return `it begins with ${quoted(words)}`;
    return way === 'contains' ? `it contains the word ${quoted(words)}` : `it fits the pattern ${list(words)}`;
  },
  saw({ way, words }, { text, spoken }) {
    if (way !== 'pattern') return spoken.trim() || 'no words';
    const broken = words.map(pattern).find((each) => typeof each === 'string');
    return broken === undefined ? text : `no pattern: ${broken}`;
  },
  matcher({ way, words }) {
    if (way === 'pattern') {
      const compiled = words.map(pattern).filter((each) => typeof each !== 'string');
      return ({ text }) => compiled.some((each) => each.matcher(text).find());
    }
    const wanted = [...new Set(words.map(plainWords))].filter(Boolean);
    if (wanted.length === 0) return never;
    if (way === 'exact') {
      const whole = new Set(wanted.map((word) => ` ${word} `));
      return ({ spoken }) => whole.has(spoken);
    }
    return ({ spoken }) => wanted.some((word) => says(spoken, way, word));
  },
  wordsNeeded: ({ way, words }) => (way === 'pattern' ? undefined : words.map(plainWords).filter(Boolean)),
  problems({ way, words }) {
    if (way !== 'pattern')
      return words.every((word) => plainWords(word) === '')
        ? [
            {
              code: 'keyword-empty',
              problem: (route) => `“${route}” asks for a keyword and names none.`,
              remedy: 'Write the word, or take the condition away.',
            },
          ]
        : [];
    return words.flatMap((word) => {
      const compiled = pattern(word);
      if (typeof compiled !== 'string') return [];
      return [
        {
          code: 'pattern-broken',
          problem: () => `The pattern ${word} cannot be read: ${compiled}.`,
          remedy: 'Correct it; look-ahead and back-references are not taken, because they can hang.',
        },
      ];
    });
  },
  tellsPeopleFromMachines: true,
  atoms({ way, words }) {
    const each = way === 'pattern' ? words : words.map(plainWords).filter(Boolean);
    return [...new Set(each)].map((word) => ({ on: 'keyword', way, word }));
  },
  implies(one, other) {
    if (one.way === 'pattern' || other.way === 'pattern') return false;
    const spoken = ` ${one.word} `;
    if (one.way === 'exact') return says(spoken, other.way, other.word);
    if (one.way === 'begins') return other.way !== 'exact' && says(spoken, other.way, other.word);
    return other.way === 'contains' && says(spoken, 'contains', other.word);
  },
  excludes(one, other) {
    if (one.way === 'pattern' || other.way === 'pattern') return false;
    if (one.way === 'exact') return !says(` ${one.word} `, other.way, other.word);
    if (other.way === 'exact') return !says(` ${other.word} `, one.way, one.word);
    if (one.way !== 'begins' || other.way !== 'begins') return false;
    return !` ${one.word} `.startsWith(` ${other.word} `) && !` ${other.word} `.startsWith(` ${one.word} `);
  },
};
