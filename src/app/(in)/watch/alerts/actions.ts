'use server';

import { revalidatePath } from 'next/cache';
import { addWindow, endWindow, removeRule, saveRule, takeAlert, testRule } from '../../../../operations/alerts';
import type { Actor, AppContext } from '../../../../operations/context';
import { beatNow, endHeartbeat, setHeartbeat, setStatusPage } from '../../../../operations/status';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

function act(work: (ctx: AppContext, actor: Actor) => Promise<string>): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const message = await work(ctx, actor);
    revalidatePath('/watch/alerts', 'layout');
    return { status: 'done', message };
  });
}

export async function takeAction(id: number): Promise<FormState> {
  return act(async (ctx, actor) => {
    await takeAlert(ctx, actor, id);
    return 'It is yours';
  });
}

export async function saveRuleAction(id: string | undefined, form: FormData): Promise<FormState> {
  return act(async (ctx, actor) => {
    await saveRule(ctx, actor, {
      ...(id ? { id } : {}),
      name: field(form, 'name'),
      from: field(form, 'from'),
      team: field(form, 'team'),
      mailTo: field(form, 'mailTo'),
      phones: field(form, 'phones'),
      apps: form.getAll('apps').map(String),
      afterMinutes: field(form, 'afterMinutes'),
      quietFrom: field(form, 'quietFrom'),
      quietUntil: field(form, 'quietUntil'),
      zone: field(form, 'zone'),
      quietButErrors: form.getAll('quietBut').includes('errors'),
      escalateAfter: field(form, 'escalateAfter'),
      escalateMailTo: field(form, 'escalateMailTo'),
      escalatePhones: field(form, 'escalatePhones'),
      enabled: form.getAll('on').includes('on'),
    });
    return 'The rule is saved';
  });
}

export async function removeRuleAction(id: string): Promise<FormState> {
  return act(async (ctx, actor) => {
    await removeRule(ctx, actor, id);
    return 'The rule is gone';
  });
}

export async function testRuleAction(id: string): Promise<FormState> {
  return act(async (ctx, actor) => {
    const shut = await testRule(ctx, actor, id);
    return shut.length === 0 ? 'A test alert is on its way' : `Not told: ${shut.join('; ')}`;
  });
}

export async function addWindowAction(form: FormData): Promise<FormState> {
  return act(async (ctx, actor) => {
    await addWindow(ctx, actor, {
      hours: field(form, 'hours'),
      subject: field(form, 'subject'),
      reason: field(form, 'reason'),
    });
    return 'Nobody is told of it until then';
  });
}

export async function endWindowAction(id: string): Promise<FormState> {
  return act(async (ctx, actor) => {
    await endWindow(ctx, actor, id);
    return 'It has ended';
  });
}

export async function setHeartbeatAction(form: FormData): Promise<FormState> {
  return act(async (ctx, actor) => {
    await setHeartbeat(ctx, actor, { url: field(form, 'url'), everyMinutes: field(form, 'everyMinutes') });
    return 'The heartbeat begins within seconds';
  });
}

export async function endHeartbeatAction(): Promise<FormState> {
  return act(async (ctx, actor) => {
    await endHeartbeat(ctx, actor);
    return 'The heartbeat is stopped';
  });
}

export async function beatNowAction(): Promise<FormState> {
  return act(async (ctx, actor) => {
    const { said } = await beatNow(ctx, actor);
    return said === undefined ? 'The heartbeat was accepted' : `The heartbeat was not accepted: ${said}`;
  });
}

export async function setStatusPageAction(form: FormData): Promise<FormState> {
  return act(async (ctx, actor) => {
    const ticked = form.getAll('status').map(String);
    await setStatusPage(ctx, actor, { open: ticked.includes('open'), channels: ticked.includes('channels') });
    return ticked.includes('open') ? 'The page has a new address' : 'The page is gone';
  });
}
