/** The same order given twice: the first answer is given again. */
import { createHash } from 'node:crypto';
import type { IdempotencyRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type AppContext, OperationError } from '../context';
import type { Order, Ordered, SendAnswer, SendInput } from './sendRequests';

/**
 * Idempotency-Key (IETF httpapi draft-ietf-httpapi-idempotency-key-header §2.6-2.7): the
 * first answer is given again for 24 hours; the same key with another body is refused.
 */
const KEY_LIFETIME = 24 * 3600_000;

/** Owner and key of an order; undefined for one without a key. */
export function keyOf({ actor, idempotencyKey }: Order): string | undefined {
  return idempotencyKey === undefined ? undefined : `${actor.id} ${idempotencyKey}`;
}

export async function earlierAnswers(unit: Unit, orders: readonly Order[]): Promise<Map<string, IdempotencyRow>> {
  const keyed = orders.filter((order) => order.idempotencyKey !== undefined);
  if (keyed.length === 0) return new Map();
  const rows = await unit.idempotency.all({
    owner_id: [...new Set(keyed.map(({ actor }) => actor.id))],
    key: keyed.map(({ idempotencyKey }) => idempotencyKey as string),
  });
  return new Map(rows.map((row) => [`${row.owner_id} ${row.key}`, row]));
}

export function replay(order: Order, bodyHash: string, message: SendAnswer['message'], status: number): Ordered {
  if (bodyHash !== hashOf(order.input))
    return new OperationError('key-reused', 'This Idempotency-Key was used before with another body.');
  return { status, message, replayed: true };
}

export async function keepAnswers(
  unit: Unit,
  orders: readonly Order[],
  results: ReadonlyMap<Order, Ordered>,
  at: number,
): Promise<void> {
  await unit.idempotency.insert(
    orders.map((order) => {
      const answer = results.get(order) as SendAnswer;
      return {
        owner_id: order.actor.id,
        key: order.idempotencyKey as string,
        body_hash: hashOf(order.input),
        status: answer.status,
        response: JSON.stringify(answer.message),
        created_at: at,
      };
    }),
  );
}

export function hashOf(input: SendInput): string {
  const { to, from, text, inReplyTo, media, tags, template, subject, validUntil, choices } = input;
  return createHash('sha256')
    .update(
      JSON.stringify([
        to,
        from,
        text,
        inReplyTo,
        ...(media || tags || template ? [media, tags] : []),
        ...(template ? [template] : []),
        ...(subject || validUntil ? [{ subject, validUntil }] : []),
        ...(choices?.length ? [{ choices }] : []),
      ]),
    )
    .digest('base64');
}

/** Forgets keys past their day. */
export async function pruneIdempotency(ctx: AppContext): Promise<void> {
  await ctx.store.write((unit) =>
    unit.execute('DELETE FROM idempotency_records WHERE created_at < :before', { before: ctx.now() - KEY_LIFETIME }),
  );
}
