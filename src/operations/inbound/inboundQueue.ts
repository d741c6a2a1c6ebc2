/**
 * Stored requests that wait to be worked through. As a rule many share one unit; where that
 * fails each is worked through by itself, and one that cannot be is set aside with the reason,
 * so that it stops no other.
 */
import type { InboundRequestRow } from '../../store/schema/rows';
import { isStoreTrouble } from '../../store/trouble';
import { type AppContext, noteChanges } from '../context';
import { fault, recordFacts } from '../proofs';
import { readContext, workThrough } from './receiveMessages';

/** Works through the oldest waiting requests. Returns how many there were. */
export async function processInbound(ctx: AppContext, most = 200): Promise<number> {
  const ids = await ctx.store.select<{ id: string }>(
    `SELECT id FROM inbound_requests WHERE state = 'stored' ORDER BY id LIMIT :most`,
    { most },
  );
  if (ids.length === 0) return 0;
  const around = await readContext(ctx);
  const work = async (some: readonly { id: string }[]) => workThrough(ctx, await readRequests(ctx, some), around);
  const answered = await work(ids).catch((error) => oneByOne(ctx, ids, work, error));
  ctx.engineWakeUp.ring('webhooks');
  if (answered) ctx.engineWakeUp.ring('outbox');
  return ids.length;
}

async function readRequests(ctx: AppContext, ids: readonly { id: string }[]): Promise<InboundRequestRow[]> {
  const rows = await ctx.store.inbound.allBy(
    'id',
    ids.map(({ id }) => id),
  );
  return rows.sort((a, b) => (a.id < b.id ? -1 : 1));
}

/** After a failure: nobody's request waits for another's. Returns whether anything is to be sent. */
async function oneByOne(
  ctx: AppContext,
  ids: readonly { id: string }[],
  work: (some: readonly { id: string }[]) => Promise<boolean>,
  why: Error,
): Promise<boolean> {
  // What keeps the store from working keeps it from all of them, and passes.
  if (isStoreTrouble(why)) throw why;
  ctx.log.warn({ err: why, requests: ids.length }, 'working through requests one by one');
  let answered = false;
  for (const request of ids)
    try {
      answered = (await work([request])) || answered;
    } catch (error) {
      if (isStoreTrouble(error)) throw error;
      ctx.log.error({ err: error, request: request.id }, 'a request could not be processed and was set aside');
      await setAside(ctx, request.id, error as Error);
    }
  return answered;
}

/** Kept as it came, with the reason; worked through again when somebody asks for it on its page. */
function setAside(ctx: AppContext, id: string, error: Error): Promise<void> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    // A document that cannot be read is kept as text inside one that can, so that its page can be shown.
    await unit.execute(
      `UPDATE inbound_requests SET state = 'unreadable', cause = 'inbound-not-processed', processed_at = :at,
         outcome = json_object('reason', :reason),
         headers = CASE WHEN json_valid(headers) THEN headers ELSE json_object('unreadable', CAST(headers AS TEXT)) END
        WHERE id = :id`,
      { id, at, reason: error.message.slice(0, 500) },
    );
    const row = await unit.inbound.one({ id });
    if (!row) return;
    if (row.channel_id)
      await recordFacts(unit, [fault(row.channel_id, 'inbound-not-processed', row.received_at, id)], at);
    await noteChanges(unit, at, [['inbound', row.channel_id || (row.account_id ?? '')]]);
  });
}
