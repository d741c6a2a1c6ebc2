/** The inbound URL as a function from Request to Response: providers post here; stored first, answered second. */
import { readBody } from './readBody';
import { web } from './runtime';

export async function receiveInbound(request: Request, from: string): Promise<Response> {
  const { intake } = await web();
  const pathStart = request.url.indexOf('/', request.url.indexOf('//') + 2);
  const [path = '', query = ''] = request.url.slice(pathStart).split('?', 2);
  const answer = await intake({
    token: path.split('/')[2] ?? '',
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
