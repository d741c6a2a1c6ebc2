'use server';

import { revalidatePath } from 'next/cache';
import { OperationError, type Role } from '../../../operations/context';
import {
  changePerson,
  changeRole,
  clearFactors,
  invitePerson,
  makeEntryCode,
  switchPersonOff,
  switchPersonOn,
} from '../../../operations/people';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { readInvitation } from '../../_server/personForm';
import { signedIn } from '../../_server/session';

const ROLES: readonly Role[] = ['owner', 'administrator', 'agent', 'viewer'];

function roleIn(form: FormData): Role {
  const role = ROLES.find((entry) => entry === field(form, 'role'));
  if (!role) throw new OperationError('invalid', 'There is no such role.');
  return role;
}

export async function inviteAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { code } = await invitePerson(ctx, actor, { ...readInvitation(form), role: roleIn(form) });
    revalidatePath('/people');
    return { status: 'done', values: { link: `${ctx.config.publicUrl}/enter#${code}` } };
  });
}

export async function entryCodeAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { code } = await makeEntryCode(ctx, actor, id);
    return { status: 'done', values: { link: `${ctx.config.publicUrl}/enter#${code}` } };
  });
}

export async function changePersonAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changePerson(ctx, actor, id, {
      teams: field(form, 'teams'),
      mayStart: form.get('mayStart') === 'on',
      mailMe: form.get('mailMe') === 'on',
    });
    revalidatePath('/people');
    return { status: 'done', message: 'Saved' };
  });
}

export async function changeRoleAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changeRole(ctx, actor, id, roleIn(form));
    revalidatePath('/people');
    return { status: 'done', message: 'Saved' };
  });
}

export async function clearFactorsAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await clearFactors(ctx, actor, String(id));
    revalidatePath('/people');
    return { status: 'done', message: 'Taken away. They are signed out.' };
  });
}

export async function switchOffAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { conversations } = await switchPersonOff(ctx, actor, id, field(form, 'heir') || undefined);
    revalidatePath('/people');
    const handed = conversations === 1 ? '1 conversation was' : `${conversations} conversations were`;
    return { status: 'done', message: `Switched off; ${handed} handed over` };
  });
}

export async function switchOnAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await switchPersonOn(ctx, actor, id);
    revalidatePath('/people');
    return { status: 'done', message: 'Switched on again' };
  });
}
