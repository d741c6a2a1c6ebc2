/** Broadcasts as they are written: made, changed, given a list, copied, removed. */
import { z } from 'zod';
import {
  type AudiencePart,
  type BroadcastDefinition,
  broadcastDefinition,
  EMPTY_DEFINITION,
  missingOf,
} from '../../core/broadcast/definition';
import { newId } from '../../store/ids';
import type { BroadcastRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { readGroup } from '../contacts';

import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  narrowedApp,
  noteChanges,
  OperationError,
  reachesChannel,
  reachOf,
  recordAudit,
  requireAccess,
} from '../context';
import { asMergeField } from './people';
import { removeRecipients } from './planning';

const LONGEST_NAME = 100;
/** A list comes in one post; longer ones are imported as contacts. */
const MOST_LINES = 50_000;

/** The broadcast, where its channels are for the one who asks; throws `not-found` otherwise. */
export async function reachedBroadcast(
  from: Unit | AppContext['store'],
  actor: Actor,
  id: string,
): Promise<BroadcastRow> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const row = found(await from.broadcasts.one({ id }), 'broadcast');
  // An app sees its own, unless its key sees everything.
  if (narrowedApp(actor) !== undefined && row.created_by !== actor.id)
    throw new OperationError('not-found', 'There is no such broadcast.');
  const reach = await reachOf(from, actor);
  if (!row.definition.channels.every((channel) => reachesChannel(reach, channel)))
    throw new OperationError('not-found', 'There is no such broadcast.');
  return row;
}

export async function createBroadcast(ctx: AppContext, actor: Actor, name: string): Promise<{ id: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
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

/** Throws where somebody else changed or started it since it was read. */
export function requireDraft({ state, version }: BroadcastRow, seen: number): void {
  if (state !== 'draft' && state !== 'planning')
    throw new OperationError('conflict', 'It was started meanwhile, so it is not changed any more. Look at it again.');
  requireVersion(version, seen);
}

export function requireVersion(version: number, seen: number): void {
  if (version !== seen)
    throw new OperationError('conflict', 'It was changed meanwhile. Look at it again before you go on.');
}

const part: z.ZodType<AudiencePart> = z.union([
  z.strictObject({ by: z.enum(['everybody', 'list']) }),
  z.strictObject({ by: z.literal('saved'), id: z.string().max(60) }),
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
  const saved = [...audience.include, ...audience.exclude].flatMap((each) => (each.by === 'saved' ? [each.id] : []));
  const known = await tables.audiences.allBy('id', saved);
  if (new Set(saved).size !== known.length)
    throw invalidText('audience', 'An audience was removed.', 'Choose another.');
}

/**
 * Takes a table with headings as the list of a broadcast, in place of the one before: one column holds the addresses, the
 * others are merge fields under their headings. Lines without an address are kept, so that the plan names them.
 */
export async function giveList(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { table, column, version }: { table: string; column?: string; version: number },
): Promise<{ lines: number; column: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  const rows = await ctx.apart.run('table', { text: table });
  const [head = [], ...rest] = rows.filter((cells) => cells.some((cell) => cell.trim() !== ''));
  const headings = head.map((cell) => cell.trim());
  const place = column === undefined ? headings.findIndex(isAddressHeading) : headings.indexOf(column);
  if (place === -1)
    throw invalidText(
      'list',
      column === undefined ? 'No heading says where the numbers are.' : `There is no column “${column.slice(0, 60)}”.`,
      'Give the first line headings, such as phone,name.',
    );
  if (rest.length === 0) throw invalidText('list', 'There is nobody in it.', 'Give lines below the headings.');
  if (rest.length > MOST_LINES)
    throw invalidText('list', `It has more than ${MOST_LINES} lines.`, 'Split it into several broadcasts.');
  const twice = headings.find((heading, index) => heading !== '' && headings.indexOf(heading) !== index);
  if (twice !== undefined)
    throw invalidText('list', `Two columns are called “${twice.slice(0, 60)}”.`, 'Give each a name of its own.');
  const lines = rest.map((cells, index) => ({
    broadcast_id: id,
    line: index + 1,
    address: (cells[place] ?? '').trim().slice(0, 200),
    fields: Object.fromEntries(
      headings.flatMap((heading, at) =>
        at === place || heading === '' ? [] : [[asMergeField(heading), (cells[at] ?? '').trim().slice(0, 500)]],
      ),
    ),
  }));
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    requireDraft(row, version);
    await unit.broadcastPeople.remove({ broadcast_id: id });
    await unit.broadcastPeople.insert(lines);
    await unit.broadcasts.change(
      { id },
      { version: row.version + 1, plan: null, plan_problem: null, state: 'draft', changed_at: at },
    );
    await recordAudit(unit, actor, at, {
      action: 'broadcast.list',
      subject: id,
      summary: `Gave the broadcast ${row.name} a list of ${lines.length} lines`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  return { lines: lines.length, column: headings[place] ?? '' };
}

function isAddressHeading(heading: string): boolean {
  return /^(mobile|phone|cell|tel|telephone|msisdn|number|e-?mail|address|telefon|mobil|handy)/i.test(heading);
}

/** Asks the engine to plan it. */
export async function askForPlan(ctx: AppContext, actor: Actor, id: string, version: number): Promise<void> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    requireDraft(row, version);
    const [missing] = missingOf(row.definition, at);
    if (missing) throw invalidText(missing.field, missing.problem, missing.remedy);
    await unit.broadcasts.change({ id }, { state: 'planning', plan_problem: null, changed_at: at });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  ctx.engineWakeUp.ring('broadcasts');
}

/** Another one that says the same to the same people, to be changed and sent again. Its list comes along. */
export async function copyBroadcast(ctx: AppContext, actor: Actor, id: string): Promise<{ id: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  const at = ctx.now();
  const copy = newId('bct', at);
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    const name = `${row.name.slice(0, LONGEST_NAME - 8)}, again`;
    await unit.broadcasts.insert([{ ...emptyBroadcast(copy, name, actor, at), definition: row.definition }]);
    await unit.execute(
      `INSERT INTO broadcast_people (broadcast_id, line, address, fields)
         SELECT :copy, line, address, fields FROM broadcast_people WHERE broadcast_id = :id`,
      { copy, id },
    );
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
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    if (row.state !== 'draft' && row.state !== 'planning')
      throw new OperationError('conflict', 'Only a draft can be removed; what was sent stays on record.');
    await unit.broadcasts.remove({ id });
    await unit.broadcastPeople.remove({ broadcast_id: id });
    await unit.broadcastCounts.remove({ broadcast_id: id });
    await recordAudit(unit, actor, at, {
      action: 'broadcast.removed',
      subject: id,
      summary: `Removed the draft ${row.name}`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  await removeRecipients(ctx, id);
}
