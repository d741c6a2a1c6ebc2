'use server';

import { redirect } from 'next/navigation';
import {
  approveBroadcast,
  askForPlan,
  cancelBroadcast,
  copyBroadcast,
  countBroadcast,
  createBroadcast,
  findPeople,
  holdBroadcast,
  removeBroadcast,
  resendToFailed,
  resumeBroadcast,
  saveBroadcast,
  saveBroadcastRules,
  sendBack,
  showBroadcast,
  startBroadcast,
} from '../../../../operations/broadcasts';
import type { Asks, FormState } from '../../../../ui/forms/formState';
import { web } from '../../../../web/runtime';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function createBroadcastAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await createBroadcast(ctx, actor, field(form, 'name'));
    redirect(`/send/broadcasts/${id}`);
  });
}

export async function copyBroadcastAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const copy = await copyBroadcast(ctx, actor, id);
    redirect(`/send/broadcasts/${copy.id}`);
  });
}

export async function resendBroadcastAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const again = await resendToFailed(ctx, actor, id);
    redirect(`/send/broadcasts/${again.id}`);
  });
}

export async function removeBroadcastAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeBroadcast(ctx, actor, id);
    redirect('/send/broadcasts');
  });
}

/** `plan`: whether it is planned as soon as it is saved. */
export async function saveBroadcastAction(
  id: string,
  seen: number,
  written: { name: string; definition: unknown; plan: boolean },
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { name, definition, plan } = written;
    const { version } = await saveBroadcast(ctx, actor, id, { name, definition, version: seen });
    if (plan) await askForPlan(ctx, actor, id, version);
    return { status: 'done', values: { version: String(version) } };
  });
}

export async function countBroadcastAction(
  id: string,
  definition: unknown,
): Promise<{ contacts: number; list: number } | { problem: string } | Asks> {
  let counted = { contacts: 0, list: 0 };
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    counted = await countBroadcast(ctx, actor, id, definition);
    return { status: 'done' };
  });
  if (answer.status === 'ask') return answer;
  return answer.status === 'refused' ? { problem: answer.message } : counted;
}

/** Contacts with a name or a number like it, to choose one by one. */
export async function findPeopleAction(typed: string): Promise<[id: string, words: string][] | Asks> {
  let people: [string, string][] = [];
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    people = await findPeople(ctx, actor, typed);
    return { status: 'done' };
  });
  return answer.status === 'ask' ? answer : people;
}

export async function showBroadcastAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { send } = await web();
    await showBroadcast(ctx, actor, send, id, field(form, 'to'));
    return { status: 'done', message: 'Sent' };
  });
}

export async function startBroadcastAction(id: string, seen: number, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { state } = await startBroadcast(ctx, actor, id, { version: seen, reason: field(form, 'reason') });
    return { status: 'done', message: state === 'approval' ? 'It waits for a second person' : 'Started' };
  });
}

export async function approveBroadcastAction(id: string, seen: number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await approveBroadcast(ctx, actor, id, seen);
    return { status: 'done', message: 'Approved' };
  });
}

export async function sendBackAction(id: string, seen: number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await sendBack(ctx, actor, id, seen);
    return { status: 'done', message: 'It is a draft again' };
  });
}

export async function holdBroadcastAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await holdBroadcast(ctx, actor, id);
    return { status: 'done', message: 'Held' };
  });
}

export async function resumeBroadcastAction(id: string, seen: number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await resumeBroadcast(ctx, actor, id, seen);
    return { status: 'done', message: 'Resumed' };
  });
}

export async function cancelBroadcastAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await cancelBroadcast(ctx, actor, id);
    return { status: 'done', message: 'Cancelled' };
  });
}

export async function broadcastRulesAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await saveBroadcastRules(ctx, actor, {
      people: field(form, 'people'),
      cost: field(form, 'cost'),
      prepare: field(form, 'prepare'),
      start: field(form, 'start'),
      approve: field(form, 'approve'),
      most: field(form, 'most'),
      days: field(form, 'days'),
      quiet: String(form.get('quiet') ?? ''),
    });
    return { status: 'done', message: 'Saved' };
  });
}
