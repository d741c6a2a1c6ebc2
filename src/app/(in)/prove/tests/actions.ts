'use server';

import { revalidatePath } from 'next/cache';
import { redirect } from 'next/navigation';
import {
  archiveTest,
  askForRuns,
  saveTest,
  setSpendingCap,
  suggestedTests,
  type TestInput,
} from '../../../../operations/deliveryTests';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

const PAGE = '/prove/tests';

export async function saveTestAction(input: TestInput, id?: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const saved = await saveTest(ctx, actor, input, id);
    revalidatePath(PAGE);
    return { status: 'done', message: 'Saved', values: { id: saved.id } };
  });
}

export async function runTestsAction(ids: string[]): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { runs } = await askForRuns(ctx, actor, ids);
    revalidatePath(PAGE);
    if (runs.length === 1) redirect(`${PAGE}/runs/${runs[0]}`);
    return { status: 'done', message: `${runs.length} tests are running` };
  });
}

export async function runChangedAction(ids: string[]): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await askForRuns(ctx, actor, ids, 'change');
    revalidatePath(PAGE);
    return { status: 'done', message: ids.length === 1 ? 'The test is running' : `${ids.length} tests are running` };
  });
}

export async function archiveTestAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await archiveTest(ctx, actor, id);
    revalidatePath(PAGE);
    redirect(PAGE);
  });
}

/** Keeps suggested tests: one by its name, or all. */
export async function keepSuggestedAction(name?: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const chosen = (await suggestedTests(ctx, actor)).filter((each) => name === undefined || each.name === name);
    for (const each of chosen)
      await saveTest(ctx, actor, { name: each.name, content: each.content, guardsPublishing: false });
    revalidatePath(PAGE);
    return { status: 'done', message: chosen.length === 1 ? 'Saved' : `${chosen.length} tests added` };
  });
}

export async function capAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const amount = field(form, 'amount').trim();
    await setSpendingCap(
      ctx,
      actor,
      amount === ''
        ? undefined
        : { micros: Math.round(Number(amount) * 1e6), currency: field(form, 'currency').trim().toUpperCase() },
    );
    revalidatePath(PAGE);
    return { status: 'done', message: 'Saved' };
  });
}
