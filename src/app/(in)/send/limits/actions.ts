'use server';

import { revalidatePath } from 'next/cache';
import { type Amounts, LIMITS } from '../../../../core/limits/limits';
import { microsOf } from '../../../../core/limits/prices';
import { invalidText } from '../../../../operations/context';
import { changeLimits, endLift, liftLimit } from '../../../../operations/limits';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function limitsAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const given = Object.fromEntries(
      LIMITS.map(({ name, unit, words }) => [name, amountOf(name, words, field(form, name), unit === 'money')]),
    );
    await changeLimits(ctx, actor, given as Amounts);
    revalidatePath('/send/limits');
    return { status: 'done', message: 'Saved. They count from now on.' };
  });
}

function amountOf(name: string, words: string, written: string, money: boolean): number | null {
  const text = written.trim();
  if (text === '') return null;
  const amount = money ? microsOf(text) : /^\d{1,9}$/.test(text) ? Number(text) : undefined;
  if (amount === undefined)
    throw invalidText(name, `${words}: this is no amount.`, 'A whole number, or nothing for no limit.');
  return amount;
}

type Place = Pick<Parameters<typeof liftLimit>[2], 'limit' | 'subject'>;

export async function liftAction(place: Place, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await liftLimit(ctx, actor, { ...place, hours: Number(field(form, 'hours')) });
    revalidatePath('/send/limits');
    return { status: 'done', message: 'Lifted. What it stopped until now is not sent by that.' };
  });
}

export async function endLiftAction(place: Place): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await endLift(ctx, actor, { limit_name: place.limit, subject: place.subject });
    revalidatePath('/send/limits');
    return { status: 'done', message: 'The limit is in force again' };
  });
}
