/**
 * Signatures on the webhooks Windgap sends.
 * Source: Standard Webhooks specification, "Signature scheme" and "Webhook headers".
 */
import { createHmac, randomBytes } from 'node:crypto';

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

function keyOf(secret: string): Buffer {
  const match = /^whsec_([A-Za-z0-9+/]+=*)$/.exec(secret);
  if (!match?.[1]) throw new RangeError('A webhook secret is "whsec_" followed by base64');
  return Buffer.from(match[1], 'base64');
}
