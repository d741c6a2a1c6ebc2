import { readBench } from '../../../../../operations/bench';
import { drillRuns } from '../../../../../operations/drills';
import { actorOf, currentPerson } from '../../../../_server/session';
import { windgap } from '../../../../_server/windgap';

/** The bench as it is now; the page asks again and again while it is open. */
export async function GET(): Promise<Response> {
  const person = await currentPerson();
  if (!person) return new Response(null, { status: 401 });
  try {
    const w = await windgap();
    const state = await readBench(w, actorOf(person));
    return Response.json((await drillRuns(w)) ? { ...state, faults: {} } : state);
  } catch {
    return new Response(null, { status: 502 });
  }
}
