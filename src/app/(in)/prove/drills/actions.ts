'use server';

import { revalidatePath } from 'next/cache';
import type { DrillLevel } from '../../../../core/drill/drills';
import { beginDrill, giveUp, guess, takeHint } from '../../../../operations/diagnosis';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

async function done(
  work: (session: Awaited<ReturnType<typeof signedIn>>) => Promise<string | undefined>,
): Promise<FormState> {
  return answerForm(async () => {
    const message = await work(await signedIn());
    revalidatePath('/prove/drills');
    return { status: 'done', ...(message ? { message } : {}) };
  });
}

export async function beginAction(level: DrillLevel): Promise<FormState> {
  return done(async ({ ctx, actor }) => {
    await beginDrill(ctx, actor, level);
    return 'Something is wrong now. Find it.';
  });
}

export async function guessAction(form: FormData): Promise<FormState> {
  return done(async ({ ctx, actor }) => {
    const { right, score } = await guess(ctx, actor, field(form, 'cause'));
    return right ? `That is it: ${score} of 100.` : 'That is not it.';
  });
}

export async function hintAction(): Promise<FormState> {
  return done(async ({ ctx, actor }) => {
    await takeHint(ctx, actor);
    return undefined;
  });
}

export async function giveUpAction(): Promise<FormState> {
  return done(async ({ ctx, actor }) => {
    await giveUp(ctx, actor);
    return 'The fault is off again.';
  });
}
