'use server';

import { revalidatePath } from 'next/cache';
import {
  changePassword,
  confirmSession,
  endOtherSessions,
  endSession,
  keepPasskey,
  keepTimeCodes,
  makeRecoveryCodes,
  passkeyToAdd,
  passkeyToShow,
  removePasskey,
  removeTimeCodes,
  timeCodesToAdd,
} from '../../../operations/people';
import type { FormState } from '../../../ui/forms/formState';
import type { PasskeyAsked, PasskeyOffered } from '../../../ui/identity/passkeys';
import type { TimeCodesOffered } from '../../../ui/identity/TimeCodes';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';
import { squareCode } from '../../_server/squareCode';

export async function endSessionAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await endSession(ctx, actor, id, 'ended by hand');
    revalidatePath('/you');
    return { status: 'done', message: 'Ended. Whoever used it is out with the next click.' };
  });
}

export async function endOthersAction(): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor, sessionId } = await signedIn();
    const ended = await endOtherSessions(ctx, actor, sessionId);
    revalidatePath('/you');
    return { status: 'done', message: ended === 1 ? 'One was ended' : `${ended} were ended` };
  });
}

export async function passwordAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor, sessionId } = await signedIn();
    await changePassword(ctx, actor, {
      present: field(form, 'present'),
      next: field(form, 'password'),
      here: sessionId,
    });
    revalidatePath('/you');
    return { status: 'done', message: 'Changed. Everywhere else you are signed out.' };
  });
}

/** The same asked again: that it is really the one who is signed in. */
export async function confirmByPasswordAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await confirmSession(ctx, actor, { by: 'password', password: field(form, 'password') });
    return { status: 'done' };
  });
}

export async function askOwnPasskeyAction(): Promise<PasskeyAsked> {
  const { ctx, person } = await signedIn();
  return passkeyToShow(ctx, person);
}

export async function confirmByPasskeyAction(token: string, answer: unknown): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await confirmSession(ctx, actor, { by: 'passkey', token: String(token), answer });
    return { status: 'done' };
  });
}

export async function offerPasskeyAction(): Promise<PasskeyOffered> {
  const { ctx, person } = await signedIn();
  return passkeyToAdd(ctx, person);
}

export async function addPasskeyAction(token: string, answer: unknown, name: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor, sessionId } = await signedIn();
    await keepPasskey(ctx, actor, { token: String(token), answer, name: String(name), here: sessionId });
    revalidatePath('/you');
    return { status: 'done', message: 'Added. Everywhere else you are signed out.' };
  });
}

export async function removePasskeyAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor, sessionId } = await signedIn();
    await removePasskey(ctx, actor, id, sessionId);
    revalidatePath('/you');
    return { status: 'done', message: 'Removed' };
  });
}

export async function offerCodesAction(): Promise<TimeCodesOffered> {
  const { ctx, person } = await signedIn();
  const { uri, ...offered } = await timeCodesToAdd(ctx, person);
  return { ...offered, picture: squareCode(uri) };
}

export async function useCodesAction(token: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor, sessionId } = await signedIn();
    await keepTimeCodes(ctx, actor, { token: String(token), code: field(form, 'code'), here: sessionId });
    revalidatePath('/you');
    return { status: 'done', message: 'Set up. Everywhere else you are signed out.' };
  });
}

export async function removeCodesAction(): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor, sessionId } = await signedIn();
    await removeTimeCodes(ctx, actor, sessionId);
    revalidatePath('/you');
    return { status: 'done', message: 'Removed' };
  });
}

export async function recoveryCodesAction(): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const codes = await makeRecoveryCodes(ctx, actor);
    return { status: 'done', values: { codes: codes.join('\n') } };
  });
}
