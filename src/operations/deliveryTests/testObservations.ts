/** What is seen of one round of a delivery test, at every end of the path. */

import type { CauseCode } from '../../core/delivery/causes';
import { beginningOfWords, type DeliveryTest, withRun } from '../../core/deliveryTest/deliveryTest';
import type { Round, Seen } from '../../core/deliveryTest/judge';
import { groupBy } from '../../core/groupBy';
import { timeId } from '../../store/ids';
import type { DeliveryTestRunRow, MessageRow } from '../../store/schema/rows';
import { credentialsOf } from '../apps/records';
import { CAUSE_OF_DELIVERY } from '../apps/webhooks';
import type { HandsetSight } from '../bench';
import type { AppContext } from '../context';

/** One round under way: what it did, and by what its own traces are told from all others. */
export interface RoundUnderWay {
  test: DeliveryTest;
  began: number;
  /** What was written or ordered, with this round's word in it. */
  text: string;
  /** The word; empty where the text has none. */
  word: string;
  refused?: Seen['refused'];
  /** The message that came in, once found. */
  inbound?: { id: string; at: number };
  /** Messages known to be its own from the beginning. */
  ordered: string[];
  /** Runs of automations that it set going. */
  runs: string[];
  /** The event it put into a calendar, by its uid. */
  event?: string;
  before: { records: Map<string, number>; present: { phone: string; text: string }[] };
  looked: Map<string, { now?: number; at: number }>;
}

type Sent = Pick<MessageRow, 'id' | 'recipient' | 'text' | 'state' | 'cause' | 'channel_id'> & {
  delivered_at: number | null;
};

/** Clocks of provider and handset run a little apart from ours. */
const TOLERANCE = 1500;
const RECORDS_EVERY = 1500;
/** A message that left so long before may still arrive during the round. */
const OTHERS_BEFORE = 5000;

export async function lookAt(
  ctx: AppContext,
  round: RoundUnderWay,
  handsets: ReadonlyMap<string, HandsetSight>,
): Promise<{ seen: Seen; messages: string[] }> {
  const { test, began } = round;
  if (test.stimulus.kind === 'text' && !round.inbound) round.inbound = await findInbound(ctx, round);
  if (round.event && round.runs.length === 0) round.runs.push(...(await remindersOf(ctx, round)));
  for (const run of round.runs.length > 0 ? await ctx.store.runs.allBy('id', round.runs) : [])
    for (const { ref, cause } of run.results) {
      if (ref?.startsWith('msg_') && !round.ordered.includes(ref)) round.ordered.push(ref);
      if (run.state === 'failed' && !round.refused)
        round.refused = { cause: cause ?? undefined, said: run.results.at(-1)?.said ?? 'it could not be done' };
    }
  const sent = await findSent(ctx, round);
  const seen: Seen = {
    began,
    now: ctx.now(),
    refused: round.refused,
    message: round.inbound,
    routing: await routingOf(ctx, round),
    sent: sent.map(({ id, recipient, text, state, cause, delivered_at }) => ({
      id,
      to: recipient,
      text,
      state,
      cause: cause ?? undefined,
      deliveredAt: delivered_at ?? undefined,
    })),
    arrivals: await arrivalsOf(ctx, round, sent, handsets),
    visible: [...handsets.keys()],
    told: await toldOf(ctx, round),
    records: await recordsOf(ctx, round),
    presentBefore: round.before.present,
  };
  return { seen, messages: [...(round.inbound ? [round.inbound.id] : []), ...sent.map(({ id }) => id)] };
}

/** Runs that remind of the round's event. */
async function remindersOf(ctx: AppContext, { test, began, event }: RoundUnderWay): Promise<string[]> {
  if (test.stimulus.kind !== 'event' || !event) return [];
  const rows = await ctx.store.select<{ id: string }>(
    `SELECT id FROM runs WHERE source = 'feed' AND source_id = :feed AND created_at >= :began AND instr(subject_id, :event) > 0`,
    { feed: test.stimulus.feed, began, event },
  );
  return rows.map(({ id }) => id);
}

async function findInbound(ctx: AppContext, { test, began, text }: RoundUnderWay): Promise<RoundUnderWay['inbound']> {
  if (test.stimulus.kind !== 'text') return undefined;
  const [row] = await ctx.store.select<{ id: string; at: number }>(
    `SELECT id, created_at AS at FROM messages WHERE channel_id = :channel AND direction = 'in' AND sender = :phone
        AND text = :text AND created_at >= :began ORDER BY id LIMIT 1`,
    { channel: test.stimulus.channel, phone: test.stimulus.phone, text, began: began - TOLERANCE },
  );
  return row;
}

/** Ids of what a run wrote to the installation before the engine ended in the middle of a round, and of the answers to it. */
export async function leftByBrokenRounds(ctx: AppContext, run: DeliveryTestRunRow, since: number): Promise<string[]> {
  const { stimulus } = run.content;
  if (stimulus.kind !== 'text') return [];
  const word = beginningOfWords(run.id);
  // A text without a word of the round is the same in each.
  const text = stimulus.text === withRun(stimulus.text, word) ? stimulus.text : '';
  const rows = await ctx.store.select<{ id: string }>(
    `WITH written AS (
       SELECT id FROM messages WHERE id >= :from AND +channel_id = :channel AND +direction = 'in' AND +sender = :phone
          AND (text = :text OR (:text = '' AND instr(text, :word) > 0)))
     SELECT id FROM written UNION SELECT id FROM messages WHERE in_reply_to IN (SELECT id FROM written)`,
    { from: timeId('msg', since), channel: stimulus.channel, phone: stimulus.phone, text, word },
  );
  return rows.map(({ id }) => id);
}

/** Answers to what came in, what was ordered, and what carries the round's word. */
async function findSent(ctx: AppContext, { inbound, ordered, word, test, began }: RoundUnderWay): Promise<Sent[]> {
  const phone = 'phone' in test.stimulus ? test.stimulus.phone : '';
  const ways = [
    ...(inbound ? ['m.in_reply_to = :inbound'] : []),
    ...(ordered.length > 0 ? ['m.id IN (SELECT value FROM json_each(:ordered))'] : []),
    ...(word && phone
      ? ["(m.recipient = :phone AND m.direction = 'out' AND m.created_at >= :began AND instr(m.text, :word) > 0)"]
      : []),
  ];
  if (ways.length === 0) return [];
  return ctx.store.select<Sent>(
    `SELECT m.id, m.recipient, m.text, m.state, m.cause, m.channel_id,
            (SELECT min(coalesce(e.recorded_at, e.at)) FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('delivered', 'read')) AS delivered_at
       FROM messages m WHERE ${ways.join(' OR ')} ORDER BY m.id`,
    { inbound: inbound?.id ?? '', ordered: JSON.stringify(ordered), word, phone, began: began - TOLERANCE },
  );
}

async function routingOf(ctx: AppContext, { inbound }: RoundUnderWay): Promise<Seen['routing']> {
  if (!inbound) return undefined;
  const row = await ctx.store.messageRoutings.one({ message_id: inbound.id });
  if (!row || row.outcome === 'asking') return undefined;
  return { outcome: row.outcome, routes: row.routes, ...(row.cause ? { cause: row.cause } : {}) };
}

/**
 * Texts on the handsets since the round began, less those that other messages of the installation
 * explain: nobody else's traffic is ever counted as this test's.
 */
async function arrivalsOf(
  ctx: AppContext,
  { began, test }: RoundUnderWay,
  sent: readonly Sent[],
  handsets: ReadonlyMap<string, HandsetSight>,
): Promise<Seen['arrivals'][number][]> {
  const looked = test.expectations.some(({ expect }) => ['arrives', 'once', 'silence'].includes(expect));
  if (!looked || handsets.size === 0) return [];
  const channels = new Map((await ctx.store.channels.all()).map(({ id, address }) => [id, address]));
  const own = new Set(sent.map(({ id }) => id));
  const others = (await sentTo(ctx, [...handsets.keys()], began - OTHERS_BEFORE)).filter(({ id }) => !own.has(id));
  const peers = new Set([
    ...sent.map(({ channel_id }) => channels.get(channel_id) ?? ''),
    ...('channel' in test.stimulus ? [channels.get(test.stimulus.channel) ?? ''] : []),
  ]);
  return [...handsets].flatMap(([phone, { entries }]) => {
    const here = entries.filter(
      ({ at, peer, text }) => at >= began && (peers.has(peer) || sent.some((message) => message.text === text)),
    );
    return [...groupBy(here, ({ text }) => text)].flatMap(([text, copies]) => {
      const foreign = others.filter((message) => message.recipient === phone && message.text === text).length;
      const expected = sent.some((message) => message.recipient === phone && message.text === text);
      // The first copy of what the test itself sent is its own, whoever else sent the same.
      const own = Math.max(copies.length - foreign, expected ? 1 : 0);
      return copies.slice(0, own).map(({ at }) => ({ phone, text, at }));
    });
  });
}

function sentTo(ctx: AppContext, phones: readonly string[], since: number) {
  return ctx.store.select<Pick<MessageRow, 'id' | 'recipient' | 'text'>>(
    `SELECT id, recipient, text FROM messages WHERE direction = 'out' AND created_at >= :since
        AND recipient IN (SELECT value FROM json_each(:phones))`,
    { since, phones: JSON.stringify(phones) },
  );
}

/** A text may have taken so long to arrive. */
const LONG_ON_ITS_WAY = 120_000;

/**
 * Texts from the installation's own numbers that no message of the installation explains: somebody or
 * something else writes the like of what is awaited. `handsets` as seen shortly before.
 */
export async function unexplained(
  ctx: AppContext,
  handsets: ReadonlyMap<string, HandsetSight>,
  since: number,
): Promise<Seen['presentBefore'][number][]> {
  if ([...handsets.values()].every(({ entries }) => entries.length === 0)) return [];
  const [channels, sent] = await Promise.all([
    ctx.store.channels.all(),
    sentTo(ctx, [...handsets.keys()], since - LONG_ON_ITS_WAY),
  ]);
  const own = new Set(channels.map(({ address }) => address));
  return [...handsets].flatMap(([phone, { entries }]) =>
    [
      ...groupBy(
        entries.filter(({ peer }) => own.has(peer)),
        ({ text }) => text,
      ),
    ].flatMap(([text, copies]) =>
      copies.length > sent.filter((message) => message.recipient === phone && message.text === text).length
        ? [{ phone, text }]
        : [],
    ),
  );
}

async function toldOf(ctx: AppContext, { inbound, test }: RoundUnderWay): Promise<Seen['told'][number][]> {
  if (!inbound || !test.expectations.some(({ expect }) => expect === 'told')) return [];
  const rows = await ctx.store.select<{
    app: string;
    delivered_at: number | null;
    body: string;
    cause: CauseCode | null;
  }>(
    `SELECT s.app_id AS app, d.delivered_at, d.body, ${CAUSE_OF_DELIVERY} AS cause FROM webhook_deliveries d
       JOIN webhook_subscriptions s ON s.id = d.subscription_id
      WHERE d.message_id = :message AND d.event_type = 'windgap.message.received'`,
    { message: inbound.id },
  );
  return rows.map(({ app, delivered_at, body, cause }) => ({
    app,
    at: delivered_at ?? undefined,
    body: JSON.parse(body) as unknown,
    cause: delivered_at === null ? (cause ?? undefined) : undefined,
  }));
}

export function recordKey({ app, record, phone }: { app: string; record: string; phone: string }): string {
  return `${app} ${record} ${phone}`;
}

/** How many records of a phone an app has now; undefined where it does not say. */
export async function countRecords(
  ctx: AppContext,
  { app, record, phone }: { app: string; record: string; phone: string },
): Promise<number | undefined> {
  const account = await ctx.store.appAccounts.one({ app_id: app });
  if (!account) return undefined;
  const connector = ctx.apps.get(account.connector);
  const type = connector.records.find(({ id }) => id === record);
  const credentials = credentialsOf(ctx, account);
  if (type?.countable) {
    const counted = await connector.countOpen(credentials, record, phone);
    return counted.ok ? counted.value : undefined;
  }
  const look = await connector.find(credentials, record, phone);
  return look.ok ? (look.value ? 1 : 0) : undefined;
}

async function recordsOf(ctx: AppContext, round: RoundUnderWay): Promise<Seen['records'][number][]> {
  const found: Seen['records'][number][] = [];
  for (const each of round.test.expectations) {
    if (each.expect !== 'record') continue;
    const key = recordKey(each);
    const known = round.looked.get(key);
    const before = round.before.records.get(key);
    const settled = known?.now !== undefined && before !== undefined && known.now > before;
    if (!settled && (!known || ctx.now() - known.at > RECORDS_EVERY))
      round.looked.set(key, { now: await countRecords(ctx, each), at: ctx.now() });
    const look = round.looked.get(key);
    found.push({ app: each.app, record: each.record, phone: each.phone, before, now: look?.now, at: look?.at });
  }
  return found;
}

export function asRound(round: RoundUnderWay, verdicts: Round['verdicts'], messages: string[], ended?: number): Round {
  return {
    began: round.began,
    ...(ended === undefined ? {} : { ended }),
    verdicts,
    messages,
    ...(round.refused ? { refused: round.refused.said } : {}),
  };
}
