'use server';

import { redirect } from 'next/navigation';
import type { Finding } from '../../../../core/finding';
import {
  type Draft,
  type DraftInput,
  draftFromDocument,
  examineProfileText,
  removeProfile,
  saveProfile,
  type TrialInput,
  type TrialResult,
  tryProfile,
} from '../../../../operations/profiles';
import type { Asks, FormState } from '../../../../ui/forms/formState';
import { answerForm } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

const LONGEST = 100_000;

export type DraftAnswer = { ok: true; draft: Draft } | { ok: false; message: string };

/** What a document and samples come to; asked again with every change. */
export async function draftProfileAction(input: DraftInput): Promise<DraftAnswer | Asks> {
  let draft: Draft | undefined;
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    draft = await draftFromDocument(ctx, actor, input);
    return { status: 'done' };
  });
  if (answer.status === 'ask') return answer;
  if (answer.status === 'refused') return { ok: false, message: answer.message };
  return draft ? { ok: true, draft } : { ok: false, message: 'Nothing came back.' };
}

export async function examineProfileAction(text: string): Promise<Finding[]> {
  const { actor } = await signedIn();
  return examineProfileText(actor, text.slice(0, LONGEST));
}

export async function saveProfileAction(text: string, editing: string | undefined): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await saveProfile(ctx, actor, text.slice(0, LONGEST), editing);
    if (editing === undefined) redirect(`/connect/profiles/${id}`);
    return { status: 'done', message: 'The profile is saved and in force' };
  });
}

export async function removeProfileAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeProfile(ctx, actor, id);
    redirect('/connect/profiles');
  });
}

export type TrialAnswer = { ok: true; result: TrialResult } | { ok: false; message: string };

export async function tryProfileAction(input: TrialInput): Promise<TrialAnswer | Asks> {
  let result: TrialResult | undefined;
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    result = await tryProfile(ctx, actor, { ...input, text: input.text.slice(0, LONGEST) });
    return { status: 'done' };
  });
  if (answer.status === 'ask') return answer;
  if (answer.status === 'refused') return { ok: false, message: answer.message };
  return result ? { ok: true, result } : { ok: false, message: 'Nothing came back.' };
}
