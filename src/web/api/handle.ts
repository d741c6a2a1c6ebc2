/** Joins a declared operation with what it does: parses as declared, runs, answers as declared. */
import type { z } from 'zod';
import { publishedRemedy } from '../../core/remedy';
import { type AppContext, requireScope } from '../../operations/context';
import { readBody } from '../readBody';
import type { Web } from '../runtime';
import { type AppActor, problem, rememberBody } from './answer';
import type { Operation } from './catalogue';

const LARGEST = 64 * 1024;

export interface Call<Query = unknown, Body = unknown> {
  web: Web;
  ctx: AppContext;
  actor: AppActor;
  request: Request;
  /** What the address carries. */
  id: string;
  query: Query;
  body: Body;
}

export interface Handler {
  operation: Operation;
  serve(call: Omit<Call, 'query' | 'body'>): Promise<Response>;
}

/** `run` answers a value that fits the declaration, or a whole response. */
export function on<Query, Body>(
  operation: Operation<Query, Body>,
  run: (call: Call<Query, Body>) => Promise<unknown>,
): Handler {
  return {
    operation: operation as Operation,
    async serve(call) {
      if (operation.scope) requireScope(call.actor, operation.scope);
      const query = operation.query?.safeParse(Object.fromEntries(new URL(call.request.url).searchParams));
      if (query && !query.success) return invalidShape(query.error);
      let body: Body | undefined;
      if (operation.body) {
        const read = await readJson(call.request);
        if (read instanceof Response) return read;
        const parsed = operation.body.safeParse(read.json);
        if (!parsed.success) return invalidShape(parsed.error);
        body = parsed.data;
      }
      const answer = await run({ ...call, query: query?.data as Query, body: body as Body });
      if (answer instanceof Response) return answer;
      return operation.answer
        ? Response.json(answer, { status: operation.status ?? 200 })
        : new Response(null, { status: 204 });
    },
  };
}

/** The body as JSON, or the problem it is answered with. */
async function readJson(request: Request): Promise<{ json: unknown } | Response> {
  const body = await readBody(request, LARGEST);
  if (!body) return problem({ status: 413, type: 'too-large', title: `The body is over ${LARGEST / 1024} KB` });
  rememberBody(request, body.toString('utf8'));
  let hasNul = false;
  const notice = (_: string, value: unknown) => {
    hasNul ||= typeof value === 'string' && value.includes('\u0000');
    return value;
  };
  try {
    const json = JSON.parse(body.toString('utf8'), notice);
    // No name, number or text has one, and what looks things up cannot be asked for it.
    if (hasNul) return problem({ status: 422, type: 'invalid', title: 'The body holds the character U+0000' });
    return { json };
  } catch {
    return problem({ status: 400, type: 'unreadable', title: 'The body is not JSON' });
  }
}

function invalidShape(error: z.ZodError): Response {
  const errors = error.issues.map((issue) => ({
    field: issue.path.join('.') || (issue.code === 'unrecognized_keys' ? issue.keys.join(', ') : 'body'),
    code: issue.code,
    problem: issue.message,
    ...publishedRemedy('Compare with the OpenAPI document at /api/v1/openapi.json.'),
  }));
  return problem({ status: 422, type: 'invalid', title: 'The request does not have the documented shape', errors });
}
