/**
 * Where on its way a message was last and has not been next: places in order, what is known of each, and the
 * segment between the last that has it and the first that has not. The segment is known before any cause is.
 */

/** The places of a way, in order; a message goes from each to the next. */
export const WAYS = {
  out: ['asker', 'windgap', 'provider', 'phone', 'person'],
  in: ['person', 'provider', 'door', 'windgap', 'app', 'screen'],
} as const;

export type Way = keyof typeof WAYS;
export type Place = (typeof WAYS)[Way][number];

/** What is known of one place: that it has the message, that it has not, or neither. */
export interface Known {
  place: Place;
  has: boolean | undefined;
  /** How it is known, as a sentence without a full stop. */
  said: string;
  /** Epoch milliseconds of the evidence. */
  at?: number;
  href?: string;
}

export interface Segment {
  way: Way;
  /** The last place known to have it; undefined where none is. */
  from?: Place;
  /** The first after it that has it not, or, where `sure` is false, of which nothing is known. */
  to?: Place;
  /** Whether the place at the end is known to have it not. */
  sure: boolean;
  /** Every place has it as far as anybody can tell. */
  whole: boolean;
  /** A place that has it after one that has not: one of the two is wrong. */
  contradiction?: { has: Place; hasNot: Place };
}

/** The segment a way ends in. Places that nothing is said of are not known. */
export function locate(way: Way, known: readonly Known[]): Segment {
  const order = WAYS[way] as readonly Place[];
  const has = (place: Place) => known.find((each) => each.place === place)?.has;
  const lastYes = order.findLastIndex((place) => has(place) === true);
  const firstNo = order.findIndex((place) => has(place) === false);
  if (firstNo >= 0 && lastYes > firstNo) {
    const before = order.slice(0, firstNo).findLastIndex((place) => has(place) === true);
    return {
      way,
      ...(before >= 0 ? { from: order[before] as Place } : {}),
      to: order[firstNo] as Place,
      sure: false,
      whole: false,
      contradiction: { has: order[lastYes] as Place, hasNot: order[firstNo] as Place },
    };
  }
  const from = lastYes >= 0 ? { from: order[lastYes] as Place } : {};
  if (firstNo >= 0) return { way, ...from, to: order[firstNo] as Place, sure: true, whole: false };
  // Beyond the phone and the app’s screen nobody but the person can look.
  const last = lastObservable(way);
  const next = order[lastYes + 1];
  return { way, ...from, ...(next ? { to: next } : {}), sure: false, whole: lastYes >= last };
}

function lastObservable(way: Way): number {
  return (WAYS[way] as readonly Place[]).indexOf(way === 'out' ? 'phone' : 'app');
}

/** Whether what lies between these two places of a way lies inside the segment. */
export function isInside({ way, from, to }: Segment, between: readonly [Place, Place]): boolean {
  const order = WAYS[way] as readonly Place[];
  const [start, end] = between.map((place) => order.indexOf(place)) as [number, number];
  const first = from ? order.indexOf(from) : 0;
  const last = to ? order.indexOf(to) : order.length - 1;
  return start >= 0 && end >= 0 && end > first && start < last;
}

export interface Names {
  provider: string;
  app: string;
  channel: string;
}

/** Whom a segment belongs to, and so who can look. */
export type Owner = 'asker' | 'windgap' | 'provider' | 'network' | 'phone' | 'app' | 'people between';

/** Who answers for the way from the first of two neighbours to the second. */
const OWNERS: Readonly<Record<Way, Readonly<Partial<Record<Place, Owner>>>>> = {
  out: { windgap: 'asker', provider: 'people between', phone: 'provider', person: 'phone' },
  in: { provider: 'network', door: 'provider', windgap: 'windgap', app: 'people between', screen: 'app' },
};

/** The owner of a segment: of its last step, since that is what did not happen; undefined where it has none. */
export function ownerOf({ way, to }: Segment): Owner | undefined {
  return to && OWNERS[way][to];
}

/** A place as people call it, by the names the administrator gave. */
export function placeName(place: Place, { provider, app, channel }: Names): string {
  const names: Record<Place, string> = {
    asker: 'whoever asked for it',
    windgap: 'Windgap',
    provider,
    phone: 'the phone',
    person: 'the person',
    door: `the inbound address of ${channel}`,
    app,
    screen: `what ${app} shows`,
  };
  return names[place];
}

/** The segment as one sentence without a full stop, which claims no more than is known. */
export function segmentWords(segment: Segment, names: Names): string {
  const { from, to, sure, contradiction } = segment;
  const name = (place: Place) => placeName(place, names);
  if (contradiction)
    return `${upper(name(contradiction.has))} is said to have it and ${name(contradiction.hasNot)} has not, so one of the two says what is not so`;
  if (from && to && sure) return `${upper(name(from))} has it and ${name(to)} has not: the fault is between the two`;
  if (from && to) return `${upper(name(from))} has it; whether ${name(to)} has is not known`;
  if (to && sure) return `It has not come as far as ${name(to)}; where before that it is, is not known`;
  return 'Nothing on the way is known to have it';
}

const upper = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);
