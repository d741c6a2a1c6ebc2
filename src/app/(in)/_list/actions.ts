'use server';

import { revalidatePath } from 'next/cache';
import { keepListView, removeListView } from '../../../operations/shell';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

export async function keepViewAction(page: string, query: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await keepListView(ctx, actor, { page, name: field(form, 'name'), query });
    revalidatePath(page);
    return { status: 'done', message: 'Kept for everybody' };
  });
}

export async function removeViewAction(page: string, id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeListView(ctx, actor, id);
    revalidatePath(page);
    return { status: 'done' };
  });
}
