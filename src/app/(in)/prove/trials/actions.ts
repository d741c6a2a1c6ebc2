'use server';

import { revalidatePath } from 'next/cache';
import { keepTrial, LONGEST_TRIAL, readTrial, revertTrial, SHORTEST_TRIAL } from '../../../../operations/changeTrials';
import { invalidText, requireRole } from '../../../../operations/context';
import type { FormState } from '../../../../ui/forms/formState';
import { answerAtOnce, field } from '../../../_server/forms';
import { setTrialMinutes } from '../../../_server/onTrial/trialMode';
import { signedIn } from '../../../_server/session';

export async function changeOnTrialAction(form: FormData): Promise<FormState> {
  return answerAtOnce(async () => {
    const { actor } = await signedIn();
    requireRole(actor, 'administrator');
    const minutes = Number(field(form, 'minutes'));
    if (!Number.isInteger(minutes) || minutes < SHORTEST_TRIAL || minutes > LONGEST_TRIAL)
      throw invalidText(
        'minutes',
        'That is no length of a trial.',
        `From ${SHORTEST_TRIAL} to ${LONGEST_TRIAL} minutes.`,
      );
    await setTrialMinutes(minutes);
    revalidatePath('/', 'layout');
    return {
      status: 'done',
      message: `Trial mode is on: each change is reverted after ${minutes} min unless it is proven`,
    };
  });
}

export async function changeAtOnceAction(): Promise<void> {
  await signedIn();
  await setTrialMinutes(undefined);
  revalidatePath('/', 'layout');
}

const onOne = (work: typeof keepTrial, message: string) => async (id: string) =>
  answerAtOnce(async () => {
    const { ctx, actor } = await signedIn();
    await work(ctx, actor, id);
    return { status: 'done', message };
  });

export async function keepTrialAction(id: string): Promise<FormState> {
  return onOne(keepTrial, 'The change is kept')(id);
}

export async function revertTrialAction(id: string): Promise<FormState> {
  return onOne(revertTrial, 'The change is reverted')(id);
}

export async function readTrialAction(id: string): Promise<FormState> {
  return onOne(readTrial, 'Marked as reviewed')(id);
}
