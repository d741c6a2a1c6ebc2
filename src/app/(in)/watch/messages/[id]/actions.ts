'use server';

import { revalidatePath } from 'next/cache';
import { redirect } from 'next/navigation';
import { againFrom } from '../../../../../operations/log';
import type { FormState } from '../../../../../ui/forms/formState';
import { answerForm } from '../../../../_server/forms';
import { signedIn } from '../../../../_server/session';
import { web } from '../../../../_server/windgap';

export async function againAction(from: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { send } = await web();
    const message = await againFrom(ctx, actor, from, send);
    if (message) redirect(`/watch/messages/${message}`);
    revalidatePath('/watch/messages/[id]', 'page');
    return { status: 'done', message: 'Replayed' };
  });
}
