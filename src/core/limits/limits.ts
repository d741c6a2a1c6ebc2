/**
 * What keeps an installation from being used to text strangers at the organisation's cost: limits on how much goes to one
 * place, by one app, in one day, and what counts as an unusual rise. Pure: counts are given.
 */

/** What is counted together. */
export type CountedBy = 'recipient' | 'range' | 'country' | 'app' | 'visitor' | 'codes' | 'all' | 'spend';

export interface Limit {
  name: string;
  /** Such as “to one number in an hour”, after an amount. */
  words: string;
  help: string;
  by: CountedBy;
  hours: 1 | 24;
  /** Where nobody has set any; null: none. */
  usual: number | null;
  /** Texts, each part counted, codes asked for, or units of money. */
  unit: 'texts' | 'codes' | 'money';
  /** Above the amount and far above what is usual, what nobody pressed a button for is held. */
  rise?: true;
}

export const LIMITS = [
  {
    name: 'recipient-hour',
    words: 'to one number in an hour',
    help: 'A lively conversation stays below it.',
    by: 'recipient',
    hours: 1,
    usual: 40,
    unit: 'texts',
  },
  {
    name: 'recipient-day',
    words: 'to one number in a day',
    help: 'Over all channels and apps.',
    by: 'recipient',
    hours: 24,
    usual: 120,
    unit: 'texts',
  },
  {
    name: 'range-hour',
    words: 'to one range of 10,000 numbers in an hour',
    help: 'Whoever earns by texts sent to them holds numbers in a row.',
    by: 'range',
    hours: 1,
    usual: 600,
    unit: 'texts',
  },
  {
    name: 'country-day',
    words: 'to one country abroad in a day',
    help: 'Countries in which you have no number of your own.',
    by: 'country',
    hours: 24,
    usual: 2000,
    unit: 'texts',
  },
  {
    name: 'app-hour',
    words: 'by one app in an hour',
    help: 'An app in a loop, or one whose key was taken, stops here.',
    by: 'app',
    hours: 1,
    usual: 20_000,
    unit: 'texts',
  },
  {
    name: 'day',
    words: 'altogether in a day',
    help: 'Everything that costs, over all channels.',
    by: 'all',
    hours: 24,
    usual: null,
    unit: 'texts',
  },
  {
    name: 'spend-day',
    words: 'altogether in a day, by the price lists',
    help: 'Counts what the price lists of the accounts say, in each currency by itself.',
    by: 'spend',
    hours: 24,
    usual: null,
    unit: 'money',
  },
  {
    name: 'codes-hour',
    words: 'to one number in an hour',
    help: 'Each code can be tried five times.',
    by: 'codes',
    hours: 1,
    usual: 5,
    unit: 'codes',
  },
  {
    name: 'codes-day',
    words: 'to one number in a day',
    help: 'Whoever gets codes they did not ask for is left in peace.',
    by: 'codes',
    hours: 24,
    usual: 10,
    unit: 'codes',
  },
  {
    name: 'visitor-hour',
    words: 'asked for by one visitor’s address in an hour',
    help: 'A web chat texts a code to the number that a visitor leaves.',
    by: 'visitor',
    hours: 1,
    usual: 3,
    unit: 'codes',
  },
  {
    name: 'rise-range',
    words: 'to one range in an hour',
    help: 'And four times the most of any hour in 14 days. What people send themselves is not held.',
    by: 'range',
    hours: 1,
    usual: 60,
    unit: 'texts',
    rise: true,
  },
  {
    name: 'rise-country',
    words: 'to one country abroad in an hour',
    help: 'And four times the most of any hour in 14 days. What people send themselves is not held.',
    by: 'country',
    hours: 1,
    usual: 60,
    unit: 'texts',
    rise: true,
  },
] as const satisfies readonly Limit[];

export type LimitName = (typeof LIMITS)[number]['name'];

export function limitNamed(name: LimitName): Limit {
  return LIMITS.find((limit) => limit.name === name) as Limit;
}

/** Amounts by limit; null: none. Money in micro-units. */
export type Amounts = Readonly<Record<LimitName, number | null>>;

export const USUAL_AMOUNTS = Object.fromEntries(LIMITS.map(({ name, usual }) => [name, usual])) as Record<
  LimitName,
  number | null
>;

/** What one order adds to: `subject` is the number, the range, the country, the app, the visitor, the currency. */
export interface Count {
  by: CountedBy;
  subject: string;
  amount: number;
}

export interface Used {
  hour: number;
  day: number;
}

export function countKey({ by, subject }: Pick<Count, 'by' | 'subject'>): string {
  return `${by} ${subject}`;
}

export interface Stop {
  limit: LimitName;
  subject: string;
  /** What the limit was. */
  most: number;
}

/**
 * The first limit that an order would break, given what was used before it; undefined when it breaks none. `lifted`
 * says for which limit and subject somebody has lifted it for now.
 */
export function brokenLimit(
  counts: readonly Count[],
  used: ReadonlyMap<string, Used>,
  amounts: Amounts,
  lifted: (limit: LimitName, subject: string) => boolean = () => false,
): Stop | undefined {
  for (const { name, by, hours, ...limit } of LIMITS as readonly (Limit & { name: LimitName })[]) {
    const most = amounts[name];
    if (limit.rise || most === null) continue;
    for (const count of counts) {
      if (count.by !== by || lifted(name, count.subject)) continue;
      const before = used.get(countKey(count))?.[hours === 1 ? 'hour' : 'day'] ?? 0;
      if (before + count.amount > most) return { limit: name, subject: count.subject, most };
    }
  }
  return undefined;
}

/** How much more than any hour before is unusual. */
const RISE = 4;

/** Places whose count of this hour, with the order, is above what is set for a rise: to be compared with what was usual. */
export function possibleRises(
  counts: readonly Count[],
  used: ReadonlyMap<string, Used>,
  amounts: Amounts,
  lifted: (limit: LimitName, subject: string) => boolean = () => false,
): (Stop & { hour: number })[] {
  return (LIMITS as readonly (Limit & { name: LimitName })[]).flatMap(({ name, by, rise }) => {
    const most = amounts[name];
    if (!rise || most === null) return [];
    return counts
      .filter((count) => count.by === by && !lifted(name, count.subject))
      .map((count) => ({ count, hour: (used.get(countKey(count))?.hour ?? 0) + count.amount }))
      .filter(({ hour }) => hour > most)
      .map(({ count, hour }) => ({ limit: name, subject: count.subject, most, hour }));
  });
}

/** `busiest`: the most of any hour of the 14 days before. */
export function isRise(hour: number, busiest: number): boolean {
  return hour > RISE * busiest;
}

/** The fewest codes that say something, and the share of them that is confirmed where people ask for them. */
const CODES = { range: { fewest: 8, share: 0.1 }, country: { fewest: 20, share: 0.2 } } as const;

/**
 * Whether codes to one place look asked for by nobody: `decided` of them ran out or were confirmed, `confirmed` of those
 * by somebody who read them. People who ask for a code type it in; whoever earns by the texts does not.
 */
export function codesUnread(place: keyof typeof CODES, decided: number, confirmed: number): boolean {
  const { fewest, share } = CODES[place];
  return decided >= fewest && confirmed / decided < share;
}
