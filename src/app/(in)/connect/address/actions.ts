'use server';

import { revalidatePath } from 'next/cache';
import { knockNow } from '../../../../operations/door';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function knockAction(): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { state, said } = await knockNow(ctx, actor);
    revalidatePath('/connect/address');
    return { status: 'done', message: state === 'open' ? 'It came back whole' : said };
  });
}
