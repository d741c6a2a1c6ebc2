/**
 * The web process. Providers' posts are answered before Next.js sees them: a burst of
 * inbound messages then costs a fraction of what a page costs, and never queues behind one.
 * They are answered from the first moment, too, while pages are still being prepared.
 */
import { createServer } from 'node:http';
import { getRequestListener, type HttpBindings } from '@hono/node-server';
import next from 'next';
import { outliveTheLog } from '../operations/context';
import { isReadable } from './address';
import { API_ROOT, serveApi } from './api/serve';
import { callersBehind } from './caller';
import { guardOf } from './guard';
import { CALLS_ROOT, HOOKS_ROOT, serveCall, serveHook } from './hooks';
import { receiveInbound } from './inbound';
import { web } from './runtime';
import { serveChat } from './webChat';

const hostname = process.env.WINDGAP_LISTEN ?? '127.0.0.1';
const port = Number(process.env.PORT ?? 3000);
outliveTheLog();
const { windgap, live } = await web();

const guard = guardOf(windgap.config.publicUrl);
const callers = callersBehind(windgap.config.trustedProxies);
const app = next({ dev: false, dir: process.env.WINDGAP_HOME ?? process.cwd(), hostname, port });
const pages = app.getRequestHandler();
/** What machines call, by the beginning of the path; people's pages are all the rest. */
const MACHINES: [prefix: string, serve: (request: Request, from: string) => Promise<Response>][] = [
  ['/in/', receiveInbound],
  [`${API_ROOT}/`, serveApi],
  [HOOKS_ROOT, serveHook],
  [CALLS_ROOT, serveCall],
  ['/chat/', serveChat],
];
const machines = MACHINES.map(([prefix, serve]) => ({
  prefix,
  listen: getRequestListener((request, env) => serve(request, callers.addressOf((env as HttpBindings).incoming)), {
    overrideGlobalObjects: false,
    errorHandler: (error) => {
      windgap.log.error({ err: error, prefix }, 'a request could not be answered');
      return Response.json({ status: 'not stored; try again' }, { status: 503, headers: { 'retry-after': '5' } });
    },
  }),
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
    void pagesReady.then(() => pages(request, response));
  }
});
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
