'use server';

import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { askForLink, passkeyToShow, signIn, signInByPasskey } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import type { PasskeyAsked } from '../../ui/identity/passkeys';
import { admit, landingOf } from '../_server/admit';
import { answerForm, field } from '../_server/forms';
import { closeSession, knownDevice, openSession, rememberDevice } from '../_server/session';
import { windgap } from '../_server/windgap';

export async function signInAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const person = await signIn(await windgap(), {
      email: field(form, 'email'),
      password: field(form, 'password'),
      from: await caller(),
      device: await knownDevice(),
    });
    await rememberDevice(person.id);
    return admit(person, field(form, 'next'));
  });
}

async function caller(): Promise<string> {
  return (await headers()).get('x-forwarded-for') ?? 'unknown';
}

export async function askForLinkAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    await askForLink(await windgap(), field(form, 'email'), await caller());
    return { status: 'done' };
  });
}

/** What a browser signs to sign in by a passkey alone. */
export async function askPasskeyAction(): Promise<PasskeyAsked> {
  return passkeyToShow(await windgap());
}

export async function passkeySignInAction(token: string, answer: unknown, next: string): Promise<FormState> {
  return answerForm(async () => {
    const person = await signInByPasskey(await windgap(), { token: String(token), answer }, await caller());
    await openSession(person, { way: 'passkey' });
    redirect(landingOf(person, String(next)));
  });
}

export async function signOutAction(): Promise<void> {
  redirect((await closeSession()) ?? '/sign-in');
}
