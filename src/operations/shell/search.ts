/** Search over everything that has a page: people, numbers, channels, apps, templates, routes, hooks, tests, messages. */

import { displayAddress } from '../../core/addresses/display';
import {
  type Actor,
  type AppContext,
  hasRole,
  type Reach,
  reachedBy,
  reachedConversations,
  reachedMessages,
  reachOf,
  reachValues,
  requireRole,
  seesEverything,
} from '../context';
import { knownBy, readKnownBy } from '../identities';
import { getRoutes } from '../routes';

export interface SearchHit {
  label: string;
  /** What it is, in a word. */
  kind: string;
  href: string;
}

const EACH = 6;
const LONGEST = 120;

/** Returns hits by kind, the closest first within each; nothing for fewer than two characters. */
export async function searchEverything(ctx: AppContext, actor: Actor, typed: string): Promise<SearchHit[]> {
  requireRole(actor, 'viewer');
  const text = typed.trim().slice(0, LONGEST);
  if (text.length < 2) return [];
  const reach = await reachOf(ctx.store, actor);
  const values = { like: like(text), text, most: EACH, ...reachValues(reach) };
  const named = (table: string, more = '1') =>
    ctx.store.select<{ id: string; name: string }>(
      `SELECT id, name FROM ${table} WHERE name LIKE :like AND ${more} ORDER BY name LIMIT :most`,
      values,
    );
  const digits = /^\d{3,}$/.test(bare(text));
  const [people, conversations, channels, accounts, apps, templates, hooks, tests, numbers, messages] =
    await Promise.all([
      ctx.store.select<{ id: string; name: string | null; known_by: string | null }>(
        `SELECT c.id, c.name, ${knownBy('c.id')} AS known_by
           FROM contacts c WHERE c.merged_into IS NULL AND ${
             digits ? 'c.id IN (SELECT contact_id FROM contact_identities WHERE value LIKE :like)' : 'c.name LIKE :like'
           } ORDER BY c.seen_at DESC LIMIT :most`,
        values,
      ),
      ctx.store.select<{ id: string; name: string | null; known_by: string | null }>(
        `SELECT v.id, c.name, ${knownBy('c.id')} AS known_by
           FROM conversations v JOIN contacts c ON c.id = v.contact_id WHERE ${
             digits
               ? 'c.id IN (SELECT contact_id FROM contact_identities WHERE value LIKE :like)'
               : `(c.name LIKE :like OR ${seesEverything(reach) ? 'v.last_text' : lastReached(reach)} LIKE :like)`
           } AND ${reachedConversations(reach, 'v')} ORDER BY v.last_message_at DESC LIMIT :most`,
        values,
      ),
      ctx.store.select<{ id: string; name: string }>(
        `SELECT id, name FROM channels WHERE (name LIKE :like OR address LIKE :like) AND ${reachedBy(reach, 'id', 'channel')} ORDER BY name LIMIT :most`,
        values,
      ),
      named('provider_accounts'),
      named('apps', reachedBy(reach, 'id', 'app')),
      named('templates', 'archived_at IS NULL'),
      ctx.store.select<{ id: string; name: string; app_id: string }>(
        `SELECT id, name, app_id FROM send_hooks WHERE name LIKE :like AND ${reachedBy(reach, 'app_id', 'app')} ORDER BY name LIMIT :most`,
        values,
      ),
      named('delivery_tests', 'archived_at IS NULL'),
      digits
        ? ctx.store.select<{ address: string }>(
            'SELECT DISTINCT address FROM provider_numbers WHERE address LIKE :like LIMIT :most',
            values,
          )
        : [],
      /^(msg_)?[0-9A-Z]{6,26}$/i.test(text)
        ? ctx.store.select<{ id: string; text: string }>(
            `SELECT m.id, m.text FROM messages m WHERE (m.id = :text OR m.id = 'msg_' || upper(:text)) AND ${reachedMessages(reach, 'm')} LIMIT 1`,
            values,
          )
        : [],
    ]);
  const admin = hasRole(actor, 'administrator');
  const { published, draft } = await getRoutes(ctx, actor);
  const routes = (draft?.content ?? published.set).routes.filter(({ name }) =>
    name.toLowerCase().includes(text.toLowerCase()),
  );
  return [
    ...messages.map((each) => hit(each.text.slice(0, 60) || each.id, 'message', `/watch/messages/${each.id}`)),
    ...conversations.map((each) => hit(shown(each), 'conversation', `/route/conversations/${each.id}`)),
    ...people.map((each) => hit(shown(each), 'contact', `/compose/contacts/${each.id}`)),
    ...channels.map((each) => hit(each.name, 'channel', `/connect/channels/${each.id}`)),
    ...numbers.map((each) => hit(displayAddress(each.address), 'number', '/connect/numbers')),
    ...accounts.map((each) => hit(each.name, 'provider account', `/connect/providers/${each.id}`)),
    ...apps.map((each) => hit(each.name, 'app', `/apps/${each.id}`)),
    ...hooks.map((each) => hit(each.name, 'send hook', `/apps/${each.app_id}/hooks/${each.id}`)),
    ...templates.map((each) => hit(each.name, 'template', `/compose/templates/${each.id}`)),
    ...routes.slice(0, EACH).map((each) => hit(each.name, 'route', `/route/routes#${each.id}`)),
    ...(admin ? tests.map((each) => hit(each.name, 'delivery test', `/prove/tests/${each.id}`)) : []),
    ...(/^\+?\d{7,15}$/.test(text.replace(/[\s()-]/g, '')) && hasRole(actor, 'agent')
      ? [hit(`Write to ${text}`, 'new message', `/send/message?${new URLSearchParams({ to: text })}`)]
      : []),
    hit(`Messages with “${text}”`, 'message log', `/watch/messages?${new URLSearchParams({ q: text })}`),
  ];
}

/** The last words of a conversation that whoever looks may see. */
const lastReached = (reach: Reach) =>
  `(SELECT m.text FROM messages m WHERE m.conversation_id = v.id AND ${reachedMessages(reach, 'm')} ORDER BY m.id DESC LIMIT 1)`;

const hit = (label: string, kind: string, href: string): SearchHit => ({ label, kind, href });

function shown({ name, known_by }: { name: string | null; known_by: string | null }): string {
  if (name) return name;
  return readKnownBy(known_by).name;
}

const bare = (text: string) => text.replace(/[\s()+.-]/g, '').replace(/^0+/, '');

/** A number is found however it is typed; what would be a wildcard of LIKE is left out. */
function like(text: string): string {
  return `%${(/^\d{3,}$/.test(bare(text)) ? bare(text) : text).replace(/[%_]/g, '')}%`;
}
