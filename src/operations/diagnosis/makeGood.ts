/** Sends or takes once more what was lost while a path was broken. */
import { type Actor, type AppContext, isOperationError, OperationError, requireRole } from '../context';
import { reworkInbound } from '../inbound';
import { againFrom } from '../log';
import type { Sender } from '../outbound';
import { type Complaint, diagnoseComplaint } from './diagnose';

export interface MadeGood {
  done: number;
  /** Those that could not be, with the reason. */
  refused: string[];
}

/** More at once would keep whoever pressed the button waiting. */
const MOST_AT_ONCE = 200;

/** Returns how many of what a healed path lost were sent or taken once more. Each is judged anew, as any other. */
export async function makeGood(ctx: AppContext, actor: Actor, send: Sender, complaint: Complaint): Promise<MadeGood> {
  requireRole(actor, 'administrator');
  const { healed } = await diagnoseComplaint(ctx, actor, complaint);
  if (!healed) throw new OperationError('conflict', 'Nothing is lost here that could be made good.');
  const refused: string[] = [];
  let done = 0;
  for (const id of healed.lost.slice(0, MOST_AT_ONCE)) {
    try {
      if (healed.kind === 'requests') await reworkInbound(ctx, actor, id);
      else await againFrom(ctx, actor, id, send);
      done += 1;
    } catch (error) {
      if (!isOperationError(error)) throw error;
      refused.push(error.message);
    }
  }
  return { done, refused };
}
