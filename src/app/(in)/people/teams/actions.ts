'use server';

import { revalidatePath } from 'next/cache';
import { giveToTeam, limitAdministrators, removeTeam, setTeam } from '../../../../operations/people';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

const PAGE = '/people/teams';

export async function setTeamAction(name: string | null, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setTeam(ctx, actor, {
      name: name ?? field(form, 'name'),
      membersOnly: form.get('membersOnly') === 'on',
    });
    revalidatePath(PAGE);
    return { status: 'done', message: 'Saved' };
  });
}

export async function removeTeamAction(name: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeTeam(ctx, actor, name);
    revalidatePath(PAGE);
    return { status: 'done', message: 'Removed' };
  });
}

/** `what`: `channel` or `app` and an id. */
export async function giveToTeamAction(team: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const [kind, id = ''] = field(form, 'what').split(' ');
    await giveToTeam(ctx, actor, { kind: kind === 'app' ? 'app' : 'channel', id }, team);
    revalidatePath(PAGE);
    return { status: 'done', message: 'Saved' };
  });
}

export async function takeFromTeamAction(kind: 'channel' | 'app', id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await giveToTeam(ctx, actor, { kind: kind === 'app' ? 'app' : 'channel', id: String(id) }, '');
    revalidatePath(PAGE);
    return { status: 'done', message: 'It belongs to no team now' };
  });
}

export async function administratorsAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await limitAdministrators(ctx, actor, form.get('byTeam') === 'on');
    revalidatePath(PAGE);
    return { status: 'done', message: 'Saved' };
  });
}
