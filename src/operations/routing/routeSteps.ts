/** Does the steps of routes: each with what is known when its turn comes, and each so that doing it twice does no harm. */
import { channelKind } from '../../core/connect/channelKinds';
import { mapRecord } from '../../core/records/mapRecord';
import type { Arrival } from '../../core/routing/arrival';
import { decide } from '../../core/routing/decide';
import { chosen, type RouteOp } from '../../core/routing/program';
import type { Outcome } from '../../core/steps/run';
import { mergeText } from '../../core/text/merge';
import type { ChannelRow, MessageRow, RunRow } from '../../store/schema/rows';
import { countOpenRecords, performRecord } from '../apps/records';
import { appendRow, cellsOf } from '../apps/sheets';
import { emitMessageEvents } from '../apps/webhooks';
import { recordConsents } from '../contacts';
import { type AppContext, noteChanges } from '../context';
import type { Sender } from '../outbound';
import { performNotice } from '../people';
import { fault, recordFacts } from '../proofs';
import { liveRoutes } from '../routes';
import { closeConversation } from '../threads';
import { assign } from './routeAssigning';
import { ask, contextOf, reply } from './routeReplies';
import { type Op, refused, setAttribute } from './routeStepContext';
import { carryOut } from './routing';

export async function performRouteStep(ctx: AppContext, send: Sender, op: RouteOp, run: RunRow): Promise<Outcome> {
  const message = await ctx.store.messages.one({ id: run.subject_id });
  if (!message) return refused('message-gone', 'The message it is about is no longer kept.', 'Nothing is to be done.');
  switch (op.do) {
    case 'decide':
      return decideAfterAsking(ctx, run, message);
    case 'reply':
      return reply(ctx, send, op, run, message);
    case 'ask':
      return ask(ctx, send, op, run, message);
    case 'wait':
      return wait(ctx, op, run);
    case 'go':
      return { kind: 'done', said: '', goTo: op.at };
    case 'branch': {
      const { facts, hours } = await factsNow(ctx, message);
      return { kind: 'done', said: 'Looked which case it is', goTo: chosen(op, facts, hours) };
    }
    case 'assign':
      return assign(ctx, op.whom, run, message);
    case 'record':
      return keepRecord(ctx, op, run, message);
    case 'tell':
      return tell(ctx, op, run, message);
    case 'append':
      return addRow(ctx, op, run, message);
    case 'notify':
      return notify(ctx, op, run, message);
    default:
      return change(ctx, op, run, message);
  }
}

function wait(ctx: AppContext, op: Op<'wait'>, run: RunRow): Outcome {
  const begun = run.memory[`waits.${run.next}`];
  const until = (begun === undefined ? ctx.now() : Number(begun)) + op.ms;
  if (ctx.now() >= until) return { kind: 'done', said: 'Waited' };
  return { kind: 'not-yet', until, remember: begun === undefined ? { [`waits.${run.next}`]: String(ctx.now()) } : {} };
}

/** The facts the message came in with, and how its person stands now. */
async function factsNow(ctx: AppContext, message: MessageRow) {
  const [row, live, tags, attributes, contact] = await Promise.all([
    ctx.store.messageRoutings.one({ message_id: message.id }),
    liveRoutes(ctx, ctx.store),
    ctx.store.contactTags.all({ contact_id: message.contact_id }),
    ctx.store.contactAttributes.all({ contact_id: message.contact_id }),
    ctx.store.contacts.one({ id: message.contact_id }),
  ]);
  const facts: Arrival = {
    ...(row?.facts as Arrival),
    at: ctx.now(),
    tags: tags.map(({ tag }) => tag),
    attributes: Object.fromEntries(attributes.map(({ name, value }) => [name, value])),
    language: contact?.language ?? row?.facts.language,
  };
  return { facts, hours: live.compiled.set.hours, live };
}

/** Asks apps for what the routes need to know, as often as another route needs more, and decides. */
async function decideAfterAsking(ctx: AppContext, run: RunRow, message: MessageRow): Promise<Outcome> {
  const row = await ctx.store.messageRoutings.one({ message_id: message.id });
  if (!row) return refused('message-gone', 'Nothing is known of this message.', 'Answer it by hand.');
  if (row.outcome !== 'asking') return { kind: 'done', said: 'Decided already' };
  const live = await liveRoutes(ctx, ctx.store);
  let facts = row.facts;
  for (;;) {
    const decision = decide(live.compiled, facts);
    if (decision.kind === 'decided') {
      await ctx.store.write(async (unit) => {
        const now = await unit.messageRoutings.one({ message_id: message.id });
        if (now?.outcome !== 'asking') return;
        await carryOut(unit, live, [{ message, arrival: facts, routes: decision.routes }], ctx.now(), {
          replace: true,
        });
      });
      ctx.engineWakeUp.ring('webhooks');
      const taken = decision.routes.map(({ name }) => `“${name}”`).join(', ');
      return { kind: 'done', said: taken ? `Handled by ${taken}` : 'No route matches' };
    }
    const open = { ...facts.open };
    for (const key of decision.open) open[key] = await countOpenRecords(ctx, key, message.sender, run.id);
    facts = { ...facts, open };
  }
}

async function keepRecord(
  ctx: AppContext,
  { action: id }: Op<'record'>,
  run: RunRow,
  message: MessageRow,
): Promise<Outcome> {
  const action = await ctx.store.recordActions.one({ id });
  if (!action || action.disabled_at !== null)
    return refused('action-gone', 'The record action is gone or switched off.', 'Choose another in the route.');
  const account = await ctx.store.appAccounts.one({ app_id: action.app_id });
  const type = account && ctx.apps.get(account.connector).records.find((each) => each.id === action.record);
  if (!type)
    return refused(
      'records-not-connected',
      'The records of this app are not connected.',
      'Connect them on the app’s page.',
    );
  const { record } = await contextOf(ctx, run, message);
  const { values, findings } = mapRecord(type, action.fields, record);
  const [finding] = findings;
  if (finding) return { kind: 'failed', finding, cause: 'record-field-empty' };
  const step = { kind: 'record' as const, record: action.record, way: action.way, phone: message.sender, values };
  const outcome = await performRecord(ctx, step, { ...run, app_id: action.app_id });
  await noteProof(ctx, outcome, [action.id, action.app_id], run, message);
  return outcome;
}

/** Once: the mark of it is written with the events. */
async function tell(ctx: AppContext, { app }: Op<'tell'>, run: RunRow, message: MessageRow): Promise<Outcome> {
  const mark = `told.${run.next}`;
  await ctx.store.write(async (unit) => {
    const now = await unit.runs.one({ id: run.id });
    if (!now || now.memory[mark] !== undefined) return;
    await emitMessageEvents(unit, 'windgap.message.received', [message], ctx.now(), [app]);
    await unit.runs.change({ id: run.id }, { memory: { ...now.memory, [mark]: '1' } });
  });
  ctx.engineWakeUp.ring('webhooks');
  const row = await ctx.store.apps.one({ id: app });
  return { kind: 'done', said: `Notified ${row?.name ?? 'the app'}` };
}

/** What a route has an app do proves or breaks that automation as any message does. */
async function noteProof(
  ctx: AppContext,
  outcome: Outcome,
  subjects: readonly string[],
  run: RunRow,
  message: MessageRow,
): Promise<void> {
  const at = ctx.now();
  const broken =
    outcome.kind === 'failed' || outcome.kind === 'again' ? (outcome.cause ?? 'automation-failed') : undefined;
  if (outcome.kind === 'not-yet') return;
  await ctx.store.write((unit) =>
    recordFacts(
      unit,
      subjects.map((subject) =>
        broken
          ? fault(subject, broken, at, message.id)
          : { subject, fact: { kind: 'called-out' as const, began: run.created_at, at, ref: message.id } },
      ),
      at,
    ),
  );
}

async function addRow(ctx: AppContext, op: Op<'append'>, run: RunRow, message: MessageRow): Promise<Outcome> {
  const sheet = await ctx.store.sheets.one({ id: op.sheet, way: 'append', disabled_at: null });
  if (!sheet) return refused('sheet-gone', 'The sheet is gone or switched off.', 'Choose another in the route.');
  const { record } = await contextOf(ctx, run, message);
  const outcome = await appendRow(ctx, { kind: 'append', sheet: sheet.id, cells: cellsOf(sheet, message.id, record) });
  await noteProof(ctx, outcome, [sheet.id, sheet.app_id], run, message);
  return outcome;
}

async function notify(ctx: AppContext, op: Op<'notify'>, run: RunRow, message: MessageRow): Promise<Outcome> {
  const { record } = await contextOf(ctx, run, message);
  const text = mergeText(op.text, record, { tokensMayStay: true }).text;
  const subject = mergeText(op.subject, record, { tokensMayStay: true }).text || 'A message came in';
  return performNotice(ctx, { kind: 'notify', to: [...op.to], subject, text }, `${run.id}.${run.next}`);
}

/** What changes the contact or the conversation here. */
export async function change(
  ctx: AppContext,
  op: Op<'tag' | 'attribute' | 'close' | 'opt-out'>,
  run: RunRow,
  message: MessageRow,
): Promise<Outcome> {
  const at = ctx.now();
  const by = run.memory.route ?? 'A route';
  const contact_id = message.contact_id;
  if (op.do === 'tag') {
    const tag = op.tag.trim().toLowerCase();
    await ctx.store.write(async (unit) => {
      await unit.contactTags.remove({ contact_id, tag });
      if (!op.remove) await unit.contactTags.insert([{ contact_id, tag }]);
      await noteChanges(unit, at, [['contact', contact_id]]);
    });
    return { kind: 'done', said: op.remove ? `Took off the tag ${tag}` : `Tagged ${tag}` };
  }
  if (op.do === 'attribute') {
    const { record } = await contextOf(ctx, run, message);
    const value = mergeText(op.value, record, { tokensMayStay: true }).text;
    await ctx.store.write((unit) => setAttribute(unit, contact_id, op.name, value, at));
    return { kind: 'done', said: `Set ${op.name} to ${value || 'nothing'}` };
  }
  if (op.do === 'close') {
    await ctx.store.write((unit) => closeConversation(unit, message.conversation_id, by, at));
    return { kind: 'done', said: 'Closed the conversation' };
  }
  const channel = (await ctx.store.channels.one({ id: message.channel_id })) as ChannelRow;
  await ctx.store.write((unit) =>
    recordConsents(unit, [
      {
        contact_id,
        way: channelKind(channel.kind).consent,
        what: 'withdrawn',
        at,
        how: 'word',
        wording: message.text,
        by: message.sender,
        ref: message.id,
      },
    ]),
  );
  return { kind: 'done', said: 'Recorded the opt-out' };
}
