/** Conversations as people work through them: whose each is, what was noted, who is at it, when it is over. */
import { mergeText, tokensIn } from '../../core/text/merge';
import { newId } from '../../store/ids';
import type { ConversationNoteRow, ConversationRow } from '../../store/schema/rows';
import { knownOf } from '../contacts';
import {
  type Actor,
  type AppContext,
  found,
  invalid,
  invalidText,
  noteChanges,
  OperationError,
  reachedConversations,
  reachOf,
  reachValues,
  requireRole,
} from '../context';
import type { Sender, SendInput } from '../outbound';
import { closeConversation, noteTurn } from '../threads';
import { reachedConversation } from './reachedConversation';

/** `working`: everything somebody is to see to. `quiet`: what went out by itself and nobody has answered. */
export const VIEWS = ['working', 'mine', 'unassigned', 'team', 'waiting', 'closed', 'quiet'] as const;
export type ConversationView = (typeof VIEWS)[number];

/** The condition of a view, for the one who looks. */
export function whereOfView(view: ConversationView, actor: Actor, teams: readonly string[]) {
  const values = { me: actor.id, teams: teams.length > 0 ? [...teams] : [''] };
  const conditions: Record<ConversationView, string> = {
    working: `v.state IN ('open', 'waiting')`,
    mine: `v.state IN ('open', 'waiting') AND v.assigned_to = :me`,
    unassigned: `v.state IN ('open', 'waiting') AND v.assigned_to IS NULL AND v.team IS NULL`,
    team: `v.state IN ('open', 'waiting') AND v.team IN (:teams)`,
    waiting: `v.state = 'waiting'`,
    closed: `v.state = 'closed'`,
    quiet: `v.state = 'quiet'`,
  };
  return { sql: conditions[view], values };
}

export async function teamsOf(ctx: AppContext, actor: Actor): Promise<string[]> {
  return actor.kind === 'user' ? (await ctx.store.teamMembers.all({ user_id: actor.id })).map(({ team }) => team) : [];
}

export async function countViews(ctx: AppContext, actor: Actor): Promise<Record<ConversationView, number>> {
  requireRole(actor, 'viewer');
  const [teams, reach] = await Promise.all([teamsOf(ctx, actor), reachOf(ctx.store, actor)]);
  const sums = VIEWS.map(
    (view) => `sum(CASE WHEN ${whereOfView(view, actor, teams).sql} THEN 1 ELSE 0 END) AS "${view}"`,
  );
  const [row] = await ctx.store.select<Record<ConversationView, number | null>>(
    `SELECT ${sums.join(', ')} FROM conversations v WHERE ${reachedConversations(reach, 'v')}`,
    { ...whereOfView('working', actor, teams).values, ...reachValues(reach) },
  );
  return Object.fromEntries(VIEWS.map((view) => [view, row?.[view] ?? 0])) as Record<ConversationView, number>;
}

export interface Colleagues {
  people: [string, string][];
  teams: string[];
  /** Record actions that may be done by hand, with their app. */
  actions: [string, string][];
}

/** Whom a conversation may be given to. */
export async function colleagues(ctx: AppContext, actor: Actor): Promise<Colleagues> {
  requireRole(actor, 'viewer');
  const [rows, teams, actions, apps] = await Promise.all([
    ctx.store.users.all({ disabled_at: null }, { order: [['name', 'ASC']] }),
    ctx.store.teams.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.recordActions.all({ disabled_at: null }, { order: [['name', 'ASC']] }),
    ctx.store.apps.all(),
  ]);
  const appName = (id: string) => apps.find((app) => app.id === id)?.name ?? '';
  return {
    actions: actions.map(({ id, name, app_id }) => [id, `${name} (${appName(app_id)})`]),
    people: rows.filter(({ role }) => role !== 'viewer').map(({ id, name }) => [id, name]),
    teams: teams.map(({ name }) => name),
  };
}

/** To a person, to a team, or to nobody. */
export async function giveConversation(
  ctx: AppContext,
  actor: Actor,
  id: string,
  to: { person?: string; team?: string },
): Promise<void> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await reachedConversation(unit, actor, id);
    const person = to.person ? found(await unit.users.one({ id: to.person, disabled_at: null }), 'person') : undefined;
    if (to.team) found(await unit.teams.one({ name: to.team }), 'team');
    await unit.conversations.change({ id }, { assigned_to: person?.id ?? null, team: to.team ?? null });
    const whom = person
      ? person.id === actor.id
        ? 'assigned it to themselves'
        : `assigned it to ${person.name}`
      : to.team
        ? `assigned it to the team ${to.team}`
        : 'unassigned it';
    await noteTurn(unit, id, actor.name, at, whom);
  });
}

export async function closeByHand(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  await ctx.store.write(async (unit) => {
    await reachedConversation(unit, actor, id);
    await closeConversation(unit, id, actor.name, ctx.now());
  });
}

export async function reopenConversation(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await reachedConversation(unit, actor, id);
    const changed = await unit.conversations.change({ id, state: 'closed' }, { state: 'open', closed_at: null });
    if (changed === 0) throw new OperationError('conflict', 'This conversation is open already.');
    await noteTurn(unit, id, actor.name, at, 'reopened it');
  });
}

/** For colleagues only: never sent. */
export async function addNote(ctx: AppContext, actor: Actor, id: string, text: string): Promise<void> {
  requireRole(actor, 'agent');
  if (!text.trim()) throw invalidText('note', 'The note is empty.', 'Write something.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await reachedConversation(unit, actor, id);
    await unit.conversationNotes.insert([
      { id: newId('not', at), conversation_id: id, at, by: actor.name, kind: 'note', text: text.trim().slice(0, 4000) },
    ]);
    await noteChanges(unit, at, [['conversation', id]]);
  });
}

export async function notesOf(ctx: AppContext, actor: Actor, id: string): Promise<ConversationNoteRow[]> {
  requireRole(actor, 'viewer');
  await reachedConversation(ctx.store, actor, id);
  return ctx.store.conversationNotes.all({ conversation_id: id }, { order: [['id', 'ASC']], limit: 200 });
}

/** Heard from within this time, somebody is there. */
const PRESENT = 25_000;

export interface Present {
  name: string;
  writing: boolean;
}

/** Says that somebody is at a conversation, and answers who else is. Others are told only of a change. */
export async function beAt(ctx: AppContext, actor: Actor, id: string, writing: boolean): Promise<Present[]> {
  requireRole(actor, 'agent');
  await reachedConversation(ctx.store, actor, id);
  const at = ctx.now();
  await ctx.store.write(
    async (unit) => {
      const before = await unit.presence.one({ conversation_id: id, user_id: actor.id });
      await unit.presence.put({ conversation_id: id, user_id: actor.id, at, writing: writing ? 1 : 0 });
      const same = before && before.writing === (writing ? 1 : 0) && at - before.at < PRESENT;
      if (!same) await noteChanges(unit, at, [['conversation', id]]);
    },
    { durable: false },
  );
  return othersAt(ctx, actor, id);
}

export async function othersAt(ctx: AppContext, actor: Actor, id: string): Promise<Present[]> {
  requireRole(actor, 'viewer');
  await reachedConversation(ctx.store, actor, id);
  const rows = await ctx.store.select<{ name: string; writing: number }>(
    `SELECT u.name, p.writing FROM conversation_presence p JOIN users u ON u.id = p.user_id
      WHERE p.conversation_id = :id AND p.user_id <> :me AND p.at > :since ORDER BY u.name`,
    { id, me: actor.id, since: ctx.now() - PRESENT },
  );
  return rows.map(({ name, writing }) => ({ name, writing: writing === 1 }));
}

/**
 * An answer of a person who saw the conversation up to `seen`. When a colleague has answered
 * since, it is not sent: nobody is answered twice because two were at it.
 */
export async function answerIn(
  ctx: AppContext,
  send: Sender,
  actor: Actor,
  { conversationId, seen, ...input }: SendInput & { conversationId: string; seen: string | undefined },
): Promise<void> {
  requireRole(actor, 'agent');
  await reachedConversation(ctx.store, actor, conversationId);
  const [since] = await ctx.store.select<{ origin_name: string | null; text: string }>(
    `SELECT origin_name, text FROM messages WHERE conversation_id = :id AND direction = 'out' AND origin_kind = 'user'
       AND (:seen IS NULL OR id > :seen) AND coalesce(origin_id, '') <> :me ORDER BY id DESC LIMIT 1`,
    { id: conversationId, seen: seen ?? null, me: actor.id },
  );
  if (since)
    throw new OperationError(
      'conflict',
      `${since.origin_name ?? 'A colleague'} has just answered: “${since.text.slice(0, 120)}”. What you wrote is still here; read theirs first.`,
    );
  await send(actor, { ...input, text: await filledFor(ctx, conversationId, input.text) });
}

/** Merge fields that somebody typed, filled with what is known of the person. Throws where something is not known. */
async function filledFor(ctx: AppContext, conversationId: string, text: string): Promise<string> {
  if (tokensIn(text).length === 0) return text;
  const conversation = found(await ctx.store.conversations.one({ id: conversationId }), 'conversation');
  const known = (await knownOf(ctx.store, [conversation.contact_id])).get(conversation.contact_id) ?? {};
  const merged = mergeText(text, { ...known, contact: known });
  const [finding] = merged.findings;
  if (finding) throw invalid('text', finding);
  return merged.text;
}

export interface IdleRule {
  /** Whether conversations we wrote in last are closed when nothing comes. */
  on: boolean;
  hours: number;
  /** Sent this many hours before; none when empty. */
  notice: string;
  noticeHours: number;
}

export const IDLE_SETTING = 'conversation-idle';
const NO_RULE: IdleRule = { on: false, hours: 72, notice: '', noticeHours: 12 };

export async function idleRule(ctx: AppContext): Promise<IdleRule> {
  const row = await ctx.store.settings.one({ name: IDLE_SETTING });
  return { ...NO_RULE, ...(row?.value as Partial<IdleRule> | undefined) };
}

export async function setIdleRule(ctx: AppContext, actor: Actor, rule: IdleRule): Promise<void> {
  requireRole(actor, 'administrator');
  if (!(rule.hours >= 1) || rule.hours > 24 * 90)
    throw invalidText('hours', 'This is no time to wait.', 'From 1 hour to 90 days.');
  if (rule.notice.trim() && !(rule.noticeHours >= 1 && rule.noticeHours < rule.hours))
    throw invalidText('noticeHours', 'The notice must come before the end.', `Give fewer than ${rule.hours} hours.`);
  await ctx.store.write((unit) => unit.settings.put({ name: IDLE_SETTING, value: { ...rule } }));
}

/**
 * Tells people that a conversation ends, and ends it. Only where we wrote last: one that
 * waits for us is never closed by itself, however old it is.
 */
export async function closeIdle(ctx: AppContext, send: Sender): Promise<{ noticed: number; closed: number }> {
  const rule = await idleRule(ctx);
  if (!rule.on) return { noticed: 0, closed: 0 };
  const now = ctx.now();
  const hour = 3_600_000;
  const notices = rule.notice.trim() !== '';
  const due = notices
    ? await ctx.store.select<ConversationRow>(
        `SELECT * FROM conversations WHERE state = 'waiting' AND idle_noticed_at IS NULL AND last_message_at < :before LIMIT 50`,
        { before: now - (rule.hours - rule.noticeHours) * hour },
      )
    : [];
  for (const conversation of due) await giveNotice(ctx, send, conversation, rule.notice);
  const over = await ctx.store.select<ConversationRow>(
    `SELECT * FROM conversations WHERE state = 'waiting' AND ${
      notices ? 'idle_noticed_at IS NOT NULL AND idle_noticed_at < :noticed' : 'last_message_at < :before'
    } LIMIT 200`,
    notices ? { noticed: now - rule.noticeHours * hour } : { before: now - rule.hours * hour },
  );
  await ctx.store.write(async (unit) => {
    for (const { id } of over)
      await closeConversation(unit, id, 'Windgap', now, `nobody wrote for ${rule.hours} hours`);
  });
  return { noticed: due.length, closed: over.length };
}

/** Where nothing can be sent any more it ends without a notice. */
async function giveNotice(ctx: AppContext, send: Sender, conversation: ConversationRow, text: string): Promise<void> {
  const [last] = await ctx.store.messages.all(
    { conversation_id: conversation.id, direction: 'in' },
    { order: [['id', 'DESC']], limit: 1 },
  );
  const actor: Actor = { kind: 'route', id: 'idle', name: 'Before it closes' };
  if (last)
    await send(actor, { text, inReplyTo: last.id }, `idle ${conversation.id} ${conversation.last_message_at}`).catch(
      () => undefined,
    );
  await ctx.store.write((unit) => unit.conversations.change({ id: conversation.id }, { idle_noticed_at: ctx.now() }));
}
