/** Conversations: one thread per contact, across channels. */
import { displayAddress } from '../core/addresses/display';
import type { ConversationRow, MessageRow } from '../store/rows';
import { type Actor, requireAccess, requireRole } from './actor';
import { noteChanges } from './changes';
import { found } from './errors';
import type { Windgap } from './windgap';

export interface ConversationSummary extends ConversationRow {
  contactName: string;
  address: string;
  country: string | null;
  channelName: string;
}

export async function listConversations(w: Windgap, actor: Actor, search = ''): Promise<ConversationSummary[]> {
  requireAccess(actor, 'viewer', 'conversations:read');
  const rows = await w.store.select<
    ConversationRow & { name: string | null; address: string | null; country: string | null; channel_name: string }
  >(
    `SELECT v.*, c.name, c.country, h.name AS channel_name,
        (SELECT value FROM contact_identities i WHERE i.contact_id = c.id ORDER BY kind LIMIT 1) AS address
       FROM conversations v JOIN contacts c ON c.id = v.contact_id JOIN channels h ON h.id = v.channel_id
      WHERE :search = '' OR c.name LIKE :like OR v.last_text LIKE :like
         OR EXISTS (SELECT 1 FROM contact_identities i WHERE i.contact_id = c.id AND i.value LIKE :like)
      ORDER BY v.last_message_at DESC LIMIT 100`,
    { search, like: `%${search.replace(/[%_]/g, '')}%` },
  );
  return rows.map(({ name, channel_name, ...row }) => ({
    ...row,
    address: row.address ?? '',
    contactName: name ?? nameless(row.address ?? 'unknown'),
    channelName: channel_name,
  }));
}

/** A number stands for itself; the id of a visitor says nothing to anybody. */
function nameless(address: string): string {
  return address.startsWith('vis_') ? 'A visitor' : displayAddress(address);
}

export interface Thread {
  conversation: ConversationSummary;
  messages: MessageRow[];
  /** What a message changed about being written to, by its id. */
  consents: Record<string, 'given' | 'withdrawn'>;
}

export async function getThread(w: Windgap, actor: Actor, id: string): Promise<Thread> {
  requireRole(actor, 'viewer');
  const row = found(await w.store.conversations.one({ id }), 'conversation');
  const [contact, [identity], channel, messages, entries] = await Promise.all([
    w.store.contacts.one({ id: row.contact_id }),
    w.store.identities.all({ contact_id: row.contact_id }, { order: [['kind', 'ASC']], limit: 1 }),
    w.store.channels.one({ id: row.channel_id }),
    w.store.messages.all({ conversation_id: id }, { order: [['id', 'DESC']], limit: 200 }),
    w.store.consentEntries.all({ contact_id: row.contact_id }),
  ]);
  const address = identity?.value ?? '';
  return {
    conversation: {
      ...row,
      address,
      contactName: contact?.name ?? nameless(address),
      country: contact?.country ?? null,
      channelName: channel?.name ?? '',
    },
    messages: messages.reverse(),
    consents: Object.fromEntries(
      entries.flatMap(({ ref, what }) => (ref && what !== 'retracted' ? [[ref, what]] : [])),
    ),
  };
}

export async function markRead(w: Windgap, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  const conversation = await w.store.conversations.one({ id });
  if (!conversation?.unread) return;
  await w.store.write(async (unit) => {
    await unit.conversations.change({ id }, { unread: 0 });
    await noteChanges(unit, w.now(), [['conversation', id]]);
  });
}
