'use server';

import { redirect } from 'next/navigation';
import { changeHook, createHook, guardHook, postTest, switchHook } from '../../../operations/apps/hooks';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';
import { messageIn } from './messageForm';

export async function createHookAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await createHook(ctx, actor, { appId, name: field(form, 'name') });
    redirect(`/apps/${appId}/hooks/${id}`);
  });
}

export async function changeHookAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changeHook(ctx, actor, id, messageIn(form));
    return { status: 'done', message: 'Saved; posts become this message from now on' };
  });
}

export async function guardHookAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const guard = field(form, 'guard');
    const { secret } = await guardHook(ctx, actor, id, guard === 'token' || guard === 'signature' ? guard : 'address');
    return secret ? { status: 'done', values: { secret } } : { status: 'done', message: 'Its address alone opens it' };
  });
}

export async function switchHookAction(id: string, on: boolean, form?: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await switchHook(ctx, actor, id, on, form ? field(form, 'why') : '');
    return { status: 'done', message: on ? 'Posts become messages again' : 'Posts are answered 410 from now on' };
  });
}

export async function postTestAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { status, said } = await postTest(ctx, actor, id, field(form, 'body'));
    return { status: 'done', message: `Answered ${status}: ${said}` };
  });
}
