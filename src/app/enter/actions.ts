'use server';

import { redirect } from 'next/navigation';
import { enterByCode } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import { answerForm, field } from '../_server/forms';
import { openSession } from '../_server/session';
import { windgap } from '../_server/windgap';

export async function enterAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const person = await enterByCode(await windgap(), field(form, 'code').slice(0, 100), field(form, 'password'));
    await openSession(person);
    redirect(person.role === 'agent' ? '/route/conversations' : '/');
  });
}
