'use server';

import { revalidatePath } from 'next/cache';
import { type Decision, decideSetAside, listWord } from '../../../../operations/setAside';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

function decide(keys: string[], decision: Decision, words: (n: number) => string, form?: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const done = await decideSetAside(ctx, actor, keys, decision, form && field(form, 'why'));
    revalidatePath('/watch/set-aside');
    return { status: 'done', message: words(done) };
  });
}

export async function processAgainAction(key: string): Promise<FormState> {
  return decide([key], 'process again', () => 'It is processed again');
}

export async function processAllAgainAction(keys: string[]): Promise<FormState> {
  return decide(keys, 'process again', (n) => `${n} of ${keys.length} are processed again`);
}

export async function dropAction(key: string, form: FormData): Promise<FormState> {
  return decide([key], 'drop', () => 'Dropped', form);
}

export async function dropAllAction(keys: string[], form: FormData): Promise<FormState> {
  return decide(keys, 'drop', (n) => `Dropped ${n} of ${keys.length}`, form);
}

/** `what`: which list of the profile it belongs to. */
export async function listWordAction(
  requestId: string,
  what: string,
  word: string,
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const n = await listWord(ctx, actor, { requestId, what, word, means: field(form, 'means') });
    revalidatePath('/watch/set-aside');
    return {
      status: 'done',
      message: `The profile lists “${word}”; ${n === 1 ? 'one post is' : `${n} posts are`} read again`,
    };
  });
}
