/** What must be proven again before a change of the set-up stays: hops, each of one or of any of several subjects, or the routes. */
import type { ChangedRow, ChangeTrace } from '../changeTrace';
import type { HopName } from './hops';
import type { Proof } from './proofs';

export type TrialNeed =
  | { kind: 'hop'; hop: HopName; anyOf: string[] }
  /** Something that came in was routed by this revision or a later one. */
  | { kind: 'routed'; revision: number };

/** Columns that people read and nothing works by. */
const NAMES = [
  'name',
  'team',
  'description',
  'changed_at',
  'changed_by',
  'default_country',
  'handed_over_at',
  'handed_over_how',
];

const ofChannel = (id: string, hops: readonly HopName[]): TrialNeed[] =>
  hops.map((hop) => ({ kind: 'hop', hop, anyOf: [id] }));

/** What works by a row of each table; the row is whole, with what it became. */
const TOUCHES: Readonly<
  Record<
    string,
    (
      row: Readonly<Record<string, unknown>>,
      channelsOf: (what: 'connector' | 'number', id: string) => string[],
    ) => TrialNeed[]
  >
> = {
  channels: ({ id }) => ofChannel(String(id), ['outbound', 'receipt']),
  numbers: ({ id }, channelsOf) =>
    channelsOf('number', String(id)).flatMap((channel) => ofChannel(channel, ['outbound'])),
  fallbackRules: ({ channel_id }) => ofChannel(String(channel_id), ['outbound']),
  subscriptions: ({ app_id }) => [{ kind: 'hop', hop: 'call-out', anyOf: [String(app_id)] }],
  apiKeys: ({ app_id }) => [{ kind: 'hop', hop: 'call-in', anyOf: [String(app_id)] }],
  hooks: ({ app_id }) => [{ kind: 'hop', hop: 'call-in', anyOf: [String(app_id)] }],
  routeRevisions: ({ number }) => [{ kind: 'routed', revision: Number(number) }],
  profiles: ({ id }, channelsOf) => {
    const channels = channelsOf('connector', String(id));
    const hops = ['outbound', 'receipt', 'inbound'] as const;
    return channels.length === 0 ? [] : hops.map((hop) => ({ kind: 'hop', hop, anyOf: channels }));
  },
};

/** Whether anything but what people read was changed. */
export function works({ before, after }: ChangedRow): boolean {
  return Object.keys(after ?? before ?? {}).some((column) => !NAMES.includes(column));
}

/**
 * What a change has to prove, each need once. `rowOf` gives the whole row a change is of; `applies` says whether a hop
 * can be proven at all.
 */
export function trialNeeds(
  trace: Pick<ChangeTrace, 'rows' | 'hops'>,
  given: {
    rowOf: (change: ChangedRow) => Readonly<Record<string, unknown>> | undefined;
    channelsOf: (what: 'connector' | 'number', id: string) => string[];
    applies: (subject: string, hop: HopName) => boolean;
  },
): TrialNeed[] {
  const told = trace.hops.flatMap(({ subject, hops }) => ofChannel(subject, hops));
  const touched = trace.rows.filter(works).flatMap((change) => {
    const row = given.rowOf(change);
    const needs = (row && TOUCHES[change.table]?.(row, given.channelsOf)) ?? [];
    // Where the change itself says which hops it touches, it knows better than its table.
    return needs.filter(
      (need) => need.kind !== 'hop' || !trace.hops.some(({ subject }) => need.anyOf.includes(subject)),
    );
  });
  const needs = [...told, ...touched].flatMap((need): TrialNeed[] => {
    if (need.kind !== 'hop') return [need];
    const anyOf = need.anyOf.filter((subject) => given.applies(subject, need.hop));
    return anyOf.length > 0 ? [{ ...need, anyOf }] : [];
  });
  return [...new Map(needs.map((need) => [JSON.stringify(need), need])).values()];
}

/** Whether evidence since a moment proves a hop. */
export function provesSince(proof: Proof | undefined, since: number): boolean {
  return proof?.state === 'proven' && (proof.evidenceAt ?? 0) >= since;
}
