/** Reading requests and wording answers of the HTTP API. */
import { randomUUID } from 'node:crypto';
import { answerIn, isApiVersion, LATEST_VERSION, versionFields } from '../../core/api/versions';
import { quotaFields } from '../../core/pacing/quota';
import { type PublishedRemedy, publishedRemedy } from '../../core/remedy';
import type { KeyVerdict } from '../../operations/apps';
import { noteRefusal } from '../../operations/audit';
import { type Actor, type AppContext, isOperationError, type OperationError } from '../../operations/context';
import type { Web } from '../runtime';

interface Problem {
  status: number;
  /** Last part of the stable type URI. */
  type: string;
  title: string;
  detail?: string;
  errors?: ({ field: string; code: string; problem: string } & PublishedRemedy)[];
}

/** RFC 9457 problem details. */
export function problem({ status, type, ...rest }: Problem, headers: Record<string, string> = {}): Response {
  const body = {
    type: `https://windgap.invalid/problems/${type}`,
    status,
    ...rest,
    instance: `urn:uuid:${randomUUID()}`,
  };
  return new Response(JSON.stringify(body), {
    status,
    headers: { 'content-type': 'application/problem+json', ...headers },
  });
}

export type AppActor = Extract<Actor, { kind: 'app' }>;

const REFUSALS: Record<OperationError['kind'], { status: number; type: string; title: string }> = {
  forbidden: { status: 403, type: 'forbidden', title: 'Not allowed' },
  'not-found': { status: 404, type: 'not-found', title: 'Not found' },
  invalid: { status: 422, type: 'invalid', title: 'The request cannot be right as it is' },
  conflict: { status: 409, type: 'conflict', title: 'It is in another state by now' },
  'key-reused': {
    status: 422,
    type: 'idempotency-key-reused',
    title: 'The request conflicts with an earlier one',
  },
  'too-often': { status: 429, type: 'too-often', title: 'Too many requests' },
  // Of people in browsers alone.
  'signed-out': { status: 401, type: 'unauthorized', title: 'Not signed in' },
  unconfirmed: { status: 403, type: 'forbidden', title: 'Not allowed' },
};

const bodies = new WeakMap<Request, string>();

/** Remembers what a request carried, for where it is refused. */
export function rememberBody(request: Request, body: string): void {
  bodies.set(request, body);
}

/** Runs an API handler for a caller with a valid key; refusals become problem details, and are kept as evidence. */
export async function asApp(
  web: Web,
  request: Request,
  from: string,
  handle: (actor: AppActor) => Promise<Response>,
): Promise<Response> {
  const key = /^Bearer (\S+)$/i.exec(request.headers.get('authorization') ?? '')?.[1];
  const verdict = await web.checkKey(key, from);
  const answer = await answerTo(web, verdict, request, handle);
  if (answer.status >= 400) {
    const { type = '', title = '', detail, errors = [] } = (await answer.clone().json()) as Partial<Problem>;
    const more = errors
      .filter(({ problem: what }) => what !== detail)
      .map(({ field, problem: what }) => `${field}: ${what}`);
    const said = [detail ?? title, ...more].join(' ');
    web.keepRefused({
      method: request.method,
      path: new URL(request.url).pathname,
      status: answer.status,
      type: type.split('/').at(-1) ?? '',
      said,
      from,
      key,
      app: verdict.ok ? verdict.actor : verdict.app,
      body: bodies.get(request),
    });
  }
  return answer;
}

async function answerTo(
  { calls, windgap }: Web,
  verdict: KeyVerdict,
  request: Request,
  handle: (actor: AppActor) => Promise<Response>,
): Promise<Response> {
  if (!verdict.ok) {
    return problem(
      { status: 401, type: verdict.type, title: 'No valid API key', detail: verdict.reason },
      { 'www-authenticate': 'Bearer' },
    );
  }
  const standing = calls.count(verdict.actor.keyId);
  const fields = quotaFields(calls.policy, standing);
  if (!standing.allowed) {
    const { quota, window } = calls.policy;
    const detail = `This key may make ${quota} calls in ${window} seconds.`;
    return problem({ status: 429, type: 'rate-limited', title: 'Too many calls', detail }, fields);
  }
  const asked = request.headers.get('windgap-version');
  if (asked !== null && !isApiVersion(asked)) {
    const detail = `There is no version ${asked.slice(0, 20)} of this API; the latest is ${LATEST_VERSION}.`;
    return problem({ status: 400, type: 'version-unknown', title: 'No such version', detail }, fields);
  }
  const version = asked ?? verdict.actor.version ?? LATEST_VERSION;
  const answer = await inVersion(version, await answerOf(windgap, verdict.actor, request, handle));
  const changes = `${windgap.config.publicUrl}/apps/api#versions`;
  for (const [name, value] of Object.entries(versionFields(version, changes))) answer.headers.set(name, value);
  // What an app asks for is about people, and no proxy on the way keeps it.
  answer.headers.set('cache-control', 'no-store');
  for (const [name, value] of Object.entries(fields)) answer.headers.set(name, value);
  return answer;
}

/** The answer as programs of that version expect it. */
async function inVersion(version: string, answer: Response): Promise<Response> {
  if (version === LATEST_VERSION || answer.body === null) return answer;
  const { status, headers } = answer;
  return new Response(JSON.stringify(answerIn(version, await answer.json())), { status, headers });
}

/** Seconds: limits on sending count by ten minutes. */
const AGAIN_AFTER = 600;

/** What was called, without whom it was about. */
function operationOf({ method, url }: Request): string {
  return `${method} ${new URL(url).pathname.replace(/\b[a-z]{3}_\w+/g, '{id}')}`;
}

async function answerOf(
  windgap: AppContext,
  actor: AppActor,
  request: Request,
  handle: (actor: AppActor) => Promise<Response>,
): Promise<Response> {
  try {
    return await handle(actor);
  } catch (error) {
    if (!isOperationError(error)) {
      windgap.log.error({ err: error }, 'an API call failed');
      return problem({ status: 500, type: 'internal', title: 'Windgap failed to handle this request' });
    }
    if (error.kind === 'forbidden') await noteRefusal(windgap, actor, operationOf(request));
    const errors = error.findings.map(({ field, finding }) => ({
      field,
      code: finding.code,
      problem: finding.problem,
      ...publishedRemedy(finding.remedy),
    }));
    return problem(
      { ...REFUSALS[error.kind], detail: error.message, ...(errors.length > 0 ? { errors } : {}) },
      error.kind === 'too-often' ? { 'retry-after': String(AGAIN_AFTER) } : {},
    );
  }
}
