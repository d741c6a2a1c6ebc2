/** The page behind a link by which people leave mail, and what mail programs post there for them (RFC 8058). */
import { html } from 'hono/html';
import { displayAddress } from '../core/addresses/display';
import { LEAVE_ROOT, type Leaving, leave, readLeaveLink } from '../operations/contacts';
import { readBody } from './readBody';
import { web } from './runtime';

export { LEAVE_ROOT };

const LARGEST = 2048;
/** RFC 8058 §3.2: the very pair that is posted. */
const PAIR = ['List-Unsubscribe', 'One-Click'] as const;

const HEADERS = {
  'content-type': 'text/html; charset=utf-8',
  'cache-control': 'no-store',
  'referrer-policy': 'no-referrer',
  'x-robots-tag': 'noindex',
  'content-security-policy':
    "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'",
};

/** A look changes nothing: what follows links in mails by itself only looks. */
export async function serveLeave(request: Request): Promise<Response> {
  const { windgap } = await web();
  const leaving = await readLeaveLink(windgap, new URL(request.url).pathname.slice(LEAVE_ROOT.length));
  if (!leaving)
    return new Response('There is nothing at this address.', {
      status: 404,
      headers: { 'content-type': 'text/plain' },
    });
  if (request.method === 'GET' || request.method === 'HEAD') return show(leaving);
  if (request.method !== 'POST') return new Response(null, { status: 405, headers: { allow: 'GET, POST' } });
  const said = new URLSearchParams((await readBody(request, LARGEST))?.toString('utf8') ?? '');
  if (said.get(PAIR[0]) !== PAIR[1]) return show(leaving);
  await leave(windgap, leaving, 'pressed the link in a mail');
  return show({ ...leaving, done: true });
}

async function show({ words, channel, done }: Leaving): Promise<Response> {
  const page = await html`<!doctype html><html lang="${words.language}"><head><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1"><title>${words.press}</title>
<style>body{font:17px/1.5 system-ui,sans-serif;margin:12vh auto;max-width:34rem;padding:0 1.5rem;color:#1c2622;background:#f5f6f3}
button{font:inherit;padding:.5rem 1.1rem;border:1px solid #1f5c4d;border-radius:6px;background:#1f5c4d;color:#fff;cursor:pointer}
p.from{color:#55605b;font-size:15px}</style></head><body><main>
<p class="from">${displayAddress(channel.address)}</p>
${
  done
    ? html`<p role="status">${words.done}</p>`
    : html`<h1 style="font-size:1.25rem">${words.ask}</h1><form method="post"><button name="${PAIR[0]}" value="${PAIR[1]}">${words.press}</button></form>`
}
</main></body></html>`;
  return new Response(String(page), { headers: HEADERS });
}
