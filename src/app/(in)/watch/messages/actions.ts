'use server';

import { revalidatePath } from 'next/cache';
import { keepLogView, removeLogView } from '../../../../operations/messages/logViews';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function keepViewAction(query: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await keepLogView(ctx, actor, { name: field(form, 'name'), query });
    revalidatePath('/watch/messages');
    return { status: 'done', message: 'Kept for everybody' };
  });
}

export async function removeViewAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeLogView(ctx, actor, id);
    revalidatePath('/watch/messages');
    return { status: 'done' };
  });
}
