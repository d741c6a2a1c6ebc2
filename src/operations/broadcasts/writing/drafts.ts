/** Broadcasts as they are written: made, changed, copied, removed. */
import { z } from 'zod';
import {
  type AudiencePart,
  type BroadcastDefinition,
  broadcastDefinition,
  EMPTY_DEFINITION,
  missingOf,
} from '../../../core/broadcast/definition';
import { newId } from '../../../store/ids';
import type { BroadcastRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { readGroup } from '../../contacts';
import {
  type Actor,
  type AppContext,
  invalidText,
  noteChanges,
  OperationError,
  reachesChannel,
  reachOf,
  recordAudit,
  requireAccess,
} from '../../context';
import { removeRecipients } from '../planning';
import { requireMay } from '../settings';
import { copyList, removeList } from './lists';
import { reachedBroadcast, requireDraft } from './reached';

export const LONGEST_NAME = 100;
export async function createBroadcast(ctx: AppContext, actor: Actor, name: string): Promise<{ id: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  const at = ctx.now();
  const row = emptyBroadcast(newId('bct', at), name, actor, at);
  await ctx.store.write(async (unit) => {
    await unit.broadcasts.insert([row]);
    await recordAudit(unit, actor, at, {
      action: 'broadcast.made',
      subject: row.id,
      summary: `Began the broadcast ${row.name}`,
    });
    await noteChanges(unit, at, [['broadcast', row.id]]);
  });
  return { id: row.id };
}

/** A draft that says nothing yet. Throws where it has no name. */
export function emptyBroadcast(id: string, name: string, by: Pick<Actor, 'id' | 'name'>, at: number): BroadcastRow {
  return {
    id,
    name: nameOf(name),
    created_by: by.id,
    created_by_name: by.name,
    state: 'draft',
    version: 1,
    definition: EMPTY_DEFINITION,
    created_at: at,
    changed_at: at,
    plan: null,
    plan_problem: null,
    started_by: null,
    started_by_name: null,
    reason: null,
    approved_by: null,
    approved_by_name: null,
    started_at: null,
    ended_at: null,
    phase: 'first',
    held: null,
    judged_from: null,
    shown_to: null,
    ref: null,
    list_id: null,
    starts_itself: 0,
  };
}

function nameOf(written: string): string {
  const name = written.trim();
  if (!name || name.length > LONGEST_NAME)
    throw invalidText('name', 'The broadcast needs a name.', `Give it one of at most ${LONGEST_NAME} characters.`);
  return name;
}

/** Replaces what it says. A plan of what it said before no longer counts. */
export async function saveBroadcast(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { name, definition: written, version }: { name?: string; definition: unknown; version: number },
): Promise<{ version: number }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  const definition = readDefinition(written);
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    requireDraft(row, version);
    await requireKnown(unit, actor, definition);
    const changed = JSON.stringify(row.definition) !== JSON.stringify(definition);
    const values = {
      ...(name === undefined ? {} : { name: nameOf(name) }),
      ...(changed
        ? { definition, version: row.version + 1, plan: null, plan_problem: null, state: 'draft' as const }
        : {}),
      changed_at: at,
    };
    await unit.broadcasts.change({ id }, values);
    if (changed)
      await recordAudit(unit, actor, at, {
        action: 'broadcast.changed',
        subject: id,
        summary: `Changed the broadcast ${row.name}`,
      });
    await noteChanges(unit, at, [['broadcast', id]]);
    return { version: changed ? row.version + 1 : row.version };
  });
}

const part: z.ZodType<AudiencePart> = z.union([
  z.strictObject({ by: z.enum(['everybody', 'list']) }),
  z.strictObject({ by: z.enum(['saved', 'failed']), id: z.string().max(60) }),
  z.strictObject({ by: z.literal('people'), ids: z.array(z.string().max(60)).max(1000) }),
  z.strictObject({ by: z.literal('filter'), conditions: z.custom<never>() }),
]);

/** Throws at the field what cannot be read. */
export function readDefinition(written: unknown): BroadcastDefinition {
  const read = broadcastDefinition.safeParse(written);
  if (!read.success) {
    const [issue] = read.error.issues;
    throw invalidText(issue?.path.join('.') || 'definition', 'This cannot be read.', issue?.message ?? 'Fill it anew.');
  }
  const parts = (given: readonly unknown[], field: string): AudiencePart[] =>
    given.map((each) => {
      const one = part.safeParse(each);
      if (!one.success) throw invalidText(field, 'This part of the audience cannot be read.', 'Choose it anew.');
      return one.data.by === 'filter' ? { by: 'filter', conditions: readGroup(one.data.conditions) } : one.data;
    });
  const { audience } = read.data;
  return {
    ...read.data,
    audience: {
      include: parts(audience.include, 'audience.include'),
      exclude: parts(audience.exclude, 'audience.exclude'),
    },
  };
}

/** Channels, templates and audiences it names have to be there, and for the one who names them. */
async function requireKnown(
  tables: Unit,
  actor: Actor,
  { channels, message, audience }: BroadcastDefinition,
): Promise<void> {
  const reach = await reachOf(tables, actor);
  const rows = await tables.channels.allBy('id', channels);
  for (const id of channels)
    if (!rows.some((row) => row.id === id) || !reachesChannel(reach, id))
      throw invalidText('channels', 'A channel is not there any more.', 'Choose the channels again.');
  if (message.template && !(await tables.templates.one({ id: message.template.id, archived_at: null })))
    throw invalidText('template', 'The template was archived.', 'Choose another.');
  for (const each of [...audience.include, ...audience.exclude])
    if (each.by === 'failed') await reachedBroadcast(tables, actor, each.id);
  const saved = [...audience.include, ...audience.exclude].flatMap((each) => (each.by === 'saved' ? [each.id] : []));
  const known = await tables.audiences.allBy('id', saved);
  if (new Set(saved).size !== known.length)
    throw invalidText('audience', 'An audience was removed.', 'Choose another.');
}

/** Asks the engine to plan it. */
export async function askForPlan(ctx: AppContext, actor: Actor, id: string, version: number): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    requireDraft(row, version);
    const [missing] = missingOf(row.definition, at);
    if (missing) throw invalidText(missing.field, missing.problem, missing.remedy);
    // Whoever plans it by hand reads the plan, and starts it by hand.
    await unit.broadcasts.change({ id }, { state: 'planning', starts_itself: 0, plan_problem: null, changed_at: at });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  ctx.engineWakeUp.ring('broadcasts');
}

/** Another one that says the same to the same people, to be changed and sent again. Its list comes along. */
export async function copyBroadcast(ctx: AppContext, actor: Actor, id: string): Promise<{ id: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  const at = ctx.now();
  const copy = newId('bct', at);
  const row = await reachedBroadcast(ctx.store, actor, id);
  const list_id = await copyList(ctx, row);
  await ctx.store.write(async (unit) => {
    const name = `${row.name.slice(0, LONGEST_NAME - 8)}, again`;
    await unit.broadcasts.insert([{ ...emptyBroadcast(copy, name, actor, at), definition: row.definition, list_id }]);
    await recordAudit(unit, actor, at, {
      action: 'broadcast.copied',
      subject: copy,
      summary: `Copied the broadcast ${row.name}`,
    });
    await noteChanges(unit, at, [['broadcast', copy]]);
  });
  return { id: copy };
}

/** A draft nobody needs. What was sent stays on record. */
export async function removeBroadcast(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  const at = ctx.now();
  const listId = await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    if (row.state !== 'draft' && row.state !== 'planning')
      throw new OperationError('conflict', 'Only a draft can be removed; what was sent stays on record.');
    await unit.broadcasts.remove({ id });
    await unit.broadcastCounts.remove({ broadcast_id: id });
    await recordAudit(unit, actor, at, {
      action: 'broadcast.removed',
      subject: id,
      summary: `Removed the draft ${row.name}`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
    return row.list_id;
  });
  await removeList(ctx, listId);
  await removeRecipients(ctx, id);
}
