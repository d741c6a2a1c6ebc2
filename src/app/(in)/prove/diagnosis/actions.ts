'use server';

import { revalidatePath } from 'next/cache';
import { isObservation } from '../../../../core/diagnosis/observations';
import type { Scope } from '../../../../operations/complaintEvidence';
import { type Answer, probe } from '../../../../operations/diagnosing';
import { isOperationError } from '../../../../operations/errors';
import { signedIn } from '../../../_server/session';
import { web } from '../../../_server/windgap';

/** Does the test and answers what it showed, or why it could not be done. */
export async function probeAction(id: string, scope: Scope): Promise<{ answer: Answer } | { refused: string }> {
  const { w, actor } = await signedIn();
  const { send } = await web();
  if (!isObservation(id)) return { refused: 'There is no such test.' };
  try {
    const answer = await probe(w, actor, send, id, scope);
    revalidatePath('/prove/diagnosis');
    return answer;
  } catch (error) {
    if (isOperationError(error)) return { refused: error.message };
    throw error;
  }
}
