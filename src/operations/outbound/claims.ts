/**
 * The way out, second half: the engine claims due texts, and takes over what an engine before it had claimed. What was
 * claimed and not noted when a process died is asked for again where the provider recognises our reference, and declared
 * uncertain elsewhere.
 */

import { standingAfter } from '../../core/delivery/lifecycle';
import { BULK_PRIORITY, isBulk, REPLY_PRIORITY } from '../../core/pacing/bulk';
import { createBatcher } from '../../store/batcher';
import type { MessageRow, OutboxRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import { type AppContext, found, noteChanges } from '../context';
import { appendMessageEvents, type NewMessageEvent, standingColumns } from '../messages';
import { syncProfiles } from '../profiles';
import { aloneAfterFailure, noteFailure } from '../workQueue';
import type { SendingLine, SendJob } from './handOver';
import { sendQueue } from './sendQueue';
import { withdrawDeclined, withdrawExpired } from './withdrawals';

export interface DueLine extends SendingLine {
  /** What is due is bulk, and nothing else. */
  bulkOnly: boolean;
}

/** Channels that have something due now, or the time at which the next one will. */
export async function dueChannels(ctx: AppContext): Promise<{ lines: DueLine[]; nextDueAt: number | undefined }> {
  const now = ctx.now();
  const waiting = await ctx.store.select<{ channel_id: string; due_at: number; top: number | null }>(
    `SELECT channel_id, min(due_at) AS due_at, max(CASE WHEN due_at <= :now THEN priority END) AS top
       FROM outbox WHERE state = 'due' GROUP BY channel_id`,
    { now },
  );
  const bulk = new Set(waiting.filter(({ top }) => top !== null && isBulk(top)).map(({ channel_id }) => channel_id));
  const due = waiting.filter((row) => row.due_at <= now).map((row) => row.channel_id);
  const later = waiting.filter((row) => row.due_at > now).map((row) => row.due_at);
  const nextDueAt = later.length > 0 ? Math.min(...later) : undefined;
  if (due.length === 0) return { lines: [], nextDueAt };
  await syncProfiles(ctx);
  // One channel or account whose row is damaged keeps no other from sending.
  const channels = await ctx.store.channels.readableBy('id', due);
  const [accounts, numbers] = await Promise.all([
    ctx.store.accounts.readableBy('id', [...new Set(channels.map((channel) => channel.account_id))]),
    ctx.store.numbers.readableBy(
      'id',
      channels.map((channel) => channel.number_id),
    ),
  ]);
  // What waits for an account that is switched off stays where it is.
  const lines = channels.flatMap((channel) => {
    const account = accounts.find((row) => row.id === channel.account_id && row.disabled_at === null);
    const number = numbers.find((row) => row.id === channel.number_id);
    if (!account || !number || !ctx.connectors.has(account.connector)) return [];
    return [
      { channel, account, number, connector: ctx.connectors.get(account.connector), bulkOnly: bulk.has(channel.id) },
    ];
  });
  return { lines, nextDueAt };
}

const NEXT_DUE = `SELECT message_id FROM outbox WHERE state = 'due' AND channel_id = :channel AND due_at <= :at
  AND priority >= :least ORDER BY priority DESC, due_at, message_id LIMIT :most`;

/** How many may be claimed now; `bulk`: of those how many may be bulk. */
export interface ClaimRoom {
  all: number;
  bulk: number;
}

/**
 * Claims up to `most` due texts of a channel: highest priority first, then oldest. The claim is on disk before anything is
 * sent. One that cannot be claimed, because its row cannot be read, keeps no other from being sent.
 */
export async function claimDue(ctx: AppContext, line: SendingLine, room: ClaimRoom, owner: string): Promise<SendJob[]> {
  const first = { most: room.all, least: REPLY_PRIORITY };
  const jobs = room.all > 0 ? await claimAtLeast(ctx, line, first, owner) : [];
  const left = room.bulk - jobs.length;
  return left > 0 ? [...jobs, ...(await claimAtLeast(ctx, line, { most: left, least: BULK_PRIORITY }, owner))] : jobs;
}

/** Up to so many of at least this priority. */
interface Claiming {
  most: number;
  least: number;
}

async function claimAtLeast(ctx: AppContext, line: SendingLine, claiming: Claiming, owner: string): Promise<SendJob[]> {
  try {
    return await claim(ctx, line, claiming, owner);
  } catch (error) {
    if (isStoreTrouble(error)) throw error;
    const due = { channel: line.channel.id, at: ctx.now(), ...claiming };
    const ids = (await ctx.store.select<{ message_id: string }>(NEXT_DUE, due)).map(({ message_id }) => message_id);
    return (await aloneAfterFailure(ctx, sendQueue, ids, (some) => claim(ctx, line, claiming, owner, some))).flat();
  }
}

/** In one unit: all that are due, or of these `only`. */
function claim(
  ctx: AppContext,
  line: SendingLine,
  claiming: Claiming,
  owner: string,
  only?: readonly string[],
): Promise<SendJob[]> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const entries = await unit.select<OutboxRow>(
      `UPDATE outbox SET state = 'leased', lease_owner = :owner, leased_at = :at, attempts = attempts + 1,
              first_attempt_at = coalesce(first_attempt_at, :at)
        WHERE state = 'due' AND message_id IN ${only ? '(:only)' : `(${NEXT_DUE})`}
       RETURNING *`,
      only ? { owner, at, only: [...only] } : { owner, at, channel: line.channel.id, ...claiming },
    );
    if (entries.length === 0) return [];
    const account = line.account.id;
    // The channel as it was read may have moved to another account since: what is claimed is what this account sends.
    const here = await unit.channels.one({ id: line.channel.id, account_id: account });
    if (!here) {
      await letGo(unit, entries);
      return [];
    }
    const elsewhere = entries.filter(({ tried_with }) => tried_with !== null && tried_with !== account);
    await leaveWithOther(unit, elsewhere, at);
    await unit.outbox.change(
      { message_id: entries.map(({ message_id }) => message_id), state: 'leased' },
      { tried_with: account },
    );
    entries.sort(byTurn);
    const gone = new Set([
      ...elsewhere.map(({ message_id }) => message_id),
      ...(await withdrawDeclined(unit, line.channel, entries, at)),
      ...(await withdrawExpired(unit, entries, at)),
    ]);
    const going = entries.filter((entry) => !gone.has(entry.message_id));
    const messages = await appendMessageEvents(
      unit,
      going.map((entry) => ({ message_id: entry.message_id, kind: 'attempted', at, attempt: entry.attempts })),
      at,
    );
    return going.map((entry) => ({ line, entry, message: found(messages.get(entry.message_id), 'message') }));
  });
}

/** As if they had not been claimed. */
async function letGo(unit: Unit, entries: readonly OutboxRow[]): Promise<void> {
  for (const { message_id, attempts, first_attempt_at, leased_at } of entries)
    await unit.outbox.change(
      { message_id },
      {
        state: 'due',
        lease_owner: null,
        leased_at: null,
        attempts: attempts - 1,
        first_attempt_at: first_attempt_at === leased_at ? null : first_attempt_at,
      },
    );
}

/** What an account may have that no longer sends for the channel is not sent through another: its outcome is not known. */
async function leaveWithOther(unit: Unit, entries: readonly OutboxRow[], at: number): Promise<void> {
  if (entries.length === 0) return;
  const ids = entries.map(({ message_id }) => message_id);
  await unit.outbox.change({ message_id: ids }, { state: 'uncertain', lease_owner: null, leased_at: null });
  await appendMessageEvents(
    unit,
    entries.map(({ message_id, attempts }) => ({
      message_id,
      kind: 'uncertain',
      at,
      attempt: attempts,
      cause: 'outcome-unknown',
      detail: { said: 'the number moved to another account after the attempt' },
    })),
    at,
  );
}

/** What is returned by an UPDATE comes in no certain order. */
function byTurn(a: OutboxRow, b: OutboxRow): number {
  return b.priority - a.priority || a.due_at - b.due_at || (a.message_id < b.message_id ? -1 : 1);
}
interface TakenOver {
  resumed: number;
  uncertain: number;
}

/**
 * Takes over claims nobody works on: at start all of an engine that is gone; later, with `held` (messages that are being
 * worked on), those whose answer could not be noted. `why` says what of the message itself kept it from being noted, which
 * counts as a failure at it. One that cannot be taken over is left, and keeps no other.
 */
export async function recoverClaims(
  ctx: AppContext,
  { held = new Set(), why }: { held?: ReadonlySet<string>; why?: (messageId: string) => unknown } = {},
): Promise<TakenOver> {
  await syncProfiles(ctx, true);
  const leased = await ctx.store.outbox.all({ state: 'leased' });
  const lost = leased.map(({ message_id }) => message_id).filter((id) => !held.has(id));
  if (lost.length === 0) return { resumed: 0, uncertain: 0 };
  const takeOver = createBatcher(async (ids: string[]) => takeOverClaims(ctx, ids), lost.length);
  const outcomes = await Promise.all(
    lost.map(async (id) => {
      try {
        const outcome = await takeOver(id);
        const reason = why?.(id);
        if (outcome === 'resumed' && reason !== undefined) await noteFailure(ctx, sendQueue, id, reason);
        return outcome;
      } catch (error) {
        if (isStoreTrouble(error)) throw error;
        return leaveClaim(ctx, id, error);
      }
    }),
  );
  return {
    resumed: outcomes.filter((each) => each === 'resumed').length,
    uncertain: outcomes.filter((each) => each === 'uncertain').length,
  };
}

interface Claim {
  id: string;
  attempts: number;
  /** Of its message; null where that is gone. */
  state: MessageRow['state'] | null;
  connector: string | null;
}

/** What decides about claims, without any document that may be damaged: of what was handed over nothing is sent again for that. */
function readClaims(from: Pick<Unit, 'select'>, ids: readonly string[]): Promise<Claim[]> {
  return from.select<Claim>(
    `SELECT o.message_id AS id, o.attempts, m.state, a.connector FROM outbox o
       LEFT JOIN messages m ON m.id = o.message_id LEFT JOIN channels c ON c.id = o.channel_id
       LEFT JOIN provider_accounts a ON a.id = coalesce(o.tried_with, c.account_id) WHERE o.message_id IN (:ids)`,
    { ids: [...ids] },
  );
}

/** Whether the provider tells a repeated reference from a new text. A profile this version cannot read promises nothing. */
function asksAgain(ctx: AppContext, connector: string | null | undefined): boolean {
  return connector !== null && connector !== undefined && ctx.connectors.has(connector)
    ? ctx.connectors.get(connector).honoursReference
    : false;
}

/** A claim whose message cannot be read is tried again where that is safe; elsewhere it may be out there already, and waits for a person. */
async function leaveClaim(ctx: AppContext, id: string, error: unknown): Promise<'uncertain' | undefined> {
  const [claim] = await readClaims(ctx.store, [id]);
  if (!claim || asksAgain(ctx, claim.connector)) {
    await noteFailure(ctx, sendQueue, id, error);
    return undefined;
  }
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const event = { kind: 'uncertain' as const, at, attempt: claim.attempts, cause: 'outcome-unknown' as const };
    await unit.outbox.change({ message_id: id }, { state: 'uncertain', lease_owner: null, leased_at: null });
    await unit.events.insert([
      { ...event, message_id: id, recorded_at: at, detail: null, exchange_id: null, inbound_request_id: null },
    ]);
    await unit.messages.change({ id }, standingColumns(standingAfter(event)));
    await noteChanges(unit, at, [['message', id]]);
  });
  ctx.log.error({ err: error, message: id }, 'a text that was handed over cannot be read; its outcome is not known');
  return 'uncertain';
}

/** In one unit: asked again where the provider recognises our reference, uncertain elsewhere. */
function takeOverClaims(ctx: AppContext, ids: readonly string[]): Promise<('settled' | 'resumed' | 'uncertain')[]> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const claims = new Map((await readClaims(unit, ids)).map((claim) => [claim.id, claim]));
    const events: NewMessageEvent[] = [];
    const outcomes: ('settled' | 'resumed' | 'uncertain')[] = [];
    for (const message_id of ids) {
      const claim = claims.get(message_id);
      const attempt = claim?.attempts;
      if (claim?.state !== 'sending') {
        // A receipt told the outcome while nobody was there to note the answer.
        await unit.outbox.remove({ message_id });
        outcomes.push('settled');
      } else if (asksAgain(ctx, claim.connector)) {
        await unit.outbox.change({ message_id }, { state: 'due', due_at: at, lease_owner: null, leased_at: null });
        const detail = { said: 'the answer was not noted; asked again with the same reference', unknown: true };
        events.push({ message_id, kind: 'deferred', at, attempt, detail });
        outcomes.push('resumed');
      } else {
        await unit.outbox.change({ message_id }, { state: 'uncertain', lease_owner: null, leased_at: null });
        events.push({ message_id, kind: 'uncertain', at, attempt, cause: 'outcome-unknown' });
        outcomes.push('uncertain');
      }
    }
    await appendMessageEvents(unit, events, at);
    return outcomes;
  });
}
