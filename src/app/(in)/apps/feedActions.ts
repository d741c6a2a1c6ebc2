'use server';

import { addFeed, changeFeed, type FeedInput, switchFeed, syncNow } from '../../../operations/apps/feeds';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

function wanted(form: FormData): FeedInput {
  const by = field(form, 'sender');
  return {
    name: field(form, 'name'),
    url: field(form, 'url'),
    periodMinutes: Number(field(form, 'period')),
    zone: field(form, 'zone').trim(),
    country: field(form, 'country'),
    dayTime: field(form, 'dayTime').trim(),
    offsets: form.getAll('offsets').map(Number),
    text: field(form, 'text'),
    sender: by === 'thread' ? { by, otherwise: field(form, 'otherwise') } : { by: 'channel', channel: by },
    mailChannel: field(form, 'mailChannel'),
    tags: field(form, 'tags').split(','),
    notify: field(form, 'notify'),
  };
}

export async function addFeedAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await addFeed(ctx, actor, appId, wanted(form));
    return { status: 'done', message: 'The calendar is being read' };
  });
}

export async function changeFeedAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changeFeed(ctx, actor, id, wanted(form));
    return { status: 'done', message: 'Reminders are planned anew' };
  });
}

export async function syncFeedAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await syncNow(ctx, actor, id);
    return { status: 'done', message: 'The calendar is being read' };
  });
}

export async function switchFeedAction(id: string, on: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await switchFeed(ctx, actor, id, on);
    return { status: 'done', message: on ? 'Reminders are planned again' : 'Planned reminders are being cancelled' };
  });
}
