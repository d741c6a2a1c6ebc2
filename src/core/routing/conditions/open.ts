/** How many records of the sender's are open in an app, which is asked when it has to be. */
import { z } from 'zod';
import type { ConditionKind } from './kind';

const COUNTS = ['none', 'one', 'several', 'unknown'] as const;
/** `unknown`: the app did not say. */
type OpenCount = (typeof COUNTS)[number];

const schema = z.strictObject({
  on: z.literal('open'),
  app: z.string().max(80),
  record: z.string().max(200),
  count: z.enum(COUNTS),
});

const COUNT_WORDS: Record<OpenCount, string> = {
  none: 'has no open',
  one: 'has one open',
  several: 'has several open',
  unknown: 'could not be looked up:',
};

export const open: ConditionKind<z.infer<typeof schema>, { on: 'open'; key: string; count: OpenCount }> = {
  on: 'open',
  label: 'open tickets',
  fresh: ({ choices }) => ({ on: 'open', ...appRecord(choices.counted[0]?.[0]), count: 'none' }),
  fields: [
    {
      control: 'choice',
      label: 'Counted where',
      options: ({ choices }) => choices.counted,
      value: recordKey,
      set: (condition, pair) => ({ ...condition, ...appRecord(pair) }),
    },
    {
      control: 'choice',
      label: 'How many',
      options: () => [
        ['none', 'none is open'],
        ['one', 'one is open'],
        ['several', 'several are open'],
        ['unknown', 'the app does not say'],
      ],
      value: ({ count }) => count,
      set: (condition, count) => ({ ...condition, count: count as OpenCount }),
    },
  ],
  schema,
  words: ({ app, record, count }, names) =>
    count === 'unknown'
      ? `the look-up of ${names.record(app, record)} fails`
      : `the sender ${COUNT_WORDS[count]} ${names.record(app, record)}`,
  saw(condition, arrival) {
    const count = arrival.open[recordKey(condition)];
    if (count === undefined) return 'not asked yet';
    return count === 'failed' ? 'the app did not say' : `${count} open (${countWord(count)})`;
  },
  matcher(condition) {
    const key = recordKey(condition);
    return (arrival) => {
      const count = arrival.open[key];
      return count === undefined ? undefined : countWord(count) === condition.count;
    };
  },
  recordsNeeded: recordKey,
  tellsPeopleFromMachines: false,
  atoms: (condition) => [{ on: 'open', key: recordKey(condition), count: condition.count }],
  excludes: (one, other) => one.key === other.key && one.count !== other.count,
  alternatives: ({ key }) => COUNTS.map((count) => ({ on: 'open', key, count })),
};

/** The key an arrival's open records are kept under. */
function recordKey({ app, record }: { app: string; record: string }): string {
  return `${app} ${record}`;
}

function appRecord(pair = ' '): { app: string; record: string } {
  const [app = '', record = ''] = pair.split(' ');
  return { app, record };
}

function countWord(count: number | 'failed'): OpenCount {
  if (count === 'failed') return 'unknown';
  return count === 0 ? 'none' : count === 1 ? 'one' : 'several';
}
