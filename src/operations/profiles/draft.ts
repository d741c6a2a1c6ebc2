/** A connector profile drafted from a provider's document and samples; nothing is kept. */
import type { Draft, DraftInput } from '../../connectors/openapi/draft';
import { GivenUp, Refused } from '../../workers/apart';
import { type Actor, type AppContext, OperationError, requireRole } from '../context';

export type { Draft, DraftInput } from '../../connectors/openapi/draft';
export type { Question } from '../../connectors/openapi/questions';

const MOST_SAMPLES = 12;
const LONGEST_SAMPLE = 50_000;

/** Worked through apart: a document may cost far more than its length. */
export async function draftFromDocument(ctx: AppContext, actor: Actor, input: DraftInput): Promise<Draft> {
  requireRole(actor, 'administrator');
  if (input.samples.length > MOST_SAMPLES) throw new OperationError('invalid', `At most ${MOST_SAMPLES} samples.`);
  if (input.samples.some(({ text }) => text.length > LONGEST_SAMPLE))
    throw new OperationError('invalid', `A sample has more than ${LONGEST_SAMPLE} characters.`);
  try {
    return await ctx.apart.run('draftProfile', input);
  } catch (error) {
    if (error instanceof GivenUp || error instanceof Refused) throw new OperationError('invalid', error.message);
    throw error;
  }
}
