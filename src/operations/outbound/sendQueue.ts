/** Texts that wait to be handed over, as a queue of the engine. */
import { type ChannelKind, channelKind } from '../../core/connect/channelKinds';
import { wordsFor } from '../../core/identities/identityKinds';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import type { AppContext } from '../context';
import { appendMessageEvents } from '../messages';
import type { WorkQueue } from '../workQueue';

export const sendQueue: WorkQueue = {
  name: 'sends',
  item: 'a message to send',
  label: 'Messages to send',
  work: 'outbox',
  topic: 'message',
  patience: 3,
  async waiting(ctx) {
    const [row] = await ctx.store.select<{ items: number; since: number | null }>(
      `SELECT count(*) AS items, min(due_at) AS since FROM outbox WHERE state = 'due' AND due_at <= :now`,
      { now: ctx.now() },
    );
    return { items: row?.items ?? 0, since: row?.since ?? undefined };
  },
  async view(ctx: AppContext, ids) {
    const rows = await ctx.store.select<{
      id: string;
      recipient: string;
      channel_id: string;
      channel: string | null;
      kind: ChannelKind | null;
    }>(
      `SELECT m.id, m.recipient, m.channel_id, c.name AS channel, c.kind FROM messages m LEFT JOIN channels c ON c.id = m.channel_id
        WHERE m.id IN (:ids)`,
      { ids: [...ids] },
    );
    return rows.map(({ id, recipient, channel_id, channel, kind }) => ({
      id,
      title: `Message to ${wordsFor({ kind: kind ? channelKind(kind).identity : 'phone', value: recipient })}`,
      href: `/watch/messages/${id}`,
      ...(channel ? { subject: { name: channel, href: `/connect/channels/${channel_id}` } } : {}),
    }));
  },
  tryAgain: (unit, id, due) => place(unit, id, `state = 'due', due_at = :due`, { due }),
  setAside: (unit, id) => place(unit, id, `state = 'aside'`),
  async letGo(unit, id, at) {
    return (await place(unit, id, `state = 'due', due_at = :at`, { at }, `state = 'aside'`)) > 0;
  },
  async drop(unit, id, at, by) {
    const gone = await unit.execute(`DELETE FROM outbox WHERE message_id = :id AND state = 'aside'`, { id });
    if (gone > 0) await endDropped(unit, id, at, by);
    return gone > 0;
  },
};

function place(
  unit: Unit,
  id: string,
  values: string,
  given: Record<string, unknown> = {},
  where = `state IN ('due', 'leased')`,
): Promise<number> {
  return unit.execute(
    `UPDATE outbox SET ${values}, lease_owner = NULL, leased_at = NULL WHERE message_id = :id AND ${where}`,
    { id, ...given },
  );
}

/** Says on the message that it goes nowhere, even where the message itself is what cannot be read. */
async function endDropped(unit: Unit, id: string, at: number, by: string): Promise<void> {
  try {
    await appendMessageEvents(
      unit,
      [{ message_id: id, kind: 'refused', at, cause: 'dropped-by-hand', detail: { by } }],
      at,
    );
  } catch (error) {
    if (isStoreTrouble(error)) throw error;
    await unit.execute(
      `UPDATE messages SET state = 'failed', cause = 'dropped-by-hand', state_at = :at WHERE id = :id`,
      {
        id,
        at,
      },
    );
  }
}
