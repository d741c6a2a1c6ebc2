'use server';

import { revalidatePath } from 'next/cache';
import { OperationError, type Role } from '../../../operations/context';
import { addPerson, changePerson } from '../../../operations/people';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { readPersonForm } from '../../_server/personForm';
import { signedIn } from '../../_server/session';

const ROLES: readonly Role[] = ['owner', 'administrator', 'agent', 'viewer'];

export async function addPersonAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const role = ROLES.find((entry) => entry === field(form, 'role'));
    if (!role) throw new OperationError('invalid', 'There is no such role.');
    const person = await addPerson(ctx, actor, { ...readPersonForm(form), role });
    revalidatePath('/people');
    return { status: 'done', message: `${person.name} can sign in as ${role}` };
  });
}

export async function changePersonAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changePerson(ctx, actor, id, {
      team: field(form, 'team'),
      mayStart: form.get('mayStart') === 'on',
      mailMe: form.get('mailMe') === 'on',
    });
    revalidatePath('/people');
    return { status: 'done', message: 'Saved' };
  });
}
