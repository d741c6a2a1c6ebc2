/** The inbound URL as a function from Request to Response: providers post here; stored first, answered second. */
import { answerAtDoor, LARGEST_KNOCK, SEAL_HEADER } from '../operations/door';
import { readBody } from './readBody';
import { web } from './runtime';

/** No channel’s token: those have a name and random letters. */
const DOOR_TOKEN = 'door';

export async function receiveInbound(request: Request, from: string): Promise<Response> {
  const { intake, windgap } = await web();
  const pathStart = request.url.indexOf('/', request.url.indexOf('//') + 2);
  const [path = '', query = ''] = request.url.slice(pathStart).split('?', 2);
  const token = path.split('/')[2] ?? '';
  if (token === DOOR_TOKEN && path.split('/').length === 3) {
    const seal = request.headers.get(SEAL_HEADER) ?? undefined;
    const body = request.body ? await readBody(request, LARGEST_KNOCK) : Buffer.alloc(0);
    return Response.json(await answerAtDoor(windgap, { method: request.method, query, seal, body, from }));
  }
  const answer = await intake({
    token,
    method: request.method,
    path,
    query,
    headers: Object.fromEntries(request.headers),
    body: async (most) => (request.method === 'POST' ? readBody(request, most) : Buffer.alloc(0)),
    remoteAddress: from,
  });
  if (answer.echo !== undefined) return new Response(answer.echo, { headers: { 'content-type': 'text/plain' } });
  // Nothing needs saying about what was taken.
  if (answer.status === 202) return new Response(null, { status: 202 });
  const headers: Record<string, string> = answer.status === 405 ? { allow: 'POST' } : {};
  return Response.json({ status: answer.reason }, { status: answer.status, headers });
}
