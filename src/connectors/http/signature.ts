/** Checks that a request made to us comes from the provider, as its profile describes: HMAC (RFC 2104), token or basic. */
import { createHmac, timingSafeEqual } from 'node:crypto';
import { compilePattern } from '../../core/text/pattern';
import type { Credentials, InboundHttpRequest, Verdict } from '../connector';
import type { HttpProfile } from '../profile/schema';
import { renderTemplate } from './template';

type Inbound = Pick<HttpProfile['inbound'], 'signature' | 'token' | 'basic'>;
type Scheme = NonNullable<Inbound['signature']>;

export function verifyRequest(
  shape: Inbound,
  credentials: Credentials,
  request: InboundHttpRequest,
  now: number,
): Verdict {
  if (shape.signature) return verifySignature(shape.signature, credentials, request, now);
  if (shape.token) {
    const given = shape.token.header
      ? request.headers[shape.token.header]
      : new URL(request.url).searchParams.get(shape.token.query ?? '');
    return compare(given, renderTemplate(shape.token.equals, { credentials }));
  }
  if (shape.basic) {
    const pair = `${renderTemplate(shape.basic.user, { credentials })}:${renderTemplate(shape.basic.password, { credentials })}`;
    return compare(request.headers.authorization, `Basic ${Buffer.from(pair).toString('base64')}`);
  }
  return 'not-used';
}

function compare(given: string | null | undefined, expected: string): Verdict {
  if (!given) return 'missing';
  return equalBytes(Buffer.from(given), Buffer.from(expected)) ? 'valid' : 'wrong';
}

function verifySignature(scheme: Scheme, credentials: Credentials, request: InboundHttpRequest, now: number): Verdict {
  const given = request.headers[scheme.header];
  if (!given) return 'missing';
  const { signature, timestamp } = takeApart(scheme, given, request);
  // A scheme that has a time has one in every request: an empty one would be younger than any limit.
  const timed = scheme.timestampHeader !== undefined || scheme.parts?.includes('<timestamp>') === true;
  if (signature === undefined || timestamp === undefined || (timed && timestamp.trim() === '')) return 'missing';
  const body = request.body.toString('utf8');
  const signed = renderTemplate(scheme.signed, {
    timestamp,
    body,
    url: request.url,
    sortedForm: scheme.signed.includes('sortedForm') ? sortedForm(body) : '',
  });
  const expected = createHmac(scheme.algorithm, renderTemplate(scheme.key, { credentials })).update(signed).digest();
  if (!signature.startsWith(scheme.prefix)) return 'wrong';
  if (!isDigest(signature.slice(scheme.prefix.length), expected, scheme.encoding)) return 'wrong';
  return timed && !isRecent(timestamp, scheme.toleranceSeconds, now) ? 'stale' : 'valid';
}

/** The whole text is the digest: what stands behind it would be passed over by reading it as far as it goes. */
function isDigest(text: string, expected: Buffer, encoding: 'hex' | 'base64'): boolean {
  const claimed = Buffer.from(text, encoding);
  const written = claimed.toString(encoding);
  const whole =
    encoding === 'hex' ? text.toLowerCase() === written : text.replace(/=+$/, '') === written.replace(/=+$/, '');
  return equalBytes(claimed, expected) && whole;
}

/** The signature and its time, from headers of their own or from one header that holds both. */
function takeApart(scheme: Scheme, given: string, request: InboundHttpRequest) {
  const separate = scheme.timestampHeader ? request.headers[scheme.timestampHeader] : '';
  if (!scheme.parts) return { signature: given, timestamp: separate };
  const compiled = compilePattern(scheme.parts);
  if (typeof compiled === 'string') return { signature: undefined, timestamp: undefined };
  const matcher = compiled.matcher(given);
  if (!matcher.find()) return { signature: undefined, timestamp: undefined };
  const timestamp = scheme.parts.includes('<timestamp>') ? (matcher.group('timestamp') ?? undefined) : separate;
  return { signature: matcher.group('signature') ?? undefined, timestamp };
}

/** Field names in order, each followed by its value, without anything in between. */
function sortedForm(body: string): string {
  return [...new URLSearchParams(body)]
    .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
    .map(([name, value]) => name + value)
    .join('');
}

function equalBytes(one: Buffer, other: Buffer): boolean {
  return one.length === other.length && timingSafeEqual(one, other);
}

/** Seconds since the epoch, either way of now. */
function isRecent(timestamp: string, toleranceSeconds: number, now: number): boolean {
  return Math.abs(now / 1000 - Number(timestamp)) <= toleranceSeconds;
}
