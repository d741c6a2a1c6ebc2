/** The message log: filters that stay quick over a million messages, and the log as a file. */
import { stringify } from 'csv-stringify/sync';
import { normaliseAddress } from '../../core/addresses/address';
import { neutralised } from '../../core/sheets/rows';
import { timeId } from '../../store/ids';
import type { MessageRow } from '../../store/schema/rows';
import { messageData } from '../apps/webhooks';
import {
  type Actor,
  type AppContext,
  asViews,
  found,
  narrowedApp,
  type Reach,
  reachedMessages,
  reachOf,
  reachValues,
  recordAudit,
  requireAccess,
  requireReachedMessage,
  requireRole,
  seesAny,
  seesEverything,
  type View,
} from '../context';

export interface MessageFilter {
  direction?: 'in' | 'out';
  state?: string;
  channel?: string;
  /** Ids; a tag as it was given. */
  contact?: string;
  conversation?: string;
  tag?: string;
  /** A cause's code. */
  cause?: string;
  /** ISO 3166-1 alpha-2, of the person. */
  country?: string;
  /** An app or a route that sent it, by id. */
  origin?: string;
  /** A route that took it, by id. */
  route?: string;
  /** What became of it at the routes. */
  routing?: 'unrouted' | 'held';
  /** Epoch milliseconds; from and before. */
  since?: number;
  until?: number;
  /** Words of the text, a number, or a name. */
  search?: string;
  /** Id of the last message already seen; older ones follow. */
  before?: string;
  limit?: number;
}

export interface ListedMessage extends View<MessageRow> {
  contactName: string | null;
  channelName: string;
  country: string | null;
}

export interface MessagePage {
  messages: ListedMessage[];
  /** Give as `before` for the next page. */
  next?: string;
}

/** Newest first. Ids begin with the time they were made at, so a beginning narrows to a range of ids. */
export async function listMessages(ctx: AppContext, actor: Actor, filter: MessageFilter): Promise<MessagePage> {
  requireRole(actor, 'viewer');
  const { rows, next } = await messageRows(ctx, actor, filter);
  return { messages: asViews(rows), next };
}

type NamedMessageRow = MessageRow & { contact_name: string | null; channel_name: string; country: string | null };

/** The same as they are stored, for an answer to an app or a file. */
export async function messageRows(
  ctx: AppContext,
  actor: Actor,
  filter: MessageFilter,
): Promise<{ rows: NamedMessageRow[]; next?: string }> {
  requireAccess(actor, 'viewer', 'messages:read');
  const limit = Math.min(filter.limit ?? 50, 1000);
  const appId = narrowedApp(actor);
  const { sql, values } =
    appId === undefined ? await logQuery(ctx, filter, await reachOf(ctx.store, actor)) : ofApp(appId, filter);
  const ids = await ctx.store.select<{ id: string }>(`${sql} LIMIT :limit`, { ...values, limit: limit + 1 });
  const page = ids.slice(0, limit).map(({ id }) => id);
  const rows = await ctx.store.select<NamedMessageRow>(
    `SELECT m.*, c.name AS contact_name, h.name AS channel_name
       FROM json_each(:ids) j JOIN messages m ON m.id = j.value
       JOIN contacts c ON c.id = m.contact_id JOIN channels h ON h.id = m.channel_id ORDER BY m.id DESC`,
    { ids: JSON.stringify(page) },
  );
  return { rows: ctx.store.messages.read(rows), next: ids.length > limit ? page.at(-1) : undefined };
}

/** The same of what one app sent or was told, by its own two indexes. */
function ofApp(appId: string, filter: MessageFilter): { sql: string; values: Record<string, unknown> } {
  const { before } = filter;
  const conditions = plainConditions(filter);
  return {
    sql: `SELECT m.id FROM (
        SELECT id FROM messages WHERE origin_id = :appId AND origin_kind IN ('app', 'route') AND origin_kind = 'app'
          ${before ? 'AND id < :before' : ''}
        UNION SELECT message_id FROM told_apps WHERE app_id = :appId ${before ? 'AND message_id < :before' : ''}
        ORDER BY 1 DESC) own CROSS JOIN messages m ON m.id = own.id
      ${conditions.length > 0 ? `WHERE ${conditions.join(' AND ')}` : ''} ORDER BY own.id DESC`,
    values: { ...filter, appId },
  };
}

/** What a message itself says. */
function plainConditions(filter: MessageFilter): string[] {
  return [
    filter.direction && 'm.direction = :direction',
    filter.state && 'm.state = :state',
    filter.channel && 'm.channel_id = :channel',
    filter.contact && 'm.contact_id = :contact',
    filter.conversation && 'm.conversation_id = :conversation',
    filter.tag && 'EXISTS (SELECT 1 FROM json_each(m.tags) t WHERE t.value = :tag)',
    filter.since !== undefined && 'm.created_at >= :since',
    filter.until !== undefined && 'm.created_at < :until',
  ].filter((condition) => typeof condition === 'string' && condition !== '') as string[];
}

/** Ids of the messages that fit, newest first, by the index that narrows most. */
export async function logQuery(
  ctx: AppContext,
  filter: MessageFilter,
  reach: Reach,
): Promise<{ sql: string; values: Record<string, unknown> }> {
  const search = await searchOf(ctx, filter.search);
  const conditions = [
    ...plainConditions(filter),
    filter.cause && 'm.cause = :cause',
    filter.country && 'm.country = :country',
    filter.origin && `m.origin_id = :origin AND m.origin_kind IN ('app', 'route')`,
    filter.before && 'm.id < :before',
    filter.since !== undefined && 'm.id >= :sinceId',
    !seesEverything(reach) && reachedMessages(reach, 'm'),
    search?.contacts && 'm.contact_id IN (SELECT value FROM json_each(:contacts))',
  ].filter(Boolean);
  const values = {
    ...filter,
    ...reachValues(reach),
    words: search?.words,
    contacts: search?.contacts && JSON.stringify(search.contacts),
    sinceId: filter.since === undefined ? undefined : timeId('msg', filter.since),
  };
  const where = conditions.length > 0 ? `AND ${conditions.join(' AND ')}` : '';
  if (search?.words !== undefined) {
    // Numbers grow as messages come, so the words' own order is the log's.
    const older = filter.before ? 'AND f.rowid < (SELECT n FROM message_numbers WHERE message_id = :before)' : '';
    return {
      sql: `SELECT n.message_id AS id FROM message_words f CROSS JOIN message_numbers n ON n.n = f.rowid CROSS JOIN messages m ON m.id = n.message_id
        WHERE message_words MATCH :words ${older} ${routed(filter)} ${where} ORDER BY f.rowid DESC`,
      values,
    };
  }
  if (filter.route)
    return {
      sql: `SELECT r.message_id AS id FROM message_routes r CROSS JOIN messages m ON m.id = r.message_id
        WHERE r.route_id = :route ${filter.before ? 'AND r.message_id < :before' : ''} ${where} ORDER BY r.message_id DESC`,
      values,
    };
  if (filter.routing)
    return {
      sql: `SELECT m.id FROM message_routings r CROSS JOIN messages m ON m.id = r.message_id
        WHERE r.outcome = :routing AND r.outcome IN ('unrouted', 'held') ${where} ORDER BY m.id DESC`,
      values,
    };
  // What comes late has the id of then, so that only its own time tells when a span ends.
  const span = filter.since !== undefined && filter.until !== undefined ? 'INDEXED BY messages_created' : '';
  return { sql: `SELECT m.id FROM messages m ${span} WHERE 1 ${where} ORDER BY m.id DESC`, values };
}

function routed({ route, routing }: MessageFilter): string {
  if (route) return 'AND EXISTS (SELECT 1 FROM message_routes r WHERE r.route_id = :route AND r.message_id = m.id)';
  return routing
    ? 'AND EXISTS (SELECT 1 FROM message_routings r WHERE r.message_id = m.id AND r.outcome = :routing)'
    : '';
}

/** A number is whose it is; `@name` is a person; anything else are words of the text, the last one perhaps half typed. */
async function searchOf(ctx: AppContext, search = ''): Promise<{ words?: string; contacts?: string[] } | undefined> {
  const text = search.trim();
  if (text === '') return undefined;
  const digits = text.replace(/[\s()+.-]/g, '').replace(/^0+/, '');
  if (/^\d{4,15}$/.test(digits) && /^[\d\s()+.-]+$/.test(text)) {
    const whole = normaliseAddress(text);
    const rows = await ctx.store.select<{ contact_id: string }>(
      whole.ok
        ? 'SELECT contact_id FROM contact_identities WHERE value = :value LIMIT 500'
        : 'SELECT contact_id FROM contact_identities WHERE value LIKE :like LIMIT 500',
      whole.ok ? { value: whole.address.value } : { like: `%${digits}%` },
    );
    if (rows.length > 0) return { contacts: rows.map(({ contact_id }) => contact_id) };
  }
  const name = text.startsWith('@') ? text.slice(1).trim() : undefined;
  if (name) {
    const rows = await ctx.store.select<{ id: string }>('SELECT id FROM contacts WHERE name LIKE :like LIMIT 500', {
      like: `%${name.replace(/[%_]/g, '')}%`,
    });
    return { contacts: rows.map(({ id }) => id) };
  }
  const words = text.match(/[\p{L}\p{N}]+/gu) ?? [];
  // Signs alone are in no index of words.
  if (words.length === 0) return { contacts: [] };
  return { words: words.map((word, index) => `"${word}"${index === words.length - 1 ? '*' : ''}`).join(' ') };
}

export async function getMessage(ctx: AppContext, actor: Actor, id: string): Promise<MessageRow> {
  requireAccess(actor, 'viewer', 'messages:read');
  const sees = await seesAny(ctx.store, actor, 'm.id = :id', { id });
  await requireReachedMessage(ctx.store, actor, id);
  return found(sees ? await ctx.store.messages.one({ id }) : undefined, 'message');
}

const COLUMNS = [
  'time',
  'direction',
  'state',
  'cause',
  'person',
  'from',
  'to',
  'country',
  'channel',
  'text',
  'parts',
  'price',
  'currency',
  'id',
];

/** The log as a file, piece by piece while it is read; formulas are taken the edge off. */
export async function* exportMessages(
  ctx: AppContext,
  actor: Actor,
  { format, ...filter }: MessageFilter & { format: 'csv' | 'jsonl' },
): AsyncGenerator<string, void, undefined> {
  requireRole(actor, 'administrator');
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'messages.exported',
      subject: 'messages',
      summary: `Exported messages as ${format}`,
    }),
  );
  if (format === 'csv') yield `\ufeff${stringify([COLUMNS])}`;
  let before = filter.before;
  for (;;) {
    const page = await messageRows(ctx, actor, { ...filter, before, limit: 1000 });
    if (page.rows.length === 0) return;
    yield format === 'jsonl'
      ? page.rows.map((message) => `${JSON.stringify(messageData(message))}\n`).join('')
      : stringify(page.rows.map(cellsOf));
    if (!page.next) return;
    before = page.next;
  }
}

function cellsOf(message: NamedMessageRow): string[] {
  return [
    new Date(message.created_at).toISOString(),
    message.direction === 'in' ? 'in' : 'out',
    message.state,
    message.cause ?? '',
    neutralised(message.contact_name ?? ''),
    message.sender,
    message.recipient,
    message.country ?? '',
    neutralised(message.channel_name),
    neutralised(message.text),
    String(message.parts),
    message.price_micros === null ? '' : String(message.price_micros / 1e6),
    message.price_currency ?? '',
    message.id,
  ];
}
