/** Messages that are taken out of the outbox when their turn comes: to people who declined meanwhile, and those of no use any more. */
import { channelKind } from '../../core/connect/channelKinds';
import type { CauseCode } from '../../core/delivery/causes';
import type { ChannelRow, OutboxRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { appendMessageEvents } from '../messages';

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
