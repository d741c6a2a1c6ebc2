/**
 * Requests that were turned away or could not be read, worked through after what was wrong
 * was fixed. A refused one is judged by the credentials in force now, as of the time it came:
 * what fits then came from the provider all along.
 */
import type { InboundRequestRow } from '../../store/schema/rows';
import { type Actor, type AppContext, found, noteChanges, OperationError, recordAudit, requireRole } from '../context';
import { noteDecided } from '../workQueue';
import { judgeAgain, type TakenNow } from './storeRequests';

/** Providers themselves try again for about so long; what is older is old news to whoever wrote it. */
const LOOKED_BACK = 7 * 86_400_000;
const MOST = 500;

/** Whether a request that was turned away would be taken now. */
export async function wouldBeTakenNow(ctx: AppContext, id: string): Promise<boolean> {
  const request = await ctx.store.inbound.one({ id });
  return request !== undefined && (await asTakenNow(ctx, request)) !== undefined;
}

/** A request that is not in as it would be taken now; undefined where it would not. */
async function asTakenNow(ctx: AppContext, request: InboundRequestRow): Promise<InboundRequestRow | undefined> {
  // What could not be read is read again by the engine, with the profile of now.
  if (request.state === 'unreadable') return request;
  return request.state === 'refused' ? (await judgeAgain(ctx, [request]))[0]?.request : undefined;
}

/** Works one request through again. */
export async function reworkInbound(ctx: AppContext, actor: Actor, requestId: string): Promise<void> {
  requireRole(actor, 'administrator');
  const request = found(
    await ctx.store.inbound.one({ id: requestId, state: ['refused', 'unreadable'] }),
    'request that was turned away',
  );
  const fitting = await asTakenNow(ctx, request);
  if (!fitting)
    throw new OperationError('conflict', 'It would be refused again: the credentials saved now do not fit it either.');
  await takeAgain(ctx, actor, [fitting], 'Worked a stored request through again');
}

/**
 * Refused for its signature, and would be taken with the credentials of now, oldest first. Of
 * what was posted several times only the first counts, and nothing whose texts are in already.
 */
export async function refusedThatFit(ctx: AppContext, channelId: string): Promise<InboundRequestRow[]> {
  const refused = ctx.store.inbound.read(
    await ctx.store.select<InboundRequestRow>(
      `SELECT * FROM inbound_requests WHERE channel_id = :channelId AND state = 'refused' AND cause LIKE 'signature-%'
          AND received_at > :since ORDER BY id DESC LIMIT ${MOST}`,
      { channelId, since: ctx.now() - LOOKED_BACK },
    ),
  );
  // The latest are looked at, so that old forgeries never stand before what was really lost.
  const first = new Map<string, TakenNow>();
  for (const each of await judgeAgain(ctx, refused.reverse())) {
    const body = each.request.body.toString('base64');
    if (!first.has(body)) first.set(body, each);
  }
  const fitting = [...first.values()];
  const known = await textsIn(ctx, channelId, fitting.flatMap(textIdsOf));
  return fitting
    .filter((each) => textIdsOf(each).length === 0 || textIdsOf(each).some((id) => !known.has(id)))
    .map(({ request }) => request);
}

const textIdsOf = ({ items }: TakenNow): string[] =>
  items.flatMap((item) => (item.kind === 'text' ? [item.providerMessageId] : []));

/** Those provider ids whose texts have come in on a channel. */
async function textsIn(ctx: AppContext, channelId: string, ids: readonly string[]): Promise<ReadonlySet<string>> {
  const rows = await ctx.store.select<{ id: string }>(
    `SELECT provider_message_id AS id FROM messages WHERE channel_id = :channelId AND direction = 'in'
        AND provider_message_id IN (SELECT value FROM json_each(:ids))`,
    { channelId, ids: JSON.stringify(ids) },
  );
  return new Set(rows.map(({ id }) => id));
}

/** Works through all of a channel that were refused for their signature and fit now. Returns how many. */
export async function reworkRefused(ctx: AppContext, actor: Actor, channelId: string): Promise<number> {
  requireRole(actor, 'administrator');
  const { name } = found(await ctx.store.channels.one({ id: channelId }), 'channel');
  const fitting = await refusedThatFit(ctx, channelId);
  if (fitting.length > 0)
    await takeAgain(ctx, actor, fitting, `Worked ${fitting.length} refused requests of “${name}” through again`);
  return fitting.length;
}

async function takeAgain(
  ctx: AppContext,
  actor: Actor,
  requests: readonly InboundRequestRow[],
  summary: string,
): Promise<void> {
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    for (const { id, signature } of requests)
      await unit.inbound.change(
        { id, state: ['refused', 'unreadable'] },
        { state: 'stored', cause: null, outcome: null, signature },
      );
    await noteDecided(
      unit,
      'inbound',
      requests.map(({ id }) => id),
      { how: 'processed again', by: actor.name, at },
    );
    const [first] = requests;
    await recordAudit(unit, actor, at, {
      action: 'inbound.reworked',
      subject: requests.length === 1 ? (first?.id ?? '') : (first?.channel_id ?? ''),
      summary,
    });
    await noteChanges(
      unit,
      at,
      [...new Set(requests.map(({ channel_id }) => channel_id))].map((id) => ['inbound', id] as const),
    );
  });
  ctx.engineWakeUp.ring('inbound');
}
