/** Conversations: one thread per contact, across channels. */

import type { ConversationNoteRow, ConversationRow, MessageRow } from '../../store/schema/rows';
import {
  type Actor,
  APP_SEES,
  type AppContext,
  asView,
  asViews,
  narrowedApp,
  noteChanges,
  type Reach,
  reachedConversations,
  reachedMessages,
  reachOf,
  reachValues,
  readingReachOf,
  requireAccess,
  requireRole,
  seesEverything,
  type View,
} from '../context';
import { knownBy, readKnownBy } from '../identities';
import { type ConversationView, notesOf, teamsOf, whereOfView } from './conversationWork';
import { reachedConversation } from './reachedConversation';

export interface ConversationSummary extends View<ConversationRow> {
  contactName: string;
  address: string;
  country: string | null;
  channelName: string;
  /** Whose it is: a person, or else a team. */
  assignee: string | null;
}

/** Newest first, of every state unless a view is asked for. */
export async function listConversations(
  ctx: AppContext,
  actor: Actor,
  search = '',
  view?: ConversationView,
): Promise<ConversationSummary[]> {
  requireAccess(actor, 'viewer', 'conversations:read');
  const appId = narrowedApp(actor);
  const reach = await readingReachOf(ctx.store, actor);
  const narrowed = view ? whereOfView(view, actor, await teamsOf(ctx, actor)) : { sql: '1', values: {} };
  const rows = await ctx.store.select<
    ConversationRow & {
      name: string | null;
      known_by: string | null;
      country: string | null;
      channel_name: string;
      person: string | null;
    }
  >(
    `SELECT v.*, c.name, c.country, h.name AS channel_name, u.name AS person,
        ${knownBy('c.id')} AS known_by
       FROM conversations v JOIN contacts c ON c.id = v.contact_id JOIN channels h ON h.id = v.channel_id
       LEFT JOIN users u ON u.id = v.assigned_to
      WHERE ${narrowed.sql} AND ${reachedConversations(reach, 'v')} ${appId === undefined ? '' : `AND EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = v.id AND ${APP_SEES})`}
        AND (:search = '' OR c.name LIKE :like OR ${appId === undefined && seesEverything(reach) ? 'v.last_text' : lastSeen(appId, reach)} LIKE :like
         OR EXISTS (SELECT 1 FROM contact_identities i WHERE i.contact_id = c.id AND i.value LIKE :like))
      ORDER BY v.last_message_at DESC LIMIT 100`,
    {
      ...narrowed.values,
      ...reachValues(reach),
      search,
      like: likeOf(search),
      ...(appId === undefined ? {} : { appId }),
    },
  );
  if (appId !== undefined || !seesEverything(reach)) await showOnlySeen(ctx, appId, reach, rows);
  return rows.map(({ name, channel_name, person, known_by, ...row }) => ({
    ...asView(row),
    assignee: person ?? row.team,
    address: readKnownBy(known_by).address,
    contactName: name ?? readKnownBy(known_by).name,
    channelName: channel_name,
  }));
}

/** What an app was told of, and what the teams of whoever looks reach. */
const seenBy = (appId: string | undefined, reach: Reach) =>
  `${appId === undefined ? '1' : APP_SEES} AND ${reachedMessages(reach, 'm')}`;

/** The last words of a conversation that are seen. */
const lastSeen = (appId: string | undefined, reach: Reach) =>
  `(SELECT m.text FROM messages m WHERE m.conversation_id = v.id AND ${seenBy(appId, reach)} ORDER BY m.id DESC LIMIT 1)`;

/** The last message of each as whoever looks may see it. */
async function showOnlySeen(
  ctx: AppContext,
  appId: string | undefined,
  reach: Reach,
  rows: ConversationRow[],
): Promise<void> {
  for (const row of rows) {
    const [last] = await ctx.store.select<MessageRow>(
      `SELECT * FROM messages m WHERE m.conversation_id = :id AND ${seenBy(appId, reach)} ORDER BY m.id DESC LIMIT 1`,
      { id: row.id, ...(appId === undefined ? {} : { appId }), ...reachValues(reach) },
    );
    if (!last) continue;
    row.last_text = last.text.slice(0, 160);
    row.last_message_at = last.created_at;
    row.last_direction = last.direction;
    row.channel_id = last.channel_id;
    if (appId !== undefined) row.unread = 0;
  }
}

/** A number is found however it is typed. */
function likeOf(search: string): string {
  const bare = search.replace(/[\s()+.-]/g, '').replace(/^0+/, '');
  return `%${(/^\d{3,}$/.test(bare) ? bare : search).replace(/[%_]/g, '')}%`;
}

/** How many of each view fit a search, for whoever looks in the wrong one. */
export async function findElsewhere(
  ctx: AppContext,
  actor: Actor,
  search: string,
  view: ConversationView,
): Promise<{ view: ConversationView; n: number }[]> {
  const found = await listConversations(ctx, actor, search);
  const places = found.map(
    ({ state }): ConversationView => (state === 'closed' || state === 'quiet' ? state : 'working'),
  );
  return (['working', 'closed', 'quiet'] as const)
    .filter((each) => each !== view)
    .map((each) => ({ view: each, n: places.filter((place) => place === each).length }))
    .filter(({ n }) => n > 0);
}

export interface Thread {
  conversation: ConversationSummary;
  messages: View<MessageRow>[];
  /** What a message changed about being written to, by its id. */
  consents: Record<string, 'given' | 'withdrawn'>;
  /** The sign the person put to a message of ours, by its id. */
  reactions: Record<string, string>;
  /** What colleagues noted, and what happened to it. */
  notes: ConversationNoteRow[];
  /** Names of its channels by id, where it runs over several. */
  channels: Record<string, string>;
}

export async function getThread(ctx: AppContext, actor: Actor, id: string): Promise<Thread> {
  requireRole(actor, 'viewer');
  const row = await reachedConversation(ctx.store, actor, id);
  const reach = await reachOf(ctx.store, actor);
  if (!seesEverything(reach)) await showOnlySeen(ctx, undefined, reach, [row]);
  const [contact, [known], channel, messages, entries, notes, person] = await Promise.all([
    ctx.store.contacts.one({ id: row.contact_id }),
    ctx.store.select<{ by: string | null }>(`SELECT ${knownBy(':contact')} AS by`, { contact: row.contact_id }),
    ctx.store.channels.one({ id: row.channel_id }),
    messagesOf(ctx, reach, id),
    ctx.store.consentEntries.all({ contact_id: row.contact_id }),
    notesOf(ctx, actor, id),
    row.assigned_to ? ctx.store.users.one({ id: row.assigned_to }) : undefined,
  ]);
  const { address, name } = readKnownBy(known?.by);
  return {
    conversation: {
      ...asView(row),
      address,
      contactName: contact?.name ?? name,
      country: contact?.country ?? null,
      channelName: channel?.name ?? '',
      assignee: person?.name ?? row.team,
    },
    notes,
    channels: await channelsOf(ctx, messages),
    reactions: await reactionsOf(ctx, messages),
    messages: asViews(messages.reverse()),
    consents: Object.fromEntries(
      entries.flatMap(({ ref, what }) => (ref && what !== 'retracted' ? [[ref, what]] : [])),
    ),
  };
}

async function messagesOf(ctx: AppContext, reach: Reach, id: string): Promise<MessageRow[]> {
  const latest: Parameters<typeof ctx.store.messages.all>[1] = { order: [['id', 'DESC']], limit: 200 };
  if (seesEverything(reach)) return ctx.store.messages.all({ conversation_id: id }, latest);
  const seen = await ctx.store.select<{ id: string }>(
    `SELECT m.id FROM messages m WHERE m.conversation_id = :id AND ${reachedMessages(reach, 'm')} ORDER BY m.id DESC LIMIT 200`,
    { id, ...reachValues(reach) },
  );
  return ctx.store.messages.all({ id: seen.map((row) => row.id) }, latest);
}

async function reactionsOf(ctx: AppContext, messages: readonly MessageRow[]): Promise<Record<string, string>> {
  const ours = messages.flatMap(({ id, direction }) => (direction === 'out' ? [id] : []));
  const rows = await ctx.store.reactions.allBy('message_id', ours);
  return Object.fromEntries(rows.map(({ message_id, sign }) => [message_id, sign]));
}

async function channelsOf(ctx: AppContext, messages: readonly MessageRow[]): Promise<Record<string, string>> {
  const ids = [...new Set(messages.map(({ channel_id }) => channel_id))];
  if (ids.length < 2) return {};
  return Object.fromEntries((await ctx.store.channels.allBy('id', ids)).map(({ id, name }) => [id, name]));
}

export async function markRead(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  const conversation = await reachedConversation(ctx.store, actor, id);
  if (!conversation.unread) return;
  await ctx.store.write(async (unit) => {
    await unit.conversations.change({ id }, { unread: 0 });
    await noteChanges(unit, ctx.now(), [['conversation', id]]);
  });
}
