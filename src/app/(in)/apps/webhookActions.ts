'use server';

import type { MessageState } from '../../../core/delivery/lifecycle';
import {
  changeSubscription,
  endSubscription,
  pauseSubscription,
  redeliver,
  redeliverRange,
  replaceSecret,
  resumeSubscription,
  sendTestEvent,
  setSubscriptionVersion,
  subscribe,
} from '../../../operations/apps/webhooks';
import { routeToApp } from '../../../operations/routes';
import type { FormState } from '../../../ui/forms/formState';
import { answerForm, field } from '../../_server/forms';
import { signedIn } from '../../_server/session';

const HOUR = 3_600_000;

/** What the form of a subscription says; nothing ticked does not narrow. */
function wanted(form: FormData) {
  return {
    url: field(form, 'url'),
    events: form.getAll('events').map(String),
    filter: {
      channels: form.getAll('channels').map(String),
      states: form.getAll('states').map((state) => String(state) as MessageState),
      allApps: form.get('allApps') === 'on',
    },
  };
}

export async function subscribeAction(appId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { secret } = await subscribe(ctx, actor, { appId, ...wanted(form) });
    if (form.get('route') === 'on') await routeToApp(ctx, actor, appId, true);
    return { status: 'done', values: { secret } };
  });
}

export async function changeSubscriptionAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await changeSubscription(ctx, actor, id, wanted(form));
    return { status: 'done', message: 'From now on events go as you said' };
  });
}

export async function subscriptionVersionAction(id: string, version: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setSubscriptionVersion(ctx, actor, id, version);
    return { status: 'done', message: `Events are of version ${version} from now on` };
  });
}

export async function replaceSecretAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { secret } = await replaceSecret(ctx, actor, id);
    return { status: 'done', values: { secret } };
  });
}

export async function pauseAction(id: string, pause: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await (pause ? pauseSubscription : resumeSubscription)(ctx, actor, id);
    return { status: 'done', message: pause ? 'Events wait from now on' : 'It goes on where it stopped' };
  });
}

export async function endSubscriptionAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await endSubscription(ctx, actor, id);
    return { status: 'done', message: 'No more events go there' };
  });
}

export async function testEventAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await sendTestEvent(ctx, actor, id);
    return { status: 'done', message: 'A test event is on its way; its outcome is below' };
  });
}

export async function replayAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const hours = Number(field(form, 'hours'));
    const which = form.get('which') === 'all' ? 'all' : 'not-delivered';
    const to = ctx.now();
    const count = await redeliverRange(ctx, actor, id, { from: to - hours * HOUR, to, which });
    return {
      status: 'done',
      message: count === 0 ? 'There is nothing of that kind in this time' : `${count} events are in the queue again`,
    };
  });
}

export async function redeliverAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await redeliver(ctx, actor, id);
    return { status: 'done', message: 'It is in the queue again' };
  });
}
