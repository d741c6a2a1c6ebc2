import { actorOf } from '../../../operations/people';
import { searchEverything } from '../../../operations/shell';
import { currentPerson } from '../../_server/session';
import { windgap } from '../../_server/windgap';

/** What is found for a text, for the search at the head of every page. */
export async function GET(request: Request): Promise<Response> {
  const person = await currentPerson();
  if (!person) return new Response(null, { status: 401 });
  const text = new URL(request.url).searchParams.get('q') ?? '';
  return Response.json(await searchEverything(await windgap(), actorOf(person), text), {
    headers: { 'cache-control': 'no-store' },
  });
}
