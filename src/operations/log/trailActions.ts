/** A trail beside the last that worked on the same path, as a file, and again from one of its hops. */
import { type ComparedHop, compareTrails } from '../../core/trail/compare';
import type { MessageRow } from '../../store/schema/rows';
import { redeliver } from '../apps/webhooks';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  OperationError,
  reachedMessages,
  reachOf,
  reachValues,
  recordAudit,
  requireReachedMessage,
  requireRole,
  type View,
} from '../context';
import type { Sender } from '../outbound';
import { getTrail } from './trail';

export interface Beside {
  other: View<Pick<MessageRow, 'id' | 'created_at'>>;
  hops: ComparedHop[];
  /** What was changed on the path between the two. */
  changes: { at: number; by: string; summary: string }[];
}

/** The last message before it, the same way on the same channel, that came through; undefined where none ever did. */
export async function besideTheLast(ctx: AppContext, actor: Actor, messageId: string): Promise<Beside | undefined> {
  requireRole(actor, 'viewer');
  const message = found(await ctx.store.messages.one({ id: messageId }), 'message');
  await requireReachedMessage(ctx.store, actor, messageId);
  const reach = await reachOf(ctx.store, actor);
  const [other] = await ctx.store.select<Pick<MessageRow, 'id' | 'created_at'>>(
    `SELECT m.id, m.created_at FROM messages m WHERE m.channel_id = :channel AND m.direction = :direction AND m.id < :id AND ${reachedMessages(reach, 'm')} AND ${
      message.direction === 'out'
        ? "m.state IN ('delivered', 'read')"
        : `EXISTS (SELECT 1 FROM message_routings r WHERE r.message_id = m.id AND r.cause IS NULL)
             AND NOT EXISTS (SELECT 1 FROM webhook_deliveries d WHERE d.message_id = m.id AND d.delivered_at IS NULL)`
    } ORDER BY m.id DESC LIMIT 1`,
    { channel: message.channel_id, direction: message.direction, id: message.id, ...reachValues(reach) },
  );
  if (!other) return undefined;
  const [here, there] = await Promise.all([legOf(ctx, actor, message.id), legOf(ctx, actor, other.id)]);
  const account = (await ctx.store.channels.one({ id: message.channel_id }))?.account_id ?? '';
  const changes = await ctx.store.select<Beside['changes'][number]>(
    `SELECT at, actor_name AS by, summary FROM audit_entries WHERE at BETWEEN :from AND :until
        AND (subject_id IN (:channel, :account) OR subject_id LIKE 'revision%' OR subject_id LIKE 'app_%') ORDER BY id DESC LIMIT 8`,
    { from: other.created_at, until: message.created_at, channel: message.channel_id, account },
  );
  return { other: asView(other), hops: compareTrails(here, there), changes };
}

async function legOf(ctx: AppContext, actor: Actor, id: string) {
  const { legs } = await getTrail(ctx, actor, id);
  return legs.find(({ message }) => message.id === id)?.hops ?? [];
}

/** The whole trail as one file: hops, requests and answers as they may be shown, so without secrets. */
export async function trailFile(ctx: AppContext, actor: Actor, messageId: string): Promise<object> {
  const { legs, evidence, contactName } = await getTrail(ctx, actor, messageId);
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'messages.exported',
      subject: messageId,
      summary: 'Exported the trail of a message with its evidence',
    }),
  );
  return {
    windgap: 'trail',
    message: messageId,
    written: new Date(ctx.now()).toISOString(),
    contact: contactName,
    legs: legs.map(({ message, hops }) => ({
      message: {
        id: message.id,
        direction: message.direction,
        from: message.sender,
        to: message.recipient,
        text: message.text,
        state: message.state,
        cause: message.cause,
        at: new Date(message.createdAt).toISOString(),
      },
      hops: hops.map(({ at, ...hop }) => ({ ...hop, ...(at === undefined ? {} : { at: new Date(at).toISOString() }) })),
    })),
    evidence,
  };
}

/**
 * Does a stored hop again: an event is sent to the app once more, a message that did not arrive
 * is ordered anew. Returns the id of the new message where there is one.
 */
export async function againFrom(
  ctx: AppContext,
  actor: Actor,
  from: string,
  send: Sender,
): Promise<string | undefined> {
  requireRole(actor, 'administrator');
  if (from.startsWith('dlv_')) {
    await redeliver(ctx, actor, from);
    return undefined;
  }
  await requireReachedMessage(ctx.store, actor, from);
  const { state, direction, recipient, channel_id, text, template, media, tags, in_reply_to } = found(
    await ctx.store.messages.one({ id: from }),
    'message',
  );
  if (direction !== 'out' || state !== 'failed')
    throw new OperationError('conflict', 'Only a message that did not arrive is sent again from here.');
  const { message } = await send(actor, {
    to: recipient,
    from: channel_id,
    ...(template
      ? { text: '', template: { id: template.id, language: template.language, values: template.values } }
      : { text }),
    ...(media ? { media } : {}),
    tags: tags ?? [],
    ...(in_reply_to ? { inReplyTo: in_reply_to } : {}),
  });
  return message.id;
}
