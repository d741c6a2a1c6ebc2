/** Steps of a route that write to the person: replies, questions and the answers kept. */
import { answered } from '../../core/routing/program';
import type { Outcome } from '../../core/steps/run';
import { mapValues } from '../../core/templates/mapping';
import { allVariables } from '../../core/templates/template';
import type { PostedRecord } from '../../core/text/fields';
import { mergeText } from '../../core/text/merge';
import type { MessageRow, RunRow } from '../../store/schema/rows';
import { recordOfMessage } from '../apps/records';
import { knownOf } from '../contacts';
import { type AppContext, isOperationError } from '../context';
import type { Sender } from '../outbound';
import { servedContent } from '../templates';
import { type Op, refused, routeActor, setAttribute } from './routeStepContext';

/** What texts of a route may be filled with: the message, the contact, and what was answered. */
export async function contextOf(
  ctx: AppContext,
  run: RunRow,
  message: MessageRow,
): Promise<{ record: PostedRecord; known: Record<string, string> }> {
  const [channel, contact, known] = await Promise.all([
    ctx.store.channels.one({ id: message.channel_id }),
    ctx.store.contacts.one({ id: message.contact_id }),
    knownOf(ctx.store, [message.contact_id]),
  ]);
  const attributes = known.get(message.contact_id) ?? {};
  const answers = Object.fromEntries(
    Object.entries(run.memory).flatMap(([key, value]) => (key.startsWith('said.') ? [[key.slice(5), value]] : [])),
  );
  const record = recordOfMessage(message, contact, channel ?? { name: '', address: '' });
  return { record: { ...record, contact: { ...attributes }, answers }, known: attributes };
}

async function sends(
  send: Sender,
  run: RunRow,
  message: MessageRow,
  what: { text: string } | { template: { id: string; values: Record<string, string> } },
): Promise<Outcome> {
  try {
    const input = 'text' in what ? { text: what.text } : { text: '', template: what.template };
    const answer = await send(routeActor(run), { ...input, inReplyTo: message.id }, `${run.id}.${run.next}`);
    return { kind: 'done', said: `Answered ${message.sender}`, ref: answer.message.id };
  } catch (error) {
    if (!isOperationError(error)) throw error;
    const [first] = error.findings;
    return {
      kind: 'failed',
      finding: first?.finding ?? {
        code: 'refused',
        severity: 'error',
        problem: error.message,
        remedy: 'Fix it, and answer by hand.',
      },
    };
  }
}

export async function reply(
  ctx: AppContext,
  send: Sender,
  op: Op<'reply'>,
  run: RunRow,
  message: MessageRow,
): Promise<Outcome> {
  const { record, known } = await contextOf(ctx, run, message);
  if (!('template' in op)) {
    const { text, findings } = mergeText(op.text, record, { tokensMayStay: true });
    const [finding] = findings;
    return finding ? { kind: 'failed', finding } : sends(send, run, message, { text });
  }
  const served = await servedContent(ctx.store, op.template);
  if (!served) return refused('template-gone', 'The template was archived.', 'Choose another in the route.');
  const { values, findings } = mapValues(allVariables(served.content.variants), op.mapping, {
    record,
    attributes: known,
  });
  const [finding] = findings;
  if (finding) return { kind: 'failed', finding };
  return sends(send, run, message, { template: { id: op.template, values: { ...values } } });
}

/**
 * Waiting is noted before the question leaves, so that no answer comes too early to be one.
 * The question has the step's own key: asked again after a restart, it is sent once.
 */
export async function ask(
  ctx: AppContext,
  send: Sender,
  op: Op<'ask'>,
  run: RunRow,
  message: MessageRow,
): Promise<Outcome> {
  const answer = run.memory[`answer.${run.next}`];
  if (answer !== undefined) {
    if (op.keep) await keepAnswer(ctx, message.contact_id, op.keep, answer);
    const remember = op.keep ? { [`said.${op.keep}`]: answer } : {};
    return {
      kind: 'done',
      said: `They answered “${answer.slice(0, 80)}”`,
      ref: run.memory[`answered by.${run.next}`],
      goTo: answered(op, answer),
      remember,
    };
  }
  const asked = run.memory[`asked.${run.next}`];
  if (asked !== undefined) {
    const until = Number(asked) + op.patience;
    if (ctx.now() < until) return { kind: 'not-yet', until };
    await ctx.store.write((unit) => unit.runs.change({ id: run.id }, { awaiting: 0 }));
    return { kind: 'done', said: 'Nobody answered in time', goTo: op.late };
  }
  await ctx.store.write((unit) => unit.runs.change({ id: run.id }, { awaiting: 1 }));
  const { record } = await contextOf(ctx, run, message);
  const { text, findings } = mergeText(op.text, record, { tokensMayStay: true });
  const [finding] = findings;
  const outcome: Outcome = finding ? { kind: 'failed', finding } : await sends(send, run, message, { text });
  if (outcome.kind !== 'done') {
    await ctx.store.write((unit) => unit.runs.change({ id: run.id }, { awaiting: 0 }));
    return outcome;
  }
  const at = ctx.now();
  return {
    kind: 'not-yet',
    until: at + op.patience,
    remember: { [`asked.${run.next}`]: String(at), [`question.${run.next}`]: outcome.ref ?? '' },
  };
}

async function keepAnswer(ctx: AppContext, contactId: string, name: string, value: string): Promise<void> {
  await ctx.store.write((unit) => setAttribute(unit, contactId, name, value, ctx.now()));
}
