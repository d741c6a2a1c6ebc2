/** Does the steps of automations. Each may be done twice without harm: its key is the run's and the step's. */

import type { Outcome } from '../../core/steps/run';
import type { SendStep, Step } from '../../core/steps/steps';
import type { RunRow } from '../../store/schema/rows';
import { performRecord } from '../apps/records';
import { appendRow } from '../apps/sheets';
import { type Actor, type AppContext, isOperationError } from '../context';
import { holderOf, ofTelephone, phone } from '../identities';
import { createSender, type Sender } from '../outbound';
import { performNotice } from '../people';
import { performRouteStep } from '../routing';

export type Performer = (step: Step, run: RunRow) => Promise<Outcome>;

export function createPerformer(ctx: AppContext): Performer {
  const send = createSender(ctx);
  return (step, run) => {
    switch (step.kind) {
      case 'send':
        return performSend(ctx, send, step, run);
      case 'record':
        return performRecord(ctx, step, run);
      case 'append':
        return appendRow(ctx, step);
      case 'notify':
        return performNotice(ctx, step, `${run.id}.${run.next}`);
      case 'route':
        return performRouteStep(ctx, send, step, run);
      case 'wait':
        return Promise.resolve(
          step.until > ctx.now()
            ? { kind: 'not-yet', until: step.until }
            : { kind: 'done', said: `Waited until ${new Date(step.until).toISOString()}` },
        );
    }
  };
}

async function performSend(ctx: AppContext, send: Sender, step: SendStep, run: RunRow): Promise<Outcome> {
  const app = await ctx.store.apps.one({ id: run.app_id });
  const actor: Actor = {
    kind: 'app',
    id: run.app_id,
    name: app?.name ?? run.app_id,
    keyId: run.source_id,
    scopes: ['messages:send'],
  };
  try {
    const from = await senderOf(ctx, step);
    const { to, template, media, tags, subject, usefulUntil: validUntil } = step;
    const text = template ? '' : step.text;
    const answer = await send(
      actor,
      { to, from, text, template, media, tags, subject, validUntil },
      `${run.id}.${run.next}`,
    );
    return { kind: 'done', said: `Message to ${to}`, ref: answer.message.id };
  } catch (error) {
    if (!isOperationError(error)) throw error;
    const { field, finding } = error.findings[0] ?? {};
    // Asked with the key of an attempt that was made, it would have been answered as that was.
    if (field === 'validUntil' && (step.usefulUntil ?? 0) <= ctx.now())
      return { kind: 'done', said: 'Not sent: the moment after which it was of no use had passed' };
    return {
      kind: 'failed',
      finding: finding ?? {
        code: 'refused',
        severity: 'error',
        problem: error.message,
        remedy: 'Fix it and send again.',
      },
    };
  }
}

/** The channel to send from: by its id, or by the number or the name a record gives. */
async function senderOf(ctx: AppContext, { sender, from, to }: SendStep): Promise<string> {
  if (sender.by === 'channel') return sender.channel;
  if (sender.by === 'thread') {
    const holder = await holderOf(ctx.store, phone(to));
    const thread = holder && (await ctx.store.conversations.one({ contact_id: holder.contact_id }));
    const channel = thread && (await ctx.store.channels.one({ id: thread.channel_id }));
    return channel && ofTelephone(channel) ? channel.id : sender.otherwise;
  }
  const named = await ctx.store.channels.one({ name: from ?? '' });
  return named?.id ?? from ?? '';
}
