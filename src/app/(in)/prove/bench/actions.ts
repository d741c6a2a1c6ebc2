'use server';

import { revalidatePath } from 'next/cache';
import { moveClock, setFault, setHandset, setReviewer, typeOnHandset } from '../../../../operations/bench';
import { applyScenario, keepScenario, removeScenario } from '../../../../operations/benchScenarios';
import { refuseDuringDrill } from '../../../../operations/drills';
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
    await refuseDuringDrill(w);
    await setFault(w, actor, { service, fault, value });
    return { status: 'done' };
  });
}

export async function clockAction(ms: number): Promise<FormState> {
  return answerForm(async () => {
    const { w, actor } = await signedIn();
    await refuseDuringDrill(w);
    await moveClock(w, actor, ms);
    revalidatePath('/', 'layout');
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

async function onBench(
  work: (session: Awaited<ReturnType<typeof signedIn>>) => Promise<void>,
  message: string,
): Promise<FormState> {
  return answerForm(async () => {
    await work(await signedIn());
    revalidatePath('/prove/bench');
    return { status: 'done', message };
  });
}

export async function keepScenarioAction(form: FormData): Promise<FormState> {
  return onBench(({ w, actor }) => keepScenario(w, actor, field(form, 'name')), 'Kept');
}

export async function applyScenarioAction(id: string | undefined): Promise<FormState> {
  return onBench(({ w, actor }) => applyScenario(w, actor, id), 'The bench is set');
}

export async function removeScenarioAction(id: string): Promise<FormState> {
  return onBench(({ w, actor }) => removeScenario(w, actor, id), 'Removed');
}
