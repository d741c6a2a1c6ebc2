'use server';

import { redirect } from 'next/navigation';
import {
  bindKey,
  createApiKey,
  createApp,
  narrowKey,
  replaceApiKey,
  revokeApiKey,
  setKeyVersion,
} from '../../../operations/apps';
import { SCOPES } from '../../../operations/context';
import { routeToApp } from '../../../operations/routes';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

const DAY = 24 * 3_600_000;

export async function addAppAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await createApp(ctx, actor, { name: field(form, 'name'), description: field(form, 'description') });
    redirect(`/apps/${id}`);
  });
}

/** When a key ends that is made now; never without a number of days. */
function endOf(form: FormData, now: number): number | undefined {
  const days = Number(field(form, 'days'));
  return days > 0 ? now + days * DAY : undefined;
}

export async function createKeyAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { key } = await createApiKey(ctx, actor, {
      appId,
      name: field(form, 'name'),
      scopes: SCOPES.filter((scope) => form.getAll('scopes').includes(scope)),
      expiresAt: endOf(form, ctx.now()),
      addresses: field(form, 'addresses'),
      forTests: form.get('forTests') === 'on',
    });
    return { status: 'done', values: { key } };
  });
}

export async function replaceKeyAction(keyId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { key } = await replaceApiKey(ctx, actor, keyId, {
      hours: Number(field(form, 'hours')),
      expiresAt: endOf(form, ctx.now()),
    });
    return { status: 'done', values: { key } };
  });
}

export async function revokeKeyAction(keyId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await revokeApiKey(ctx, actor, keyId);
    return { status: 'done', message: 'The key no longer works' };
  });
}

export async function keyVersionAction(keyId: string, version: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setKeyVersion(ctx, actor, keyId, version);
    return { status: 'done', message: `Answers are of version ${version} from now on` };
  });
}

export async function bindKeyAction(keyId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await bindKey(ctx, actor, keyId, field(form, 'addresses'));
    return { status: 'done', message: 'Saved' };
  });
}

export async function narrowKeyAction(keyId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await narrowKey(ctx, actor, keyId);
    return { status: 'done', message: 'It sees what its app sent or was told of' };
  });
}

export async function routeAction(appId: string, on: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await routeToApp(ctx, actor, appId, on);
    return {
      status: 'done',
      message: on ? 'Inbound messages now go to this app' : 'Inbound messages no longer go to this app',
    };
  });
}
