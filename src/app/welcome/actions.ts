'use server';

import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { claimInstallation } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import { answerForm, field } from '../_server/forms';
import { readPersonForm } from '../_server/personForm';
import { openSession } from '../_server/session';
import { windgap } from '../_server/windgap';

export async function createOwnerAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const person = await claimInstallation(
      await windgap(),
      field(form, 'code').slice(0, 100),
      readPersonForm(form),
      (await headers()).get('x-forwarded-for') ?? 'unknown',
    );
    await openSession(person, { way: 'password' });
    redirect('/');
  });
}
