/** A broadcast on an app's order: made, given its list and planned in one call, once however often it is repeated. */
import { type AudiencePart, type BroadcastDefinition, EMPTY_DEFINITION } from '../../../core/broadcast/definition';
import type { When } from '../../../core/broadcast/timetable';
import type { Mapping } from '../../../core/templates/mapping';
import type { PostedRecord } from '../../../core/text/fields';
import { newId } from '../../../store/ids';
import type { Unit } from '../../../store/store';
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
import { asMergeField } from '../people';
import { requireMay } from '../settings';
import { askForPlan, emptyBroadcast, LONGEST_NAME, readDefinition } from './drafts';

export interface OrderedPeople {
  everybody?: boolean;
  tags?: readonly string[];
  /** Ids or names. */
  audiences?: readonly string[];
}

export interface BroadcastOrder {
  name: string;
  purpose: 'notice' | 'marketing';
  text: string;
  subject?: string;
  choices?: readonly string[];
  template?: { id: string; mapping: Mapping };
  to: OrderedPeople & { recipients?: readonly { to: string; fields?: Readonly<Record<string, string>> }[] };
  except?: OrderedPeople;
  /** Ids, numbers or names of channels, in the order in which they are tried. */
  channels: readonly string[];
  when?: When;
  usefulMinutes?: number;
  quietHours?: boolean;
  firstSteps?: number;
}

/** Returns the broadcast, and whether it was made before by the same key. */
export async function orderBroadcast(
  ctx: AppContext,
  actor: Actor,
  order: BroadcastOrder,
  ref?: string,
): Promise<{ id: string; replayed: boolean }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  const at = ctx.now();
  const id = newId('bct', at);
  const made = await ctx.store.write(async (unit) => {
    const definition = await definitionOf(unit, actor, order);
    const before = ref === undefined ? undefined : await unit.broadcasts.one({ created_by: actor.id, ref });
    if (before) {
      if (before.name !== order.name.trim() || JSON.stringify(before.definition) !== JSON.stringify(definition))
        throw new OperationError('key-reused', 'This idempotency key was used for another broadcast.');
      return { id: before.id, replayed: true };
    }
    const list_id = order.to.recipients ? id : null;
    await unit.broadcasts.insert([
      { ...emptyBroadcast(id, order.name, actor, at), definition, ref: ref ?? null, list_id },
    ]);
    await unit.broadcastPeople.insert(
      (order.to.recipients ?? []).map(({ to, fields = {} }, index) => ({
        list_id: id,
        line: index + 1,
        address: to,
        fields: Object.fromEntries(Object.entries(fields).map(([name, value]) => [asMergeField(name), value])),
      })),
    );
    await recordAudit(unit, actor, at, {
      action: 'broadcast.made',
      subject: id,
      summary: `Began the broadcast ${order.name}`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
    return { id, replayed: false };
  });
  if (!made.replayed) await askForPlan(ctx, actor, made.id, 1);
  return made;
}

export interface RecordOrder {
  name: string;
  by: Pick<Actor, 'id' | 'name'>;
  text: string;
  template?: { id: string; mapping: Mapping };
  audienceId: string;
  channelId: string;
  record: PostedRecord;
}

/**
 * In the unit of the caller: a broadcast of a record to an audience, which starts as soon as it is planned. It is a notice, it
 * keeps quiet hours, and it begins with the usual first steps.
 */
export async function orderOfRecord(unit: Unit, order: RecordOrder, at: number): Promise<string> {
  const id = newId('bct', at);
  const { text, template, record, audienceId, channelId } = order;
  const name = `${order.name.slice(0, LONGEST_NAME - 20)}, ${new Date(at).toISOString().slice(0, 16).replace('T', ' ')}`;
  await unit.broadcasts.insert([
    {
      ...emptyBroadcast(id, name, order.by, at),
      state: 'planning',
      starts_itself: 1,
      definition: {
        ...EMPTY_DEFINITION,
        message: { ...EMPTY_DEFINITION.message, text, given: record, ...(template ? { template } : {}) },
        audience: { include: [{ by: 'saved', id: audienceId }], exclude: [] },
        channels: [channelId],
      },
    },
  ]);
  await noteChanges(unit, at, [['broadcast', id]]);
  return id;
}

async function definitionOf(unit: Unit, actor: Actor, order: BroadcastOrder): Promise<BroadcastDefinition> {
  const include = await partsOf(unit, order.to, 'to');
  if (order.to.recipients?.length) include.push({ by: 'list' });
  const { rules, ...usual } = EMPTY_DEFINITION;
  const { firstSteps = rules.first } = order;
  return readDefinition({
    ...usual,
    message: {
      purpose: order.purpose,
      text: order.text,
      ...(order.subject === undefined ? {} : { subject: order.subject }),
      choices: [...(order.choices ?? [])],
      ...(order.template ? { template: order.template } : {}),
      anyLanguage: true,
    },
    audience: { include, exclude: await partsOf(unit, order.except ?? {}, 'except') },
    channels: await channelsOf(unit, actor, order.channels),
    when: order.when ?? usual.when,
    usefulMinutes: order.usefulMinutes ?? null,
    quietHours: order.quietHours ?? true,
    rules: { ...rules, first: firstSteps },
  });
}

async function partsOf(
  unit: Unit,
  { everybody, tags = [], audiences = [] }: OrderedPeople,
  field: string,
): Promise<AudiencePart[]> {
  const saved = await unit.audiences.all();
  return [
    ...(everybody ? [{ by: 'everybody' as const }] : []),
    ...tags.map(
      (tag): AudiencePart => ({ by: 'filter', conditions: { match: 'all', of: [{ on: 'tag', is: 'has', tag }] } }),
    ),
    ...audiences.map((named): AudiencePart => {
      const known = saved.find(({ id, name }) => id === named || name === named);
      if (!known)
        throw invalidText(
          `${field}.audiences`,
          `There is no audience “${named}”.`,
          'Use the id or the name of a saved one.',
        );
      return { by: 'saved', id: known.id };
    }),
  ];
}

async function channelsOf(unit: Unit, actor: Actor, named: readonly string[]): Promise<string[]> {
  const reach = await reachOf(unit, actor);
  const channels = (await unit.channels.all()).filter(({ id }) => reachesChannel(reach, id));
  return named.map((each) => {
    const known = channels.find(({ id, address, name }) => id === each || address === each || name === each);
    if (!known)
      throw invalidText('channels', `There is no channel “${each}”.`, 'Use the id or the number of a channel.');
    return known.id;
  });
}
