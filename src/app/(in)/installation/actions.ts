'use server';

import { revalidatePath } from 'next/cache';
import { nameInstallation } from '../../../operations/shell';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

export async function nameAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await nameInstallation(ctx, actor, field(form, 'name'));
    revalidatePath('/', 'layout');
    return { status: 'done', message: 'Saved' };
  });
}
