'use server';

import { revalidatePath } from 'next/cache';
import { muteFinding, unmuteFinding } from '../../../../operations/readiness';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function muteAction(key: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await muteFinding(ctx, actor, { key, reason: field(form, 'reason'), days: Number(field(form, 'days')) });
    revalidatePath('/prove/readiness');
    return { status: 'done', message: 'Muted' };
  });
}

export async function unmuteAction(key: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await unmuteFinding(ctx, actor, key);
    revalidatePath('/prove/readiness');
    return { status: 'done' };
  });
}
