/**
 * Signatures on the webhooks Windgap sends, and on the posts that apps sign.
 * Source: Standard Webhooks specification, "Signature scheme" and "Webhook headers".
 */
import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';

/** Milliseconds that sender's and receiver's clocks may be apart. */
const TOLERANCE = 5 * 60_000;

export interface WebhookHeaders {
  'webhook-id': string;
  /** Seconds since the epoch. */
  'webhook-timestamp': string;
  /** One `v1,` signature for each secret in force, separated by spaces. */
  'webhook-signature': string;
}

/** A new secret of 24 random bytes as `whsec_` and base64; the specification asks for 24 to 64. */
export function newWebhookSecret(): string {
  return `whsec_${randomBytes(24).toString('base64')}`;
}

/**
 * Signs `id.timestamp.body` with every secret in force (two while one is being replaced).
 * `at` is epoch milliseconds. Throws RangeError when a secret is not `whsec_` and base64.
 */
export function signWebhook(id: string, at: number, body: string, secrets: readonly string[]): WebhookHeaders {
  const timestamp = String(Math.floor(at / 1000));
  const signatures = secrets.map(
    (secret) => `v1,${createHmac('sha256', keyOf(secret)).update(`${id}.${timestamp}.${body}`).digest('base64')}`,
  );
  return { 'webhook-id': id, 'webhook-timestamp': timestamp, 'webhook-signature': signatures.join(' ') };
}

/**
 * Why a signed post is not to be believed, as part of a sentence; undefined when it is.
 * `at` is epoch milliseconds; a signature made further off than five minutes is refused, as a repeat of an old post.
 * Source: "Verifying the timestamp" and "Signature scheme".
 */
export function signatureProblem(
  headers: Readonly<Record<string, string | undefined>>,
  body: string,
  secret: string,
  at: number,
): string | undefined {
  const { 'webhook-id': id, 'webhook-timestamp': seconds, 'webhook-signature': given } = headers;
  if (!id || !seconds || !given) return 'one of webhook-id, webhook-timestamp and webhook-signature is missing';
  if (!/^\d{1,12}$/.test(seconds)) return 'webhook-timestamp is not in seconds since 1970';
  const age = at - Number(seconds) * 1000;
  if (Math.abs(age) > TOLERANCE) return `it was signed more than five minutes ${age > 0 ? 'ago' : 'from now'}`;
  const right = createHmac('sha256', keyOf(secret)).update(`${id}.${seconds}.${body}`).digest();
  const fits = given.split(' ').some((each) => {
    const [version, signature = ''] = each.split(',');
    const bytes = Buffer.from(signature, 'base64');
    return version === 'v1' && bytes.length === right.length && timingSafeEqual(bytes, right);
  });
  return fits ? undefined : 'it was made with another secret, or the body was changed';
}

function keyOf(secret: string): Buffer {
  const match = /^whsec_([A-Za-z0-9+/]+=*)$/.exec(secret);
  if (!match?.[1]) throw new RangeError('A webhook secret is "whsec_" followed by base64');
  return Buffer.from(match[1], 'base64');
}
