'use server';

import {
  type ConversationSummary,
  type ConversationView,
  findElsewhere,
  listConversations,
  setIdleRule,
  VIEWS,
} from '../../../../operations/conversations';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export interface Looked {
  rows: ConversationSummary[];
  /** Where else the search fits. */
  elsewhere: { view: ConversationView; n: number }[];
}

export async function listAction(view: string, search: string): Promise<Looked> {
  const { ctx, actor } = await signedIn();
  const wanted = VIEWS.find((each) => each === view) ?? 'working';
  const text = search.trim().slice(0, 100);
  const [rows, elsewhere] = await Promise.all([
    listConversations(ctx, actor, text, wanted),
    text ? findElsewhere(ctx, actor, text, wanted) : [],
  ]);
  return { rows, elsewhere };
}

export async function setIdleAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setIdleRule(ctx, actor, {
      on: form.get('on') === 'on',
      hours: Number(field(form, 'hours')),
      notice: field(form, 'notice'),
      noticeHours: Number(field(form, 'noticeHours')),
    });
    return { status: 'done', message: 'Saved' };
  });
}
