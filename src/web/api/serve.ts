/**
 * The public API under /api/v1. Like the inbound URLs it is answered in front of Next.js,
 * where a call costs a fraction of what a page costs.
 */
import { unescaped } from '../address';
import { web } from '../runtime';
import { asApp, problem } from './answer';
import type { Handler } from './handle';
import { HANDLERS } from './handlers';
import { openApiDocument } from './openapi';

export const API_ROOT = '/api/v1';

interface Way {
  method: string;
  pattern: RegExp;
  handler: Handler;
}

const WAYS: readonly Way[] = HANDLERS.map((handler) => ({
  method: handler.operation.method.toUpperCase(),
  pattern: new RegExp(`^${handler.operation.path.replace('{id}', '([^/]+)')}$`),
  handler,
}));

export async function serveApi(request: Request, from: string): Promise<Response> {
  const { pathname } = new URL(request.url);
  const path = pathname.slice(API_ROOT.length);
  const served = await web();
  if (path === '/openapi.json' && request.method === 'GET')
    return Response.json(openApiDocument(`${served.windgap.config.publicUrl}${API_ROOT}`));
  const there = WAYS.filter((way) => way.pattern.test(path));
  const way = there.find((candidate) => candidate.method === request.method);
  if (!way) {
    const allow = there.map((candidate) => candidate.method).join(', ');
    return asApp(served, request, from, async () =>
      there.length === 0
        ? nothingHere()
        : problem({ status: 405, type: 'method', title: `This address takes ${allow}` }, { allow }),
    );
  }
  const [, escaped = ''] = way.pattern.exec(path) ?? [];
  const id = unescaped(escaped);
  return asApp(served, request, from, async (actor) =>
    id === undefined ? nothingHere() : way.handler.serve({ web: served, ctx: served.windgap, actor, request, id }),
  );
}

function nothingHere(): Response {
  return problem({ status: 404, type: 'not-found', title: 'There is nothing at this address' });
}
