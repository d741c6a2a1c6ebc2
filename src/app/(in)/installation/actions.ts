'use server';

import { revalidatePath } from 'next/cache';
import { saveOrganisation } from '../../../operations/organisation';
import { changeRetention } from '../../../operations/retention';
import { nameInstallation } from '../../../operations/shell';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

export async function nameAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await nameInstallation(ctx, actor, field(form, 'name'));
    revalidatePath('/', 'layout');
    return { status: 'done', message: 'Saved' };
  });
}

export async function organisationAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await saveOrganisation(ctx, actor, {
      zone: field(form, 'zone'),
      countries: field(form, 'countries')
        .split(/[\n,;]+/)
        .map((line) => line.trim())
        .filter(Boolean),
      language: field(form, 'language'),
      help: field(form, 'help'),
    });
    revalidatePath('/installation');
    return { status: 'done', message: 'Saved' };
  });
}

export async function retentionAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const days = [...form].map(([name, value]) => [name, Number(value)] as const);
    await changeRetention(ctx, actor, Object.fromEntries(days));
    revalidatePath('/installation');
    return { status: 'done', message: 'Saved' };
  });
}
