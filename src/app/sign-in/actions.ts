'use server';

import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { signIn } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import { answerForm, field } from '../_server/forms';
import { closeSession, knownDevice, openSession, rememberDevice } from '../_server/session';
import { windgap } from '../_server/windgap';

export async function signInAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const person = await signIn(await windgap(), {
      email: field(form, 'email'),
      password: field(form, 'password'),
      from: (await headers()).get('x-forwarded-for') ?? 'unknown',
      device: await knownDevice(),
    });
    await rememberDevice(person.id);
    await openSession(person);
    redirect(person.role === 'agent' ? '/route/conversations' : '/');
  });
}

export async function signOutAction(): Promise<void> {
  await closeSession();
  redirect('/sign-in');
}
