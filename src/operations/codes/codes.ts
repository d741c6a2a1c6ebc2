/**
 * Verification codes: texted to a number, typed in by whoever reads it there. Apps ask for them through the API, and a web
 * chat for the number a visitor leaves. The code itself stands sealed beside its message, and in nothing people can read.
 */
import { randomInt, timingSafeEqual } from 'node:crypto';
import { countryName } from '../../core/addresses/display';
import { cause } from '../../core/delivery/causes';
import {
  attempt,
  CODE_MINUTES,
  CODE_PLACE,
  CODE_WORDS,
  type CodeState,
  MOST_ATTEMPTS,
  withHiddenCode,
} from '../../core/limits/codes';
import { destinationOf } from '../../core/limits/destination';
import { codesUnread } from '../../core/limits/limits';
import { newId } from '../../store/ids';
import type { VerificationCodeRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, found, invalidText, OperationError, requireScope } from '../context';
import { homeOf, limitsInForce, noteOneStop } from '../limits';
import { readOrganisation } from '../organisation';
import type { Sender } from '../outbound';

const DAY = 86_400_000;

export interface CodeRequest {
  to: string;
  from?: string;
  /** With `{code}` where it goes. */
  text?: string;
  /** Minutes it can be confirmed. */
  minutes?: number;
}

export interface CodeView {
  id: string;
  to: string;
  state: CodeState;
  attemptsLeft: number;
  /** Epoch milliseconds. */
  expiresAt: number;
  messageId: string;
}

/** Who asks: an app, or a visitor of a web chat by their address. */
type Asker = { app: Extract<Actor, { kind: 'app' }> } | { actor: Actor; visitorId: string; client: string };

export async function createCode(
  ctx: AppContext,
  send: Sender,
  asker: Asker,
  request: CodeRequest,
  idempotencyKey?: string,
): Promise<CodeView> {
  const actor = 'app' in asker ? asker.app : asker.actor;
  requireScope(actor, 'codes:send');
  const words = withHiddenCode(request.text ?? CODE_WORDS);
  if (words === undefined)
    throw invalidText('text', `The text does not have ${CODE_PLACE} once.`, `Write ${CODE_PLACE} where the code goes.`);
  const minutes = request.minutes ?? CODE_MINUTES.usual;
  if (!(minutes >= 1 && minutes <= CODE_MINUTES.most))
    throw invalidText('minutes', 'The code would last too short or too long.', `From 1 to ${CODE_MINUTES.most}.`);
  const code = String(randomInt(0, 1_000_000)).padStart(6, '0');
  const sent = await send(actor, { to: request.to, from: request.from, text: words }, idempotencyKey, {
    ...('client' in asker ? { visitor: asker.client } : {}),
    judge: (unit, recipient) => refuseUnread(unit, actor, recipient, ctx.now()),
    async keep(unit, message) {
      const at = message.created_at;
      const to = destinationOf(message.recipient);
      if (!to) throw new Error('A code was kept for no telephone number');
      const owner = 'app' in asker ? { app_id: asker.app.id } : { visitor_id: asker.visitorId };
      // One guess at several codes would be several guesses.
      await unit.execute(
        `UPDATE verification_codes SET state = 'replaced', sealed_code = NULL, decided_at = :at
          WHERE state = 'open' AND recipient = :recipient
            AND coalesce(app_id, visitor_id) = :owner`,
        { at, recipient: message.recipient, owner: Object.values(owner)[0] },
      );
      await unit.verificationCodes.insert([
        {
          app_id: null,
          visitor_id: null,
          ...owner,
          id: newId('cod', at),
          recipient: message.recipient,
          country: to.country ?? null,
          range: to.range,
          sealed_code: ctx.sealer.seal({ code }),
          state: 'open',
          attempts: 0,
          created_at: at,
          expires_at: at + minutes * 60_000,
          decided_at: null,
          message_id: message.id,
        },
      ]);
    },
  });
  return viewOf(found(await ctx.store.verificationCodes.one({ message_id: sent.message.id }), 'code'), ctx.now());
}

/** Places whose codes nobody confirms get no more, whoever asks. */
async function refuseUnread(unit: Unit, actor: Actor, recipient: string, now: number): Promise<void> {
  const to = destinationOf(recipient);
  if (!to) throw invalidText('to', 'A code goes to a telephone number.', 'Choose a channel that texts phones.');
  const { lifted } = await limitsInForce(unit, now);
  const places = [
    { by: 'range' as const, column: 'range', subject: to.range, shown: `${to.range}….` },
    // At home a few codes that strangers ask for would keep everybody from theirs.
    ...(to.country && !homeOf(await unit.numbers.all(), await readOrganisation(unit)).has(to.country)
      ? [{ by: 'country' as const, column: 'country', subject: to.country, shown: countryName(to.country) }]
      : []),
  ];
  for (const { by, column, subject, shown } of places) {
    if (lifted('codes-unread', subject)) continue;
    const [row] = await unit.select<{ decided: number; confirmed: number }>(
      `SELECT count(*) AS decided, coalesce(sum(state = 'confirmed'), 0) AS confirmed FROM verification_codes
        WHERE ${column} = :subject AND created_at > :day
          AND (state IN ('confirmed', 'expired', 'used-up') OR state = 'open' AND expires_at <= :now)`,
      { subject, day: now - DAY, now },
    );
    const { decided = 0, confirmed = 0 } = row ?? {};
    if (!codesUnread(by, decided, confirmed)) continue;
    await noteOneStop(unit, { limit: 'codes-unread', subject }, actor.name, now);
    const { explain, remedy } = cause('codes-unread');
    const problem = explain({ subject: shown, said: `${confirmed} of ${decided}` });
    const finding = { code: 'codes-unread', severity: 'error' as const, problem, remedy };
    throw new OperationError('too-often', problem, [{ field: 'to', finding }]);
  }
}

/** Tries a code once. Wrong, late and used up are answers, not errors. */
export async function checkCode(ctx: AppContext, actor: Actor, id: string, given: string): Promise<CodeView> {
  requireScope(actor, 'codes:send');
  return ctx.store.write(async (unit) => {
    const row = found(await unit.verificationCodes.one({ id, app_id: actor.id }), 'code');
    return viewOf(await tryOnce(ctx, unit, row, given), ctx.now());
  });
}

/** Tries the open code of a visitor. Returns what became of it, and the number it was sent to. */
export async function checkVisitorCode(
  ctx: AppContext,
  unit: Unit,
  visitorId: string,
  given: string,
): Promise<CodeView | undefined> {
  const [row] = await unit.verificationCodes.all({ visitor_id: visitorId }, { order: [['id', 'DESC']], limit: 1 });
  return row && viewOf(await tryOnce(ctx, unit, row, given), ctx.now());
}

async function tryOnce(
  ctx: AppContext,
  unit: Unit,
  row: VerificationCodeRow,
  given: string,
): Promise<VerificationCodeRow> {
  if (row.state !== 'open' || row.sealed_code === null) return row;
  const now = ctx.now();
  const { code } = ctx.sealer.open<{ code: string }>(row.sealed_code);
  const typed = Buffer.from(given.replace(/\s/g, ''));
  const right = typed.length === code.length && timingSafeEqual(typed, Buffer.from(code));
  const next = attempt({ attempts: row.attempts, expiresAt: row.expires_at }, { right, now });
  const over = next.state === 'open' ? {} : { sealed_code: null, decided_at: now };
  await unit.verificationCodes.change({ id: row.id }, { ...next, ...over });
  return { ...row, ...next, ...over };
}

export async function getCode(ctx: AppContext, actor: Actor, id: string): Promise<CodeView> {
  requireScope(actor, 'codes:send');
  return viewOf(found(await ctx.store.verificationCodes.one({ id, app_id: actor.id }), 'code'), ctx.now());
}

/** Forgets codes that ran out; a chore of the engine. */
export async function endCodes(ctx: AppContext): Promise<void> {
  const now = ctx.now();
  await ctx.store.write((unit) =>
    unit.execute(
      `UPDATE verification_codes SET state = 'expired', sealed_code = NULL, decided_at = expires_at
        WHERE state = 'open' AND expires_at <= :now`,
      { now },
    ),
  );
}

function viewOf(row: VerificationCodeRow, now: number): CodeView {
  const state = row.state === 'open' && row.expires_at <= now ? 'expired' : row.state;
  return {
    id: row.id,
    to: row.recipient,
    state,
    attemptsLeft: state === 'open' ? MOST_ATTEMPTS - row.attempts : 0,
    expiresAt: row.expires_at,
    messageId: row.message_id,
  };
}
