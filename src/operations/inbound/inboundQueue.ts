/**
 * Stored requests that wait to be worked through. As a rule many share one unit; where that
 * fails each is worked through by itself, and one that cannot be is set aside with the reason,
 * so that it stops no other.
 */
import type { InboundRequestRow } from '../../store/schema/rows';
import type { AppContext } from '../context';
import { fault, recordFacts } from '../proofs';
import { aloneAfterFailure, type WorkQueue } from '../workQueue';
import { readContext, type UnlistedWord, workThrough } from './receiveMessages';

export const inboundQueue: WorkQueue = {
  name: 'inbound',
  item: 'a stored request',
  label: 'Requests from providers',
  work: 'inbound',
  topic: 'inbound',
  // It has failed with others and alone; what is wrong does not pass by itself.
  patience: 1,
  async waiting(ctx) {
    const [row] = await ctx.store.select<{ items: number; since: number | null }>(
      `SELECT count(*) AS items, min(received_at) AS since FROM inbound_requests WHERE state = 'stored'`,
    );
    return { items: row?.items ?? 0, since: row?.since ?? undefined };
  },
  async view(ctx, ids) {
    const rows = await ctx.store.select<{
      id: string;
      channel_id: string;
      channel: string | null;
      method: string;
      unlisted: string | null;
      connector: string | null;
    }>(
      `SELECT r.id, r.channel_id, r.method, c.name AS channel,
              CASE WHEN r.cause = 'inbound-partly-unreadable' THEN r.outcome->'$.unlisted' END AS unlisted, a.connector
         FROM inbound_requests r LEFT JOIN channels c ON c.id = r.channel_id
         LEFT JOIN provider_accounts a ON a.id = coalesce(r.account_id, c.account_id) WHERE r.id IN (:ids)`,
      { ids: [...ids] },
    );
    return rows.map(({ id, channel_id, channel, method, unlisted, connector }) => ({
      id,
      title: method === 'deliver_sm' ? 'PDU of a carrier' : 'Request from a provider',
      href: `/watch/inbound/${id}`,
      ...(unlisted && connector && ctx.connectors.profileOf(connector)
        ? { unlisted: JSON.parse(unlisted) as UnlistedWord[] }
        : {}),
      ...(channel ? { subject: { name: channel, href: `/connect/channels/${channel_id}` } } : {}),
    }));
  },
  // It is stored as it came and has no time of its own: it is worked on in the next round.
  tryAgain: () => Promise.resolve(),
  async setAside(unit, id, at, reason) {
    // A document that cannot be read is kept as text inside one that can, so that its page can be shown.
    await unit.execute(
      `UPDATE inbound_requests SET state = 'unreadable', cause = 'inbound-not-processed', processed_at = :at,
         outcome = json_object('reason', :reason),
         headers = CASE WHEN json_valid(headers) THEN headers ELSE json_object('unreadable', CAST(headers AS TEXT)) END
        WHERE id = :id`,
      { id, at, reason },
    );
    const row = await unit.inbound.one({ id });
    if (row?.channel_id)
      await recordFacts(unit, [fault(row.channel_id, 'inbound-not-processed', row.received_at, id)], at);
  },
  async letGo(unit, id) {
    return (
      (await unit.inbound.change({ id, state: 'unreadable' }, { state: 'stored', cause: null, outcome: null })) > 0
    );
  },
  async drop(unit, id, at) {
    return (await unit.inbound.change({ id, state: 'unreadable' }, { state: 'dropped', processed_at: at })) > 0;
  },
};

/** Works through the oldest waiting requests. Returns how many there were. */
export async function processInbound(ctx: AppContext, most = 200): Promise<number> {
  const rows = await ctx.store.select<{ id: string }>(
    `SELECT id FROM inbound_requests WHERE state = 'stored' ORDER BY id LIMIT :most`,
    { most },
  );
  if (rows.length === 0) return 0;
  const around = await readContext(ctx);
  const answered = await aloneAfterFailure(
    ctx,
    inboundQueue,
    rows.map(({ id }) => id),
    async (ids) => workThrough(ctx, await readRequests(ctx, ids), around),
  );
  ctx.engineWakeUp.ring('webhooks');
  if (answered.includes(true)) ctx.engineWakeUp.ring('outbox');
  return rows.length;
}

async function readRequests(ctx: AppContext, ids: readonly string[]): Promise<InboundRequestRow[]> {
  const rows = await ctx.store.inbound.allBy('id', ids);
  return rows.sort((a, b) => (a.id < b.id ? -1 : 1));
}
