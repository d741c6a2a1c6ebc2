'use server';

import { revalidatePath } from 'next/cache';
import { isObservation } from '../../../../core/diagnosis/observations';
import { isOperationError } from '../../../../operations/context';
import { type Answer, probe, type Scope } from '../../../../operations/diagnosis';
import { signedIn } from '../../../_server/session';
import { web } from '../../../_server/windgap';

/** Does the test and answers what it showed, or why it could not be done. */
export async function probeAction(id: string, scope: Scope): Promise<{ answer: Answer } | { refused: string }> {
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
