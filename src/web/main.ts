/**
 * The web process. Providers' posts are answered before Next.js sees them: a burst of
 * inbound messages then costs a fraction of what a page costs, and never queues behind one.
 */
import { createServer } from 'node:http';
import { getRequestListener, type HttpBindings } from '@hono/node-server';
import next from 'next';
import { API_ROOT, serveApi } from './api/serve';
import { receiveInbound } from './inbound';
import { web } from './runtime';
import { serveChat } from './webChat';

const hostname = process.env.WINDGAP_LISTEN ?? '127.0.0.1';
const port = Number(process.env.PORT ?? 3000);
const { windgap, live } = await web();

const app = next({ dev: false, dir: process.env.WINDGAP_HOME ?? process.cwd(), hostname, port });
const pages = app.getRequestHandler();
const inbound = getRequestListener(
  (request, env) => receiveInbound(request, (env as HttpBindings).incoming.socket.remoteAddress),
  {
    overrideGlobalObjects: false,
    errorHandler: (error) => {
      windgap.log.error({ err: error }, 'an inbound request could not be stored');
      return Response.json({ status: 'not stored; try again' }, { status: 503, headers: { 'retry-after': '5' } });
    },
  },
);
const chat = getRequestListener((request) => serveChat(request), {
  overrideGlobalObjects: false,
  errorHandler: (error) => {
    windgap.log.error({ err: error }, 'a web chat could not be served');
    return Response.json({ reason: 'not now; try again' }, { status: 503 });
  },
});
const api = getRequestListener((request) => serveApi(request), {
  overrideGlobalObjects: false,
  errorHandler: (error) => {
    windgap.log.error({ err: error }, 'an API call could not be served');
    return Response.json({ title: 'not now; try again' }, { status: 503, headers: { 'retry-after': '5' } });
  },
});
await app.prepare();

const server = createServer((request, response) => {
  if (request.url?.startsWith('/in/')) void inbound(request, response);
  else if (request.url?.startsWith(`${API_ROOT}/`)) void api(request, response);
  else if (request.url?.startsWith('/chat/')) void chat(request, response);
  else void pages(request, response);
});
server.listen(port, hostname, () => windgap.log.info({ hostname, port }, 'web ready'));

for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.once(signal, () => {
    windgap.log.info({ signal }, 'answering what has come in');
    live.end();
    server.close(() => void windgap.store.close().finally(() => process.exit(0)));
    server.closeIdleConnections();
    // A browser that keeps its stream open must not keep the process.
    setTimeout(() => server.closeAllConnections(), 3000).unref();
  });
}
