/**
 * The web chat's addresses as a function from Request to Response, for browsers on other
 * origins (Fetch, "CORS protocol"). No cookies: a visitor is known by a key that the page's
 * own origin keeps.
 */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { clientOf } from '../core/addresses/client';
import type { ChatRefusal } from '../operations/channels';
import { eventStream } from './eventStream';
import { createOpenStreams } from './openStreams';
import { readBody } from './readBody';
import { web } from './runtime';

const LARGEST = 16 * 1024;

/** An office or a school may sit behind one address. */
const streams = createOpenStreams(200);

let widget: { script: string; tag: string } | undefined;

export async function serveChat(request: Request, from: string): Promise<Response> {
  const url = new URL(request.url);
  const [, , token = '', part = ''] = url.pathname.split('/');
  if (token === 'widget.js') return serveWidget(request);
  const origin = request.headers.get('origin');
  if (request.method === 'OPTIONS') return preflight(origin);
  const { chat } = await web();
  const admitted = await chat.admit(token, origin);
  // A refusal is readable for the page that asked, so that whoever put the snippet there sees why.
  if (!admitted.ok) return refuse(admitted.refusal, origin);
  const channel = admitted.value;
  const allowed = origin as string;
  if (request.method === 'GET' && part === 'face') return json(chat.face(channel), allowed);
  if (request.method === 'GET' && part === 'stream') return stream(request, url, channel, allowed, clientOf(from));
  if (request.method !== 'POST') return refuse({ status: 404, reason: 'not found' }, allowed);

  const body = await readBody(request, LARGEST);
  const given = body && readJson(body);
  if (!given) return refuse({ status: body ? 400 : 413, reason: 'the body cannot be read' }, allowed);
  if (part === 'begin') {
    const begun = await chat.begin(channel, { origin: allowed, client: clientOf(from) }, given);
    return begun.ok ? json(begun.value, allowed) : refuse(begun.refusal, allowed);
  }
  const visitor = await chat.visitorOf(channel, given.key);
  if (!visitor) return refuse({ status: 403, reason: 'begin first' }, allowed);
  if (part === 'confirm') {
    const confirmed = await chat.confirm(channel, visitor, given.code);
    return confirmed.ok ? json(confirmed.value, allowed) : refuse(confirmed.refusal, allowed);
  }
  if (part === 'code') {
    const sent = await chat.codeAgain(channel, visitor, clientOf(from));
    return sent.ok ? json(sent.value, allowed) : refuse(sent.refusal, allowed);
  }
  if (part === 'say') {
    const said = await chat.say(channel, visitor, given);
    return said.ok ? json({}, allowed, 202) : refuse(said.refusal, allowed);
  }
  if (part === 'shown') {
    await chat.seen(channel, visitor, given.ids, given.state === 'read' ? 'read' : 'delivered');
    return json({}, allowed, 202);
  }
  return refuse({ status: 404, reason: 'not found' }, allowed);
}

/** The script changes with a new version of Windgap only. */
function serveWidget(request: Request): Response {
  if (!widget) {
    const script = readFileSync(join(process.env.WINDGAP_HOME ?? process.cwd(), 'dist/widget.js'), 'utf8');
    widget = { script, tag: `"${createHash('sha256').update(script).digest('base64url').slice(0, 20)}"` };
  }
  const headers = {
    'content-type': 'text/javascript; charset=utf-8',
    'cache-control': 'public, max-age=300',
    etag: widget.tag,
  };
  if (request.headers.get('if-none-match') === widget.tag) return new Response(null, { status: 304, headers });
  return new Response(widget.script, { headers: { ...headers, 'cross-origin-resource-policy': 'cross-origin' } });
}

/** Server-sent events with everything said between this visitor and us, from `after` on. */
async function stream(
  request: Request,
  url: URL,
  channel: Parameters<Awaited<ReturnType<typeof web>>['chat']['face']>[0],
  origin: string,
  client: string,
): Promise<Response> {
  const { chat, live, windgap } = await web();
  const visitor = await chat.visitorOf(channel, url.searchParams.get('key'));
  if (!visitor) return refuse({ status: 403, reason: 'begin first' }, origin);
  const close = streams.open(client);
  if (!close) return refuse({ status: 429, reason: 'too many windows are open' }, origin);
  let last = request.headers.get('last-event-id') ?? url.searchParams.get('after') ?? '';
  let sending: Promise<void> = Promise.resolve();
  return eventStream(request, windgap.clock, {
    retry: 1500,
    headers: cors(origin),
    begin(push) {
      const send = async () => {
        for (const message of await chat.messagesAfter(visitor, last)) {
          last = message.id;
          push(`id: ${message.id}\ndata: ${JSON.stringify(message)}\n\n`);
        }
      };
      const inTurn = () => {
        sending = sending.then(send).catch(() => undefined);
      };
      const end = live.listen(Number.MAX_SAFE_INTEGER, (changes) => {
        if (changes.some(({ topic }) => topic === 'message')) inTurn();
      });
      inTurn();
      return () => {
        end();
        close();
      };
    },
  });
}

function readJson(body: Buffer): Record<string, unknown> | undefined {
  try {
    const value: unknown = JSON.parse(body.toString('utf8'));
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : undefined;
  } catch {
    return undefined;
  }
}

function cors(origin: string | null): Record<string, string> {
  return origin ? { 'access-control-allow-origin': origin, vary: 'Origin' } : {};
}

function preflight(origin: string | null): Response {
  return new Response(null, {
    status: 204,
    headers: {
      ...cors(origin),
      'access-control-allow-methods': 'GET, POST',
      'access-control-allow-headers': 'content-type',
      'access-control-max-age': '600',
    },
  });
}

function json(value: unknown, origin: string, status = 200): Response {
  return Response.json(value, { status, headers: { ...cors(origin), 'cache-control': 'no-store' } });
}

function refuse({ status, reason }: ChatRefusal, origin: string | null): Response {
  return Response.json({ reason }, { status, headers: cors(origin) });
}
