/** What a person has to do because it could not be done by itself, or because a colleague asked. */

import { newId } from '../../store/ids';
import type { RunRow, TodoRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asViews,
  found,
  invalidText,
  noteChanges,
  OperationError,
  reachedConversations,
  reachOf,
  reachValues,
  requireRole,
  type View,
} from '../context';
import { holderOf, phone as phoneIdentity } from '../identities';

export interface TodoView extends View<TodoRow> {
  contactName: string | null;
  conversationId: string | null;
  /** Who is to do it. */
  assignee: string | null;
}

/** Open ones oldest first; else the last that were done. */
export async function listTodos(ctx: AppContext, actor: Actor, done = false): Promise<TodoView[]> {
  requireRole(actor, 'viewer');
  const reach = await reachOf(ctx.store, actor);
  const rows = await ctx.store.select<TodoRow & Pick<TodoView, 'contactName' | 'conversationId' | 'assignee'>>(
    `SELECT t.*, c.name AS contactName, v.id AS conversationId, u.name AS assignee FROM todos t
       LEFT JOIN users u ON u.id = t.assigned_to
       LEFT JOIN contacts c ON c.id = t.contact_id LEFT JOIN conversations v ON v.contact_id = t.contact_id
      WHERE (v.id IS NULL OR ${reachedConversations(reach, 'v')})
        AND ${done ? 't.done_at IS NOT NULL ORDER BY t.done_at DESC' : 't.done_at IS NULL ORDER BY t.created_at'} LIMIT 200`,
    reachValues(reach),
  );
  return asViews(rows);
}

export async function addTodo(
  ctx: AppContext,
  actor: Actor,
  input: { title: string; contactId?: string; assignedTo?: string },
): Promise<void> {
  requireRole(actor, 'agent');
  const title = input.title.trim().slice(0, 300);
  if (!title) throw invalidText('title', 'The task is empty.', 'Write it in a few words.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const whose = input.assignedTo
      ? found(await unit.users.one({ id: input.assignedTo, disabled_at: null }), 'person')
      : undefined;
    await unit.todos.insert([
      {
        id: newId('tdo', at),
        contact_id: input.contactId ?? null,
        title,
        why: '',
        ref: null,
        created_at: at,
        by: actor.name,
        done_at: null,
        done_by: null,
        assigned_to: whose?.id ?? null,
      },
    ]);
    await noteChanges(unit, at, [['todo', 'open']]);
  });
}

export async function finishTodo(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const changed = await unit.todos.change({ id, done_at: null }, { done_at: at, done_by: actor.name });
    if (changed === 0) throw new OperationError('conflict', 'This was done already.');
    await noteChanges(unit, at, [['todo', 'open']]);
  });
}

/** Finishes those of several that are still open. Returns how many they were. */
export async function finishTodos(ctx: AppContext, actor: Actor, ids: readonly string[]): Promise<number> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const changed = await unit.todos.change({ id: [...ids], done_at: null }, { done_at: at, done_by: actor.name });
    if (changed > 0) await noteChanges(unit, at, [['todo', 'open']]);
    return changed;
  });
}

/** Of a run that failed before a person got what they were to get; once for each run. */
export async function todosOfFailed(unit: Unit, failed: readonly RunRow[], at: number): Promise<void> {
  const rows: TodoRow[] = [];
  for (const run of failed) {
    const step = run.steps[run.next];
    const said = run.results.at(-1);
    const wanted =
      step?.kind === 'send' || (step?.kind === 'route' && ['reply', 'ask', 'assign', 'record'].includes(step.do));
    if (!step || !wanted) continue;
    const phone = step.kind === 'send' ? step.to : undefined;
    const identity = phone ? await holderOf(unit, phoneIdentity(phone)) : undefined;
    const what =
      step.kind === 'send'
        ? `Send to ${phone}: “${step.text.slice(0, 120)}”`
        : `See to this message: “${run.memory.route ?? 'a route'}” could not`;
    rows.push({
      id: newId('tdo', at),
      contact_id: run.contact_id ?? identity?.contact_id ?? null,
      title: what,
      why: [said?.finding?.problem ?? said?.said, said?.finding?.remedy].filter(Boolean).join(' '),
      ref: run.source === 'route' ? run.subject_id : run.id,
      created_at: at,
      by: 'Windgap',
      done_at: null,
      done_by: null,
      assigned_to: null,
    });
  }
  const open = await unit.todos.all({ ref: rows.flatMap(({ ref }) => ref ?? []), done_at: null });
  const known = new Set(open.map(({ ref }) => ref));
  const fresh = rows.filter(({ ref }, place) => !known.has(ref) && rows.findIndex((row) => row.ref === ref) === place);
  if (fresh.length === 0) return;
  await unit.todos.insert(fresh);
  await noteChanges(unit, at, [['todo', 'open']]);
}
