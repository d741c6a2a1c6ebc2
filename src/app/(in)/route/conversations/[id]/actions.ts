'use server';

import { keepByHand } from '../../../../../operations/apps/records';
import {
  addNote,
  answerIn,
  beAt,
  closeByHand,
  giveConversation,
  markRead,
  mediaToSend,
  type Present,
  reopenConversation,
} from '../../../../../operations/conversations';
import { settleUncertain } from '../../../../../operations/outbound';
import type { FormState } from '../../../../../ui/forms/formState';
import { answerForm, field } from '../../../../_server/forms';
import { signedIn } from '../../../../_server/session';
import { web } from '../../../../_server/windgap';

export async function replyAction(
  reply: {
    conversationId: string;
    seen: string | undefined;
    to: string;
    from: string;
    subject?: string;
    inReplyTo?: string;
    mediaId?: string;
  },
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { send } = await web();
    const { mediaId, ...target } = reply;
    const media = mediaId ? await mediaToSend(ctx, actor, mediaId) : undefined;
    await answerIn(ctx, send, actor, { ...target, text: field(form, 'text'), media });
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
  const { ctx, actor } = await signedIn();
  await markRead(ctx, actor, id);
}

export async function settleAction(messageId: string, decision: 'send-again' | 'arrived'): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await settleUncertain(ctx, actor, messageId, decision);
    return { status: 'done', message: decision === 'send-again' ? 'It is in the outbox again' : 'Noted as arrived' };
  });
}

export async function giveAction(id: string, to: { person?: string; team?: string }): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await giveConversation(ctx, actor, id, to);
    return { status: 'done' };
  });
}

export async function closeAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await closeByHand(ctx, actor, id);
    return { status: 'done' };
  });
}

export async function reopenAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await reopenConversation(ctx, actor, id);
    return { status: 'done' };
  });
}

export async function noteAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await addNote(ctx, actor, id, field(form, 'note'));
    return { status: 'done' };
  });
}

export async function presentAction(id: string, writing: boolean): Promise<Present[]> {
  const { ctx, actor } = await signedIn();
  return beAt(ctx, actor, id, writing);
}

export async function keepAction(conversationId: string, actionId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { name } = await keepByHand(ctx, actor, { conversationId, actionId });
    return { status: 'done', message: `“${name}” is on its way` };
  });
}
