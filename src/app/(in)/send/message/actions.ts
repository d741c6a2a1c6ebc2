'use server';

import { planSingle, type SingleMessage, type SinglePlan, sendSingle } from '../../../../operations/broadcasts';
import type { Asks, FormState } from '../../../../ui/forms/formState';
import { web } from '../../../../web/runtime';
import { answerForm } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

/** How it would go now, while it is written. */
export async function planSingleAction(message: SingleMessage): Promise<SinglePlan | { problem: string } | Asks> {
  let plan: SinglePlan = { ways: [] };
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    plan = await planSingle(ctx, actor, { to: String(message.to), text: String(message.text) });
    return { status: 'done' };
  });
  if (answer.status === 'ask') return answer;
  return answer.status === 'refused' ? { problem: answer.message } : plan;
}

export async function sendSingleAction(message: SingleMessage & { channel: string }): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { send } = await web();
    const { conversationId } = await sendSingle(ctx, actor, send, {
      to: String(message.to),
      text: String(message.text),
      channel: String(message.channel),
    });
    return { status: 'done', values: { conversationId } };
  });
}
