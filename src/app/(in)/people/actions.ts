'use server';

import { revalidatePath } from 'next/cache';
import { OperationError, type Role } from '../../../operations/context';
import {
  changePerson,
  changeRole,
  clearFactors,
  type EntryCode,
  entryLink,
  invitePerson,
  mailEntryCode,
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

/** Mails a link where that was wanted; else, or where it failed, shows it this once. */
async function handed(form: FormData, code: EntryCode): Promise<FormState> {
  const { ctx, actor } = await signedIn();
  const problem = form.get('byMail') === 'on' ? await mailEntryCode(ctx, actor, code) : undefined;
  if (form.get('byMail') === 'on' && problem === undefined) return { status: 'done', message: 'Mailed' };
  return {
    status: 'done',
    values: { link: entryLink(ctx, code), ...(problem ? { problem: `It could not be mailed: ${problem}` } : {}) },
  };
}

export async function inviteAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const code = await invitePerson(ctx, actor, { ...readInvitation(form), role: roleIn(form) });
    revalidatePath('/people');
    return handed(form, code);
  });
}

export async function entryCodeAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    return handed(form, await makeEntryCode(ctx, actor, id));
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
    const { conversations, todos, automations } = await switchPersonOff(
      ctx,
      actor,
      id,
      field(form, 'heir') || undefined,
    );
    revalidatePath('/people');
    const handed = [
      conversations === 1 ? '1 conversation' : `${conversations} conversations`,
      todos === 1 ? '1 to-do' : `${todos} to-dos`,
    ].join(' and ');
    const left = automations.length > 0 ? ' A to-do names what they set up.' : '';
    return { status: 'done', message: `Switched off; ${handed} handed over.${left}` };
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
