'use server';

import { revalidatePath } from 'next/cache';
import type { Role } from '../../../../operations/context';
import { readRules, removeProvider, requireSecondFactor, setProvider } from '../../../../operations/people';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

const ROLES: readonly Role[] = ['owner', 'administrator', 'agent', 'viewer'];
const PAGE = '/people/sign-in';

export async function requireAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const roles = ROLES.filter((role) => form.getAll('role').includes(role));
    const { ended } = await requireSecondFactor(ctx, actor, roles);
    revalidatePath(PAGE);
    const out = ended === 1 ? 'One session was' : `${ended} sessions were`;
    return { status: 'done', message: ended > 0 ? `Saved. ${out} ended.` : 'Saved' };
  });
}

export async function providerAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setProvider(ctx, actor, {
      name: field(form, 'name'),
      issuer: field(form, 'issuer'),
      clientId: field(form, 'clientId'),
      clientSecret: field(form, 'clientSecret'),
      groupsClaim: field(form, 'groupsClaim'),
      rules: readRules(field(form, 'rules')),
      only: form.get('only') === 'on',
    });
    revalidatePath(PAGE);
    return { status: 'done', message: 'Saved. Sign in through it once to prove it.' };
  });
}

export async function removeProviderAction(): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeProvider(ctx, actor);
    revalidatePath(PAGE);
    return { status: 'done', message: 'Removed' };
  });
}
