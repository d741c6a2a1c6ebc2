/**
 * The web process. Providers' posts are answered before Next.js sees them: a burst of
 * inbound messages then costs a fraction of what a page costs, and never queues behind one.
 * They are answered from the first moment, too, while pages are still being prepared.
 */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { getRequestListener, type HttpBindings } from '@hono/node-server';
import next from 'next';
import { outliveTheLog } from '../operations/context';
import { ARRIVED, firstOwnerCode, sessionOf } from '../operations/people';
import { isReadable } from './address';
import { API_ROOT, serveApi } from './api/serve';
import { callersBehind } from './caller';
import { guardOf } from './guard';
import { CALLS_ROOT, HOOKS_ROOT, serveCall, serveHook } from './hooks';
import { receiveInbound } from './inbound';
import { LEAVE_ROOT, serveLeave } from './leave';
import { createPatience } from './patience';
import { web } from './runtime';
import { serveChat } from './webChat';

const hostname = process.env.WINDGAP_LISTEN ?? '127.0.0.1';
const port = Number(process.env.PORT ?? 3000);
outliveTheLog();
const { windgap, live } = await web();

const code = await firstOwnerCode(windgap);
if (code)
  console.log(
    `windgap: nobody owns this installation yet. Open ${windgap.config.publicUrl}/welcome and type this code: ${code}`,
  );

const guard = guardOf(windgap.config.publicUrl);
const callers = callersBehind(windgap.config.trustedProxies);
const app = next({ dev: false, dir: process.env.WINDGAP_HOME ?? process.cwd(), hostname, port });
const pages = app.getRequestHandler();
const patience = createPatience(windgap.clock);
/** Answers that say who calls, or what for, is nobody we know: of these one caller gets only so many a second. */
const STRANGERS = [401, 403, 404, 405, 413, 429];
/** What machines call, by the beginning of the path, with what counts as refused there; people's pages are all the rest. */
const MACHINES: [prefix: string, serve: (request: Request, from: string) => Promise<Response>, refusals: number[]][] = [
  ['/in/', receiveInbound, STRANGERS],
  // Whoever has a key has a quota.
  [`${API_ROOT}/`, serveApi, [401]],
  [HOOKS_ROOT, serveHook, [...STRANGERS, 409, 410, 422]],
  [CALLS_ROOT, serveCall, [...STRANGERS, 410, 422]],
  ['/chat/', serveChat, STRANGERS],
  [LEAVE_ROOT, serveLeave, STRANGERS],
];
const machines = MACHINES.map(([prefix, serve, refusals]) => ({
  prefix,
  listen: getRequestListener(
    async (request, env) => {
      const from = callers.addressOf((env as HttpBindings).incoming);
      const answer = await serve(request, from);
      if (refusals.includes(answer.status)) await patience.refused(from);
      return answer;
    },
    {
      overrideGlobalObjects: false,
      errorHandler: (error) => {
        windgap.log.error({ err: error, prefix }, 'a request could not be answered');
        return Response.json({ status: 'not stored; try again' }, { status: 503, headers: { 'retry-after': '5' } });
      },
    },
  ),
}));
const pagesReady = app.prepare();
pagesReady.catch((error: unknown) => {
  windgap.log.fatal({ err: error }, 'the pages could not be prepared');
  process.exit(1);
});

const server = createServer((request, response) => {
  // Nobody behind here has to know what to do with an address that means nothing.
  guard.prepare(response);
  if (!isReadable(request.url)) return void response.writeHead(404).end();
  const machine = machines.find(({ prefix }) => request.url?.startsWith(prefix));
  if (machine) void machine.listen(request, response);
  else if (!guard.isOurs(request)) response.writeHead(403).end('This was not sent by a page of this installation.');
  else {
    callers.settle(request);
    guard.vouch(request);
    void showPage(request, response);
  }
});
/**
 * Whether a page that stands in a browser asks for a part of itself after its session has ended. Next.js would lead it to
 * the sign-in page, away from what was being written; told no, it asks there and goes on (see `redrawOf`).
 */
async function isRedrawOfStranger({ headers, url = '' }: IncomingMessage): Promise<boolean> {
  delete headers[ARRIVED];
  if (headers.rsc === undefined || /^\/(?:sign-in|welcome|enter)(?:[/?]|$)/.test(url)) return false;
  const token = /(?:^|;\s*)(?:__Host-)?windgap=([\w-]+)/.exec(headers.cookie ?? '')?.[1];
  const at = windgap.now();
  if (token === undefined || (await sessionOf(windgap, token)) === undefined) return true;
  // What was let in is drawn to its end, also when the session ends while it is.
  headers[ARRIVED] = String(at);
  return false;
}

/** A page costs a hundred times a refusal: whoever asked for too much that is not there waits before it is looked for. */
async function showPage(request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (await isRedrawOfStranger(request)) return void response.writeHead(401, { 'cache-control': 'no-store' }).end();
  const from = callers.addressOf(request);
  const [mayCome] = await Promise.all([patience.turn(from), pagesReady]);
  if (!mayCome) return void response.writeHead(429, { 'retry-after': '5' }).end('Too many requests.');
  response.once('finish', () => {
    const signingIn = request.method === 'POST' && request.url?.startsWith('/sign-in');
    if (signingIn || [307, 401, 403, 404, 413].includes(response.statusCode)) void patience.refused(from);
  });
  await pages(request, response);
}

server.listen(port, hostname, () => windgap.log.info({ hostname, port }, 'web ready'));

for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.once(signal, () => {
    windgap.log.info({ signal }, 'answering what has come in');
    live.end();
    server.close(() => void windgap.store.close().finally(() => process.exit(0)));
    server.closeIdleConnections();
    // A browser that keeps its stream open must not keep the process.
    windgap.clock.limit(3000, () => server.closeAllConnections()).unref();
  });
}
