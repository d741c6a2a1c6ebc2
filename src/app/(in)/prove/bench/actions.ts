'use server';

import { setFault, setHandset, setReviewer, typeOnHandset } from '../../../../operations/bench';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function typeAction(number: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { w, actor } = await signedIn();
    const [way, to = ''] = field(form, 'to').split(' ');
    const picture = field(form, 'picture') === 'on';
    await typeOnHandset(w, actor, { number, to, way, text: field(form, 'text'), picture });
    return { status: 'done' };
  });
}

export async function handsetAction(
  number: string,
  settings: { power?: 'on' | 'off'; delayMs?: number },
): Promise<FormState> {
  return answerForm(async () => {
    const { w, actor } = await signedIn();
    await setHandset(w, actor, { number, ...settings });
    return { status: 'done' };
  });
}

export async function faultAction(service: string, fault: string, value: boolean | number): Promise<FormState> {
  return answerForm(async () => {
    const { w, actor } = await signedIn();
    await setFault(w, actor, { service, fault, value });
    return { status: 'done' };
  });
}

export async function reviewerAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { w, actor } = await signedIn();
    const seconds = Math.min(Math.max(Number(field(form, 'seconds')) || 0, 0), 3600);
    const perHour = Math.min(Math.max(Math.round(Number(field(form, 'perHour')) || 0), 0), 1000);
    await setReviewer(w, actor, { reviewMs: seconds * 1000, perHour });
    return { status: 'done', message: 'From the next submission on' };
  });
}
