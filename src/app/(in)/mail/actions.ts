'use server';

import { setMailAccount } from '../../../operations/people';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

export async function setMailAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setMailAccount(ctx, actor, {
      through: field(form, 'through'),
      host: field(form, 'host'),
      port: field(form, 'port'),
      security: field(form, 'security'),
      believed: field(form, 'believed'),
      user: field(form, 'user'),
      password: field(form, 'password'),
      from: field(form, 'from'),
      trialTo: field(form, 'trialTo'),
    });
    return { status: 'done', message: 'The server took the trial; notices leave through it' };
  });
}
