/**
 * Messages that are taken out of the outbox when their turn comes: to people who declined meanwhile, and those of no use any
 * more; and those that are kept back at the last moment, because their broadcast was held or cancelled.
 */
import { channelKind } from '../../core/connect/channelKinds';
import type { CauseCode } from '../../core/delivery/causes';
import type { ChannelRow, OutboxRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import type { AppContext } from '../context';
import { appendMessageEvents } from '../messages';
import type { SendJob } from './handOver';

/** Whoever declined while a text waited does not get it. Returns the messages that go nowhere. */
export async function withdrawDeclined(
  unit: Unit,
  channel: ChannelRow,
  entries: readonly OutboxRow[],
  at: number,
): Promise<Set<string>> {
  const rows = await unit.select<{ id: string }>(
    `SELECT m.id FROM messages m JOIN contact_consents c ON c.contact_id = m.contact_id AND c.way = :way AND c.state = 'withdrawn'
      WHERE m.id IN (:ids) AND m.origin_kind <> 'consent'`,
    { way: channelKind(channel.kind).consent, ids: entries.map(({ message_id }) => message_id) },
  );
  return withdraw(unit, entries, new Set(rows.map(({ id }) => id)), 'opted-out', at);
}

/** What is of no use any more is not sent. Returns those that go nowhere. */
export async function withdrawExpired(unit: Unit, entries: readonly OutboxRow[], at: number): Promise<Set<string>> {
  const rows = await unit.select<{ id: string }>(
    'SELECT id FROM messages WHERE id IN (:ids) AND valid_until IS NOT NULL AND valid_until <= :at',
    { ids: entries.map(({ message_id }) => message_id), at },
  );
  return withdraw(unit, entries, new Set(rows.map(({ id }) => id)), 'no-longer-useful', at);
}

async function withdraw(
  unit: Unit,
  entries: readonly OutboxRow[],
  gone: Set<string>,
  cause: CauseCode,
  at: number,
): Promise<Set<string>> {
  if (gone.size === 0) return gone;
  await unit.outbox.removeBy('message_id', [...gone]);
  const refused = entries.filter(({ message_id }) => gone.has(message_id));
  await appendMessageEvents(
    unit,
    refused.map(({ message_id, attempts }) => ({ message_id, kind: 'refused' as const, at, attempt: attempts, cause })),
    at,
  );
  return gone;
}

/** Why a message does not leave although its turn has come. */
export type KeptBack = 'declined' | 'expired' | 'held' | 'cancelled';

/**
 * Asked at the last moment before a claimed message leaves: whoever opted out, held or cancelled something since the claim
 * is obeyed, and what has become pointless stays here. Undefined while it leaves.
 */
export async function keptBack(ctx: AppContext, { line, message }: SendJob): Promise<KeptBack | undefined> {
  if (message.origin_kind === 'consent') return undefined;
  if (message.valid_until !== null && message.valid_until <= ctx.now()) return 'expired';
  const ofBroadcast = message.origin_kind === 'broadcast';
  const [now] = await ctx.store.select<{ declined: 0 | 1; broadcast: string | null }>(
    `SELECT EXISTS (SELECT 1 FROM contact_consents WHERE contact_id = :contact AND way = :way AND state = 'withdrawn') AS declined,
            ${ofBroadcast ? '(SELECT state FROM broadcasts WHERE id = :broadcast)' : 'NULL'} AS broadcast`,
    { contact: message.contact_id, way: channelKind(line.channel.kind).consent, broadcast: message.origin_id },
  );
  if (now?.declined === 1) return 'declined';
  if (!ofBroadcast || now?.broadcast === 'running') return undefined;
  return now?.broadcast === 'held' ? 'held' : 'cancelled';
}

/** Takes back the claim of a message that was kept back: nothing of it has left. */
export async function takeBack(ctx: AppContext, { entry, message }: SendJob, why: KeptBack): Promise<void> {
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    if (why === 'declined' || why === 'expired') {
      const cause = why === 'declined' ? 'opted-out' : 'no-longer-useful';
      await withdraw(unit, [entry], new Set([message.id]), cause, at);
      return;
    }
    // Resumed in between, it is due again at once.
    const [broadcast] = await unit.select<{ state: string }>('SELECT state FROM broadcasts WHERE id = :id', {
      id: message.origin_id,
    });
    if (broadcast?.state !== 'running' && broadcast?.state !== 'held') {
      await withdraw(unit, [entry], new Set([message.id]), 'broadcast-cancelled', at);
      return;
    }
    const state = broadcast.state === 'held' ? ('held' as const) : ('due' as const);
    await unit.outbox.change(
      { message_id: message.id, state: 'leased' },
      { state, lease_owner: null, leased_at: null, tried_with: entry.tried_with },
    );
    await appendMessageEvents(
      unit,
      [
        {
          message_id: message.id,
          kind: 'deferred',
          at,
          attempt: entry.attempts,
          detail: { said: 'its broadcast was held before it left' },
        },
      ],
      at,
    );
  });
}
