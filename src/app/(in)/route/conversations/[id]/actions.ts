'use server';

import { markRead } from '../../../../../operations/conversations';
import { settleUncertain } from '../../../../../operations/dispatch';
import type { FormState } from '../../../../../ui/forms/formState';
import { answerForm, field } from '../../../../_server/forms';
import { signedIn } from '../../../../_server/session';
import { web } from '../../../../_server/windgap';

export async function replyAction(
  target: { to: string; from: string; inReplyTo?: string },
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { actor } = await signedIn();
    const { send } = await web();
    await send(actor, { ...target, text: field(form, 'text') });
    return { status: 'done' };
  });
}

export async function sendTemplateAction(target: {
  to: string;
  from: string;
  id: string;
  language: string;
  values: Record<string, string>;
}): Promise<FormState> {
  return answerForm(async () => {
    const { actor } = await signedIn();
    const { send } = await web();
    const { to, from, ...template } = target;
    await send(actor, { to, from, text: '', template });
    return { status: 'done', message: 'It is on its way' };
  });
}

export async function markReadAction(id: string): Promise<void> {
  const { w, actor } = await signedIn();
  await markRead(w, actor, id);
}

export async function settleAction(messageId: string, decision: 'send-again' | 'arrived'): Promise<FormState> {
  return answerForm(async () => {
    const { w, actor } = await signedIn();
    await settleUncertain(w, actor, messageId, decision);
    return { status: 'done', message: decision === 'send-again' ? 'It is in the outbox again' : 'Noted as arrived' };
  });
}
