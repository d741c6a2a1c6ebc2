'use server';

import { revalidatePath } from 'next/cache';
import { isObservation } from '../../../../core/diagnosis/observations';
import { found, isOperationError } from '../../../../operations/context';
import { makeGood, type Probed, probe, type Scope } from '../../../../operations/diagnosis';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';
import { web } from '../../../_server/windgap';
import { complaintOf, queryOf } from './query';

/** Does the test and answers what it showed, or why it could not be done. */
export async function probeAction(id: string, scope: Scope): Promise<Probed | { refused: string }> {
  const { ctx, actor } = await signedIn();
  const { send } = await web();
  if (!isObservation(id)) return { refused: 'There is no such test.' };
  try {
    const answer = await probe(ctx, actor, send, id, scope);
    revalidatePath('/prove/diagnosis');
    return answer;
  } catch (error) {
    // Whoever has to sign in first is asked to, as everywhere.
    if (isOperationError(error) && error.kind !== 'signed-out') return { refused: error.message };
    throw error;
  }
}

/** Sends or reads once more what the complaint at this address shows to be lost. */
export async function makeGoodAction(here: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { send } = await web();
    const complaint = found(complaintOf(queryOf(new URL(here, 'http://windgap').searchParams)), 'complaint');
    const { done, refused } = await makeGood(ctx, actor, send, complaint);
    revalidatePath('/prove/diagnosis');
    const [why] = refused;
    return { status: 'done', message: `${done} done again${why ? `; ${refused.length} refused: ${why}` : ''}` };
  });
}
