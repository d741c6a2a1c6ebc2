/** The message log and single messages. */
import type { MessageRow } from '../store/rows';
import { type Actor, requireAccess } from './actor';
import { found } from './errors';
import type { Windgap } from './windgap';

export interface MessageFilter {
  direction?: 'in' | 'out';
  state?: string;
  channel?: string;
  search?: string;
  /** Id of the last message already seen; older ones follow. */
  before?: string;
  limit?: number;
}

export interface MessagePage {
  messages: (MessageRow & { contact_name: string | null; channel_name: string })[];
  /** Give as `before` for the next page. */
  next?: string;
}

export async function listMessages(w: Windgap, actor: Actor, filter: MessageFilter): Promise<MessagePage> {
  requireAccess(actor, 'viewer', 'messages:read');
  const limit = Math.min(filter.limit ?? 50, 200);
  const conditions = [
    filter.direction && 'm.direction = :direction',
    filter.state && 'm.state = :state',
    filter.channel && 'm.channel_id = :channel',
    filter.before && 'm.id < :before',
    filter.search && '(m.text LIKE :like OR m.sender LIKE :like OR m.recipient LIKE :like OR c.name LIKE :like)',
  ].filter(Boolean);
  const rows = await w.store.select<MessagePage['messages'][number]>(
    `SELECT m.*, c.name AS contact_name, h.name AS channel_name
       FROM messages m JOIN contacts c ON c.id = m.contact_id JOIN channels h ON h.id = m.channel_id
      ${conditions.length > 0 ? `WHERE ${conditions.join(' AND ')}` : ''} ORDER BY m.id DESC LIMIT :limit`,
    { ...filter, like: `%${(filter.search ?? '').replace(/[%_]/g, '')}%`, limit: limit + 1 },
  );
  const messages = w.store.messages.read(rows.slice(0, limit));
  return { messages, next: rows.length > limit ? messages.at(-1)?.id : undefined };
}

export async function getMessage(w: Windgap, actor: Actor, id: string): Promise<MessageRow> {
  requireAccess(actor, 'viewer', 'messages:read');
  return found(await w.store.messages.one({ id }), 'message');
}
