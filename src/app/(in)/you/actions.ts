'use server';

import { revalidatePath } from 'next/cache';
import { changePassword, endOtherSessions, endSession } from '../../../operations/people';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

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
