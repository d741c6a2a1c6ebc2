'use server';

import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { signIn } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import { answerForm, field } from '../_server/forms';
import { knownDevice, rememberDevice, session } from '../_server/session';
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
    const open = await session();
    open.personId = person.id;
    open.sessionVersion = person.sessionVersion;
    await open.save();
    redirect(person.role === 'agent' ? '/route/conversations' : '/');
  });
}

export async function signOutAction(): Promise<void> {
  (await session()).destroy();
  redirect('/sign-in');
}
