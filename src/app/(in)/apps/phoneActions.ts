'use server';

import {
  addPhoneSystem,
  changePhoneSystem,
  type PhoneSystemInput,
  switchPhoneSystem,
} from '../../../operations/apps/phone';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

function wanted(form: FormData): PhoneSystemInput {
  return {
    name: field(form, 'name'),
    events: form.getAll('events').map(String),
    answer: field(form, 'answer'),
    alert: field(form, 'alert'),
    alertPhones: field(form, 'alertPhones'),
    alertMails: field(form, 'alertMails'),
    country: field(form, 'country'),
    channel: field(form, 'channel'),
    zone: field(form, 'zone'),
    onceHours: Number(field(form, 'onceHours')),
  };
}

export async function addPhoneSystemAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await addPhoneSystem(ctx, actor, appId, wanted(form));
    return { status: 'done', message: 'Give the address to the telephone system' };
  });
}

export async function changePhoneSystemAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changePhoneSystem(ctx, actor, id, wanted(form));
    return { status: 'done', message: 'Calls are treated like this from now on' };
  });
}

export async function switchPhoneSystemAction(id: string, on: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await switchPhoneSystem(ctx, actor, id, on);
    return { status: 'done', message: on ? 'Calls are answered again' : 'Posts are answered 410 from now on' };
  });
}
