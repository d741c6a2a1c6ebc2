/** What has become of a broadcast so far, read from its counts: the same work for twenty people as for two hundred thousand. */

import { countryName } from '../../core/addresses/display';
import type { Outcomes, Surroundings } from '../../core/broadcast/course';
import { cause, isCauseCode } from '../../core/delivery/causes';
import type { BroadcastCountRow, BroadcastRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Sql } from '../../store/store';

type From = Sql & Pick<Tables, 'broadcastCounts' | 'broadcastAnswers' | 'channels' | 'accounts'>;

/** Nothing sooner counts as missing, and nothing later is waited for, whatever is usual here. */
const LEAST_DELAY = 60_000;
const USUAL_DELAY = 10 * 60_000;
const MOST_DELAY = 60 * 60_000;
/** Latest delivered messages of a channel that say how long receipts take. */
const LOOKED_AT = 200;
/** More than this many silent ones say no more. */
const MOST_SILENT = 5000;

/** `whole`: since it began, and not since somebody resumed it. */
export async function outcomesOf(
  from: From,
  { id, definition, judged_from }: Pick<BroadcastRow, 'id' | 'definition' | 'judged_from'>,
  now: number,
  whole = false,
  receiptsOf: (channelIds: readonly string[]) => Promise<boolean> = async () => true,
): Promise<Outcomes> {
  const counts = await from.broadcastCounts.all({ broadcast_id: id });
  const answers = await from.broadcastAnswers.all({ broadcast_id: id, what: 'opted_out_at' });
  const before = whole ? null : judged_from;
  const of = (...states: string[]) => counts.reduce((sum, { state, n }) => (states.includes(state) ? sum + n : sum), 0);
  const receipts = await receiptsOf(definition.channels);
  return {
    waiting: of('queued', 'sending'),
    sent: Math.max(0, of('sent') - (receipts ? 0 : (before?.sent ?? 0))),
    delivered: of('delivered', 'read') - (before?.delivered ?? 0),
    failed: of('failed') - (before?.failed ?? 0),
    uncertain: of('uncertain'),
    optedOut: answers.reduce((sum, { n }) => sum + n, 0) - (before?.optedOut ?? 0),
    silent: receipts ? await silentOf(from, id, definition.channels, now) : 0,
    receipts,
    countries: countriesOf(counts).map((each) => {
      const known = before?.countries[each.country];
      return { ...each, known: each.known - (known?.known ?? 0), failed: each.failed - (known?.failed ?? 0) };
    }),
  };
}

function countriesOf(
  counts: readonly BroadcastCountRow[],
): { country: string; known: number; failed: number; cause?: string }[] {
  const countries = new Map<string, { known: number; failed: number; causes: Map<string, number> }>();
  for (const { state, country, reason, n } of counts) {
    if (country === '' || !['delivered', 'read', 'failed'].includes(state) || n === 0) continue;
    const entry = countries.get(country) ?? { known: 0, failed: 0, causes: new Map() };
    countries.set(country, entry);
    entry.known += n;
    if (state !== 'failed') continue;
    entry.failed += n;
    entry.causes.set(reason, (entry.causes.get(reason) ?? 0) + n);
  }
  return [...countries].map(([country, { known, failed, causes }]) => {
    const [most] = [...causes].sort(([, a], [, b]) => b - a);
    const said = most && isCauseCode(most[0]) ? cause(most[0]).title.toLowerCase() : undefined;
    return { country: countryName(country), known, failed, ...(said ? { cause: said } : {}) };
  });
}

/** Those accepted longer ago than receipts usually take on their channel. */
async function silentOf(from: From, id: string, channels: readonly string[], now: number): Promise<number> {
  let silent = 0;
  for (const channel of channels) {
    const [row] = await from.select<{ n: number }>(
      `SELECT count(*) AS n FROM (SELECT 1 FROM broadcast_recipients r JOIN messages m ON m.id = r.message_id
         WHERE r.broadcast_id = :id AND r.state = 'sent' AND r.channel_id = :channel AND m.state_at < :before
         LIMIT ${MOST_SILENT})`,
      { id, channel, before: now - (await usualDelay(from, channel)) },
    );
    silent += row?.n ?? 0;
  }
  return silent;
}

/** Twice what all but one in twenty of the latest receipts took. */
async function usualDelay(from: From, channel: string): Promise<number> {
  const rows = await from.select<{ ms: number }>(
    `SELECT state_at - created_at AS ms FROM messages
      WHERE channel_id = :channel AND direction = 'out' AND state = 'delivered' ORDER BY id DESC LIMIT ${LOOKED_AT}`,
    { channel },
  );
  if (rows.length < 10) return USUAL_DELAY;
  const sorted = rows.map(({ ms }) => ms).sort((a, b) => a - b);
  const late = sorted[Math.floor(sorted.length * 0.95)] ?? USUAL_DELAY;
  return Math.min(Math.max(2 * late, LEAST_DELAY), MOST_DELAY);
}

/** Credit that is left below the reserve, in words. */
export function balanceProblem(
  { plan }: Pick<BroadcastRow, 'plan'>,
  accounts: readonly { id: string; facts: { balance?: { micros: number; currency: string } } }[],
  reserve: number,
): Surroundings['balance'] {
  for (const { accountId, account, currency, balance } of plan?.credit ?? []) {
    const now = accounts.find(({ id }) => id === accountId)?.facts.balance;
    if (now?.currency === currency && now.micros <= balance * reserve)
      return `The balance of ${account} is at its reserve: ${(now.micros / 1e6).toFixed(2)} ${currency} are left.`;
  }
  return undefined;
}
