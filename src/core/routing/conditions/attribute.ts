/** What is known of the sender under a name. */
import { z } from 'zod';
import type { ConditionKind } from './kind';

const TESTS = ['is', 'is-not', 'known', 'unknown', 'over', 'under'] as const;
type AttributeTest = (typeof TESTS)[number];

const schema = z.strictObject({
  on: z.literal('attribute'),
  name: z.string().max(200),
  test: z.enum(TESTS),
  value: z.string().max(200).optional(),
});

interface Fact {
  on: 'attribute';
  name: string;
  test: AttributeTest;
  value: string;
}

export const attribute: ConditionKind<z.infer<typeof schema>, Fact> = {
  on: 'attribute',
  label: 'an attribute',
  fresh: () => ({ on: 'attribute', name: '', test: 'is', value: '' }),
  fields: [
    {
      control: 'word',
      label: 'attribute',
      suggestions: ({ choices }) => choices.attributes,
      value: ({ name }) => name,
      set: (condition, name) => ({ ...condition, name }),
    },
    {
      control: 'choice',
      label: 'How it compares',
      options: () => [
        ['is', 'is'],
        ['is-not', 'is not'],
        ['over', 'is over'],
        ['under', 'is under'],
        ['known', 'is known'],
        ['unknown', 'is not known'],
      ],
      value: ({ test }) => test,
      set: (condition, test) => ({ ...condition, test: test as AttributeTest }),
    },
    {
      control: 'word',
      label: 'value',
      value: ({ value }) => value ?? '',
      set: (condition, value) => ({ ...condition, value }),
      when: ({ test }) => test !== 'known' && test !== 'unknown',
    },
  ],
  schema,
  words({ name, test, value = '' }) {
    const what = `the sender’s ${name || '…'}`;
    const how: Record<AttributeTest, string> = {
      is: `is ${value || '…'}`,
      'is-not': `is not ${value || '…'}`,
      known: 'is known',
      unknown: 'is not known',
      over: `is over ${value || '…'}`,
      under: `is under ${value || '…'}`,
    };
    return `${what} ${how[test]}`;
  },
  saw: ({ name }, { attributes }) => attributes[name]?.trim() || 'nothing',
  matcher: (condition) => (arrival) => fits(arrival.attributes[condition.name], condition),
  tellsPeopleFromMachines: false,
  atoms: ({ name, test, value = '' }) => [{ on: 'attribute', name, test, value }],
  /** An attribute that is a certain value answers every other test of it. */
  implies(one, other) {
    if (one.name !== other.name) return false;
    if (one.test === 'is') return one.value.trim() !== '' && fits(one.value, other);
    if (one.test === 'unknown') return fits('', other);
    const [mine, theirs] = [numberIn(one.value), numberIn(other.value)];
    if (one.test === 'over')
      return (
        other.test === 'known' ||
        (other.test === 'over' && mine >= theirs) ||
        (other.test === 'is-not' && mine >= theirs)
      );
    if (one.test === 'under')
      return (
        other.test === 'known' ||
        (other.test === 'under' && mine <= theirs) ||
        (other.test === 'is-not' && mine <= theirs)
      );
    return false;
  },
  excludes(one, other) {
    if (one.name !== other.name) return false;
    if (one.test === 'is' && one.value.trim() !== '') return !fits(one.value, other);
    if (other.test === 'is' && other.value.trim() !== '') return !fits(other.value, one);
    if (one.test === 'unknown' || other.test === 'unknown') {
      const test = one.test === 'unknown' ? other : one;
      return !fits('', test);
    }
    const [mine, theirs] = [numberIn(one.value), numberIn(other.value)];
    if (one.test === 'over' && other.test === 'under') return mine >= theirs;
    return one.test === 'under' && other.test === 'over' && theirs >= mine;
  },
  completes(denied, other) {
    if (denied.name !== other.name) return false;
    if (denied.test === 'known') return other.test === 'unknown' || other.test === 'is-not';
    if (denied.test === 'unknown') return other.test === 'known';
    if (denied.test === 'is-not')
      return other.test === 'is' && denied.value === other.value && denied.value.trim() !== '';
    return denied.test === 'is' && other.test === 'is-not' && denied.value === other.value;
  },
};

/** Whether what was found passes a test. Text is compared without case; what reads as a number on both sides, as numbers. */
function fits(found: string | undefined, { test, value = '' }: { test: AttributeTest; value?: string }): boolean {
  const text = found?.trim() ?? '';
  switch (test) {
    case 'known':
      return text !== '';
    case 'unknown':
      return text === '';
    case 'is':
      return text !== '' && sameValue(text, value);
    case 'is-not':
      return text === '' || !sameValue(text, value);
    case 'over':
      return numberIn(text) > numberIn(value);
    case 'under':
      return numberIn(text) < numberIn(value);
  }
}

/** NaN, which is neither over nor under anything, for what is no number. */
function numberIn(text: string): number {
  return /^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : Number.NaN;
}

function sameValue(one: string, other: string): boolean {
  const [a, b] = [numberIn(one), numberIn(other)];
  return Number.isNaN(a) || Number.isNaN(b) ? one.trim().toLowerCase() === other.trim().toLowerCase() : a === b;
}
