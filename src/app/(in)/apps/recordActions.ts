'use server';

import {
  addRecordAction,
  changeRecordAction,
  checkRecords,
  connectRecords,
  type RecordActionInput,
  switchRecordAction,
} from '../../../operations/apps/records';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

export async function connectRecordsAction(
  appId: string,
  connector: string,
  names: string[],
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const credentials = Object.fromEntries(names.map((name) => [name, field(form, name)]));
    await connectRecords(ctx, actor, { appId, connector, credentials });
    return { status: 'done', message: 'The app accepts the credentials' };
  });
}

export async function checkRecordsAction(appId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await checkRecords(ctx, actor, appId);
    return { status: 'done', message: 'The app has been asked' };
  });
}

/** Fields of the app come as `field:` and their name; what is kept and how as `record way`. */
function wanted(form: FormData): RecordActionInput {
  const [record = '', way = ''] = field(form, 'way').split(' ');
  const fields = [...form.entries()].flatMap(([name, value]) =>
    name.startsWith('field:') ? [[name.slice('field:'.length), String(value)] as const] : [],
  );
  return {
    name: field(form, 'name'),
    record,
    way: way as RecordActionInput['way'],
    fields: Object.fromEntries(fields),
    channels: form.getAll('channels').map(String),
    byRoute: form.get('byRoute') === 'on',
  };
}

export async function addRecordActionAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await addRecordAction(ctx, actor, appId, wanted(form));
    return { status: 'done', message: 'The next message that comes in is kept' };
  });
}

export async function changeRecordActionAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changeRecordAction(ctx, actor, id, wanted(form));
    return { status: 'done', message: 'Messages are kept like this from now on' };
  });
}

export async function switchRecordActionAction(id: string, on: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await switchRecordAction(ctx, actor, id, on);
    return { status: 'done', message: on ? 'Messages are kept again' : 'Nothing is kept until it is switched on' };
  });
}
