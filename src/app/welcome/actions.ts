'use server';

import { redirect } from 'next/navigation';
import { createFirstOwner } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import { answerForm } from '../_server/forms';
import { readPersonForm } from '../_server/personForm';
import { openSession } from '../_server/session';
import { windgap } from '../_server/windgap';

export async function createOwnerAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const person = await createFirstOwner(await windgap(), readPersonForm(form));
    await openSession(person);
    redirect('/');
  });
}
