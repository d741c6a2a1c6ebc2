/** One request of a profile, made and read: whatever goes wrong becomes a cause. */

import { createHmac } from 'node:crypto';
import type { z } from 'zod';
import type { Clock } from '../../clock/clock';
import type { CauseCode } from '../../core/delivery/causes';
import { type AppAnswer, plainWords, wordsOfAnswer } from '../../core/signing/appAnswer';
import { parseRetryAfter } from '../../core/signing/retryPlan';
import type { CredentialField, Credentials, Exchange, Failure, Outcome } from '../connector';
import type { errors, http, RequestPlan } from '../profile/pieces';
import { type Json, nodes } from './jsonPath';
import { MASK, maskHeaders, maskText, secretValues, withoutSecrets } from './mask';
import { OutboundError, type OutboundHttp, type OutboundResponse } from './outbound';
import { optional, parseJson } from './read';
import { renderRecord, renderTemplate, renderTree } from './template';

export type Scope = Record<string, unknown>;

/** The parts of a profile that decide how any of its requests is made. */
export interface CallShape {
  http: z.infer<typeof http>;
  errors: z.infer<typeof errors>;
  fields: readonly CredentialField[];
}

export type Call = <T>(
  credentials: Credentials,
  plan: SentPlan,
  scope: Scope,
  read: (answer: Json) => T,
) => Promise<Outcome<T>>;

/** `data` is sent as JSON just as it is: what people wrote is never taken for a template. */
export type SentPlan = RequestPlan & { data?: unknown };

const KEPT_BODY = 20_000;

export function createCall(shape: CallShape, http: OutboundHttp, clock: Clock): Call {
  return async (credentials, plan, scope, read) => {
    const secrets = secretValues(shape.fields, credentials);
    const shownCredentials = withoutSecrets(shape.fields, credentials);
    const at = clock.now();
    const began = clock.elapsed();
    const exchange: Exchange = {
      at,
      elapsedMs: 0,
      request: { method: plan.method, url: '', headers: {}, body: null },
      response: null,
    };
    try {
      const request = buildRequest(shape, plan, { credentials, ...scope }, at);
      exchange.request = shownRequest(shape, plan, { credentials: shownCredentials, ...scope }, at);
      const response = await http({ ...request, method: plan.method, timeoutMs: shape.http.timeoutSeconds * 1000 });
      exchange.elapsedMs = Math.round(clock.elapsed() - began);
      exchange.clockAhead = clockAhead(response.headers, clock);
      exchange.response = {
        status: response.status,
        headers: maskHeaders(response.headers, secrets),
        body: maskText(response.body, secrets).slice(0, KEPT_BODY),
      };
      return readAnswer(shape, response, exchange, read, clock.now());
    } catch (error) {
      exchange.elapsedMs = Math.round(clock.elapsed() - began);
      if (error instanceof OutboundError) return { ok: false, failure: explainOutboundError(error), exchange };
      if (error instanceof TypeError || (error as Error).name === 'UndefinedVariableError') {
        return { ok: false, failure: { cause: 'request-refused', said: (error as Error).message }, exchange };
      }
      throw error;
    }
  };
}

/** Undefined where no time is said, or where the answer was kept by somebody on the way and is of an earlier time. */
function clockAhead({ date, age }: OutboundResponse['headers'], clock: Clock): number | undefined {
  const theirs = date && age === undefined ? Date.parse(date) : Number.NaN;
  return Number.isNaN(theirs) ? undefined : theirs - (clock.now() - clock.ahead());
}

function readAnswer<T>(
  shape: CallShape,
  response: OutboundResponse,
  exchange: Exchange,
  read: (answer: Json) => T,
  now: number,
): Outcome<T> {
  const empty = response.body.trim() === '';
  const answer = empty ? null : parseJson(response.body);
  if (response.status < 200 || response.status >= 300) {
    return {
      ok: false,
      failure: explainRefusal(shape, exchange.response ?? response, answer ?? undefined, response.headers, now),
      exchange,
    };
  }
  if (answer === undefined) {
    const failure = unreadableAnswer(notJson(exchange.response ?? response));
    // A page for people was not made by the provider's API, which may have got the request all the same.
    const page = /^text\/html\b/i.test(response.headers['content-type'] ?? '');
    return { ok: false, failure: page ? { ...failure, cause: 'answered-by-other' } : failure, exchange };
  }
  const refusal = () =>
    explainRefusal(shape, exchange.response ?? response, answer, response.headers, now, { insideSuccess: true });
  if (refusesInside(shape, answer)) return { ok: false, failure: refusal(), exchange };
  try {
    return { ok: true, value: read(answer), exchange };
  } catch (error) {
    // What has no answer in it and speaks of an error is one, though nobody listed how this provider says so.
    const speaks = optional(answer, shape.errors.code ?? shape.errors.text);
    const failure = speaks === undefined ? unreadableAnswer((error as Error).message) : refusal();
    return { ok: false, failure, exchange };
  }
}

const NO_ERROR = new Set(['', 'false', '0', 'null', 'none']);

/** Whether an answer refuses though its status says otherwise: by what the profile says of it, or by a code it lists. */
function refusesInside({ errors }: CallShape, answer: Json): boolean {
  const { refusedWhere, acceptedWhere } = errors;
  if (refusedWhere && nodes(answer, refusedWhere).some((found) => !NO_ERROR.has(String(found ?? '').toLowerCase())))
    return true;
  const word = acceptedWhere && optional(answer, acceptedWhere.at);
  if (acceptedWhere && word !== undefined && !acceptedWhere.is.includes(word)) return true;
  const code = optional(answer, errors.code);
  return code !== undefined && errors.rules.some((rule) => rule.code === code);
}

function buildRequest(shape: CallShape, plan: SentPlan, scope: Scope, now: number) {
  const headers: Record<string, string> = { accept: 'application/json', 'user-agent': 'Windgap' };
  const { basic, bearer, sign } = shape.http;
  if (basic) {
    const pair = `${renderTemplate(basic.user, scope)}:${renderTemplate(basic.password, scope)}`;
    headers.authorization = `Basic ${Buffer.from(pair, 'utf8').toString('base64')}`;
  }
  if (bearer) headers.authorization = `Bearer ${renderTemplate(bearer, scope)}`;
  Object.assign(headers, renderRecord({ ...shape.http.headers, ...plan.headers }, scope));
  let body: string | undefined;
  if (plan.data !== undefined) {
    headers['content-type'] = 'application/json';
    body = JSON.stringify(plan.data);
  } else if (plan.json !== undefined) {
    headers['content-type'] = 'application/json';
    body = JSON.stringify(renderTree(plan.json, scope));
  } else if (plan.form) {
    headers['content-type'] = 'application/x-www-form-urlencoded';
    body = new URLSearchParams(renderRecord(plan.form, scope)).toString();
  }
  const query = new URLSearchParams(renderRecord({ ...shape.http.query, ...plan.query }, scope)).toString();
  const path = renderTemplate(plan.path, scope) + (query && `?${query}`);
  if (sign) {
    const timestamp = String(Math.floor(now / 1000));
    const signed = renderTemplate(sign.signed, { ...scope, method: plan.method, path, timestamp, body: body ?? '' });
    const digest = createHmac(sign.algorithm, renderTemplate(sign.key, scope)).update(signed).digest(sign.encoding);
    headers[sign.header.toLowerCase()] = sign.prefix + digest;
    if (sign.timestampHeader) headers[sign.timestampHeader.toLowerCase()] = timestamp;
  }
  const base = renderTemplate(shape.http.base, scope).replace(/\/$/, '');
  // What follows the base cannot turn it into another address, as “@elsewhere” would.
  if (new URL(base + path).origin !== new URL(base).origin) throw new TypeError('the path leads to another host');
  return { url: base + path, headers, body };
}

/**
 * The same request made without the secrets: a template may cut and join a secret so that nobody would find it in
 * what was sent, and what was never put in need not be found.
 */
function shownRequest(shape: CallShape, plan: SentPlan, scope: Scope, now: number): Exchange['request'] {
  try {
    const { url, headers, body = null } = buildRequest(shape, plan, scope, now);
    const signature = shape.http.sign?.header.toLowerCase();
    if (signature) headers[signature] = MASK;
    const readable = (text: string) => text.replaceAll(encodeURIComponent(MASK), MASK);
    return { method: plan.method, url: readable(url), headers: maskHeaders(headers, []), body: body && readable(body) };
  } catch {
    // A template that works with this secret only.
    return { method: plan.method, url: shape.http.base, headers: {}, body: null };
  }
}

/**
 * The first rule whose status and code both fit; the order in the profile is the priority. What does not speak as the
 * provider does came from somebody else, whatever its status; and what no rule lists is never put down to the one next to it.
 * `shown` is the answer without secrets: its words are shown to people.
 */
function explainRefusal(
  shape: CallShape,
  shown: AppAnswer,
  answer: Json | undefined,
  headers: OutboundResponse['headers'],
  now: number,
  { insideSuccess = false } = {},
): Failure {
  const { status } = shown;
  const retryAfter = parseRetryAfter(headers['retry-after'], now);
  const code = answer === undefined ? undefined : optional(answer, shape.errors.code);
  const text = answer === undefined ? undefined : optional(answer, shape.errors.text);
  const asProvider =
    insideSuccess || code !== undefined || text !== undefined || !(shape.errors.code || shape.errors.text);
  if (!asProvider && status !== 429) {
    const said = wordsOfAnswer(shown);
    if (status >= 300 && status < 400)
      return {
        cause: 'answered-by-other',
        said: `${status}, on to ${headers.location ?? 'nowhere'}`,
        retryAfter,
      };
    if (status >= 400 && status < 500) return { cause: 'answered-by-other', said, retryAfter };
    return { cause: 'provider-error', said, retryAfter };
  }
  const rule = shape.errors.rules.find(
    (candidate) =>
      (candidate.status === undefined ||
        candidate.status === status ||
        (insideSuccess && candidate.code !== undefined)) &&
      (candidate.code === undefined || candidate.code === code),
  );
  if (rule) return { cause: rule.cause, said: text ?? `status ${status}`, retryAfter };
  const words = [text ?? (code ? undefined : plainWords(shown.body).slice(0, 160)), code && `(${code})`];
  return {
    cause: status >= 500 ? 'provider-error' : 'request-refused',
    said: words.filter(Boolean).join(' ') || `status ${status}`,
    retryAfter,
  };
}

function explainOutboundError(error: OutboundError): Failure {
  const causes: Record<OutboundError['kind'], CauseCode> = {
    unreachable: 'provider-unreachable',
    timeout: 'provider-timeout',
    'not-allowed': 'address-not-allowed',
    'too-large': 'provider-error',
  };
  return { cause: causes[error.kind], said: error.message, outcomeUnknown: error.mayHaveArrived };
}

/** The provider said yes in a way we could not read: it may well have sent the text. */
function unreadableAnswer(reason: string): Failure {
  return { cause: 'provider-error', said: reason, outcomeUnknown: true };
}

function notJson(response: AppAnswer): string {
  return `the answer is not JSON: ${wordsOfAnswer(response)}`;
}
