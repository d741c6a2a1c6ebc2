import { readBench } from '../../../../../operations/bench';
import { actorOf, currentPerson } from '../../../../_server/session';
import { windgap } from '../../../../_server/windgap';

/** The bench as it is now; the page asks again and again while it is open. */
export async function GET(): Promise<Response> {
  const person = await currentPerson();
  if (!person) return new Response(null, { status: 401 });
  try {
    return Response.json(await readBench(await windgap(), actorOf(person)));
  } catch {
    return new Response(null, { status: 502 });
  }
}
