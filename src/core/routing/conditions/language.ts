/** The language the sender reads. */
import { z } from 'zod';
import { sameLanguage } from '../../templates/mapping';
import { list } from '../names';
import type { ConditionKind } from './kind';

const schema = z.strictObject({ on: z.literal('language'), tags: z.array(z.string().max(20)).max(20).readonly() });

export const language: ConditionKind<z.infer<typeof schema>, { on: 'language'; tag: string }> = {
  on: 'language',
  label: 'the language',
  fresh: ({ choices }) => ({ on: 'language', tags: choices.languages.slice(0, 1) }),
  fields: [
    {
      control: 'words',
      label: 'language tags',
      value: ({ tags }) => tags,
      set: (condition, tags) => ({ ...condition, tags }),
    },
  ],
  schema,
  words: ({ tags }, names) => `the sender reads ${list(tags.map(names.language))}`,
  saw: (_, arrival, __, names) => (arrival.language ? names.language(arrival.language) : 'no language'),
  matcher:
    ({ tags }) =>
    (arrival) => {
      const read = arrival.language;
      return read !== undefined && tags.some((tag) => sameLanguage(tag, read));
    },
  tellsPeopleFromMachines: false,
  atoms: ({ tags }) => tags.map((tag) => ({ on: 'language', tag })),
  // Which of two tags a language fits turns on the primary subtag alone.
  implies: (one, other) => sameLanguage(one.tag, other.tag),
  excludes: (one, other) => !sameLanguage(one.tag, other.tag),
};
