'use server';

import { revalidatePath } from 'next/cache';
import {
  applyScenario,
  keepScenario,
  moveClock,
  refuseDuringDrill,
  removeScenario,
  setFault,
  setHandset,
  setReviewer,
  typeOnHandset,
} from '../../../../operations/bench';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function typeAction(number: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const [way, to = ''] = field(form, 'to').split(' ');
    const picture = field(form, 'picture') === 'on';
    await typeOnHandset(ctx, actor, { number, to, way, text: field(form, 'text'), picture });
    return { status: 'done' };
  });
}

export async function handsetAction(
  number: string,
  settings: { power?: 'on' | 'off'; delayMs?: number },
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setHandset(ctx, actor, { number, ...settings });
    return { status: 'done' };
  });
}

export async function faultAction(service: string, fault: string, value: boolean | number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await refuseDuringDrill(ctx);
    await setFault(ctx, actor, { service, fault, value });
    return { status: 'done' };
  });
}

export async function clockAction(ms: number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await refuseDuringDrill(ctx);
    await moveClock(ctx, actor, ms);
    revalidatePath('/', 'layout');
    return { status: 'done' };
  });
}

export async function reviewerAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const seconds = Math.min(Math.max(Number(field(form, 'seconds')) || 0, 0), 3600);
    const perHour = Math.min(Math.max(Math.round(Number(field(form, 'perHour')) || 0), 0), 1000);
    await setReviewer(ctx, actor, { reviewMs: seconds * 1000, perHour });
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
  return onBench(({ ctx, actor }) => keepScenario(ctx, actor, field(form, 'name')), 'Saved');
}

export async function applyScenarioAction(id: string | undefined): Promise<FormState> {
  return onBench(({ ctx, actor }) => applyScenario(ctx, actor, id), 'The bench is set');
}

export async function removeScenarioAction(id: string): Promise<FormState> {
  return onBench(({ ctx, actor }) => removeScenario(ctx, actor, id), 'Removed');
}
