import { drillRuns, readBench } from '../../../../../operations/bench';
import { isOperationError } from '../../../../../operations/context';
import { actorOf } from '../../../../../operations/people';
import { currentPerson } from '../../../../_server/session';
import { windgap } from '../../../../_server/windgap';

/** The bench as it is now; the page asks again and again while it is open. */
export async function GET(): Promise<Response> {
  const person = await currentPerson();
  if (!person) return new Response(null, { status: 401 });
  try {
    const ctx = await windgap();
    const state = await readBench(ctx, actorOf(person));
    return Response.json((await drillRuns(ctx)) ? { ...state, faults: {} } : state);
  } catch (error) {
    if (isOperationError(error) && error.kind === 'forbidden') return new Response(error.message, { status: 403 });
    return new Response(null, { status: 502 });
  }
}
