'use server';

import {
  appendToSheet,
  changeSheet,
  decideHeldRows,
  holdJumps,
  switchSheet,
  watchSheet,
} from '../../../operations/apps/sheets';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';
import { messageIn } from './messageForm';

export async function watchSheetAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await watchSheet(ctx, actor, appId, {
      name: field(form, 'name'),
      source: field(form, 'source'),
      begin: form.get('begin') === 'all' ? 'all' : 'new',
      keyColumn: field(form, 'keyColumn'),
    });
    return { status: 'done', message: 'It is being read' };
  });
}

/** Columns come as lines of `header = fill`. */
export async function appendToSheetAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const columns = field(form, 'columns')
      .split('\n')
      .filter((line) => line.trim())
      .map((line) => {
        const [header = '', ...fill] = line.split('=');
        return { header, fill: fill.join('=') };
      });
    await appendToSheet(ctx, actor, appId, {
      name: field(form, 'name'),
      source: field(form, 'source'),
      columns,
      channels: form.getAll('channels').map(String),
    });
    return { status: 'done', message: 'The next message that comes in becomes a row' };
  });
}

export async function changeSheetAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changeSheet(ctx, actor, id, messageIn(form));
    return { status: 'done', message: 'Saved; rows become this message from now on' };
  });
}

export async function switchSheetAction(id: string, on: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await switchSheet(ctx, actor, id, on);
    return { status: 'done', message: on ? 'It goes on' : 'Nothing happens until it is switched on' };
  });
}

export async function decideHeldRowsAction(id: string, what: 'send' | 'known', print: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await decideHeldRows(ctx, actor, id, { what, print });
    return { status: 'done', message: what === 'send' ? 'They are being sent' : 'They are known now and are not sent' };
  });
}

export async function holdJumpsAction(id: string, hold: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await holdJumps(ctx, actor, id, hold);
    return { status: 'done', message: hold ? 'Many new rows at once are held' : 'All new rows are sent at once' };
  });
}
