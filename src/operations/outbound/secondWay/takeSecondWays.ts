/** The engine's part in second ways: messages whose first way failed, or took too long, go over another channel; at most once. */

import { cause, isCauseCode } from '../../../core/delivery/causes';
import { inWords } from '../../../core/delivery/choices';
import { type FallbackVerdict, judgeFallback } from '../../../core/delivery/fallback';
import { identityKey } from '../../../core/identities/identityKinds';
import type { FallbackRow, MessageEventRow, MessageRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { emitMessageEvents } from '../../apps/webhooks';
import { type AppContext, isOperationError, noteMessages, type OperationError, SYSTEM } from '../../context';
import { identityOn, isOn, reachedOn } from '../../identities';
import { appendMessageEvents } from '../../messages';
import { syncProfiles } from '../../profiles';
import { aloneAfterFailure } from '../../workQueue';
import { queueSecondWays } from '../sendMessage';
import type { Order } from '../sendRequests';
import { fallbackQueue } from './fallbackQueue';

/** So many in one unit. */
const AT_ONCE = 100;
/** What is being handed over is looked at again so much later, milliseconds. */
const SOON = 2000;

/** Takes the second way for all that are due. Returns when the next one is, in milliseconds. */
export async function goSecondWays(ctx: AppContext): Promise<number | undefined> {
  const due = await ctx.store.select<{ message_id: string }>(
    'SELECT message_id FROM fallbacks WHERE due_at <= :now ORDER BY due_at LIMIT :most',
    { now: ctx.now(), most: AT_ONCE },
  );
  if (due.length > 0) {
    await syncProfiles(ctx);
    const ids = due.map(({ message_id }) => message_id);
    await aloneAfterFailure(ctx, fallbackQueue, ids, (some) => ctx.store.write((unit) => decide(ctx, unit, some)));
    ctx.engineWakeUp.ring('outbox');
    ctx.engineWakeUp.ring('webhooks');
  }
  if (due.length === AT_ONCE) return 0;
  const [next] = await ctx.store.select<{ at: number | null }>('SELECT min(due_at) AS at FROM fallbacks');
  return next?.at === null || next?.at === undefined ? undefined : Math.max(0, next.at - ctx.now());
}

interface Watched {
  message: MessageRow;
  fallback: FallbackRow;
}

async function decide(ctx: AppContext, unit: Unit, ids: readonly string[]): Promise<void> {
  const at = ctx.now();
  const [rows, messages, events, channels] = await Promise.all([
    unit.fallbacks.allBy('message_id', ids),
    unit.messages.allBy('id', ids),
    unit.events.all({ message_id: [...ids] }, { order: [['id', 'ASC']] }),
    unit.channels.all(),
  ]);
  const going: { order: Order; first: Watched; why: string }[] = [];
  for (const fallback of rows) {
    const message = messages.find(({ id }) => id === fallback.message_id);
    const here = channels.find(({ id }) => id === message?.channel_id);
    const there = channels.find(({ id }) => id === fallback.to_id);
    if (!message || !here || !there) throw new Error('A message with a second way stands without its channels');
    const own = events.filter(({ message_id }) => message_id === message.id);
    const reached = isOn(there, identityOn(here, ''))
      ? message.recipient
      : reachedOn(there, await unit.identities.all({ contact_id: message.contact_id }))?.value;
    const sameAddress =
      reached !== undefined &&
      identityKey(identityOn(here, message.recipient)) === identityKey(identityOn(there, reached));
    const verdict = judgeFallback(
      { state: message.state, cause: message.cause, events: own.map(asFirstWay) },
      { twice: fallback.twice === 1, sameAddress },
    );
    const first = { message, fallback };
    if (verdict.is !== 'goes') await remain(unit, first, verdict, at);
    else if (reached === undefined)
      await giveUp(unit, first, 'impossible', `Nothing is known by which ${there.name} would reach this person`, at);
    else going.push({ order: await orderOf(unit, first, there.id, reached), first, why: whyNow(first, at) });
  }
  if (going.length > 0) await go(ctx, unit, going, channels, at);
}

function asFirstWay({ kind, detail }: MessageEventRow) {
  return { kind, unknown: (detail as { unknown?: boolean } | null)?.unknown === true };
}

/** Why it goes: the cause of its failure, or the time it had. */
function whyNow({ message, fallback }: Watched, at: number): string {
  if (message.state === 'failed' && message.cause) return cause(message.cause).title;
  const minutes = Math.round(((fallback.first_until ?? at) - message.created_at) / 60_000);
  const heard = message.state === 'queued' ? 'could not be handed over' : 'was not known to have arrived';
  return `It ${heard} within ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}`;
}

const STAYS = {
  'in-doubt': 'The provider may have taken it all the same, so nothing else was sent',
  'of-the-message': 'No other channel would change this, so nothing else was sent',
  'of-the-address': 'The address is the same over the other channel, so nothing else was sent',
} as const;

async function remain(unit: Unit, first: Watched, verdict: FallbackVerdict, at: number): Promise<void> {
  const message_id = first.message.id;
  if (verdict.is === 'arrived') await unit.fallbacks.remove({ message_id });
  else if (verdict.is === 'soon') await unit.fallbacks.change({ message_id }, { due_at: at + SOON });
  else if (verdict.is === 'stays') await giveUp(unit, first, 'stays', STAYS[verdict.because], at);
  else await waitForCertainty(unit, message_id, at);
}

/** Its time is over, and it may have arrived: it is looked at again when it is known to have failed. */
async function waitForCertainty(unit: Unit, message_id: string, at: number): Promise<void> {
  const said = 'It is not known whether it arrived, so nothing else was sent';
  await unit.fallbacks.change({ message_id }, { state: 'waits', due_at: null, said, decided_at: at });
}

/** There is no second way after all, and the app that reads of it is told. */
async function giveUp(
  unit: Unit,
  { message }: Watched,
  state: 'stays' | 'impossible',
  said: string,
  at: number,
): Promise<void> {
  const message_id = message.id;
  await unit.fallbacks.change({ message_id }, { state, due_at: null, said, decided_at: at });
  await unit.messages.change({ id: message_id }, { fallback_to: null });
  if (message.state === 'failed')
    await emitMessageEvents(unit, 'windgap.message.state', [{ ...message, fallback_to: null }], at);
  await noteMessages(unit, at, [message]);
}

/** The same words to the same person over another channel; everything else of it is judged as if it were new. */
async function orderOf(unit: Unit, { message }: Watched, from: string, to: string): Promise<Order> {
  const been: string[] = [];
  for (let one: MessageRow | undefined = message; one; ) {
    been.push(one.channel_id);
    one = one.instead_of === null ? undefined : await unit.messages.one({ id: one.instead_of });
  }
  return {
    actor: SYSTEM,
    input: {
      from,
      to,
      text: message.choices?.asButtons ? inWords(message.text, message.choices) : message.text,
      media: message.media ?? undefined,
      tags: message.tags ?? undefined,
      validUntil: message.valid_until ?? undefined,
      subject: message.subject ?? undefined,
      inReplyTo: message.in_reply_to ?? undefined,
    },
    insteadOf: {
      message,
      been,
      code: (await unit.verificationCodes.one({ message_id: message.id })) !== undefined,
    },
  };
}

/** In one unit: what still waits for its first way is taken from there, and goes over the other. */
async function go(
  ctx: AppContext,
  unit: Unit,
  going: readonly { order: Order; first: Watched; why: string }[],
  channels: readonly { id: string; name: string }[],
  at: number,
): Promise<void> {
  const firstOf = new Map(going.map((each) => [each.order, each]));
  const made = await queueSecondWays(
    ctx,
    unit,
    going.map(({ order }) => order),
    at,
    async (order) => {
      const { first } = firstOf.get(order) as (typeof going)[number];
      return first.message.state !== 'queued' || takeFromFirst(unit, first, channels, at);
    },
  );
  for (const { order, first, why } of going) {
    const message_id = first.message.id;
    const result = made.get(order);
    if (!result) continue;
    if (isOperationError(result)) {
      await giveUp(unit, first, 'impossible', wordsOf(result), at);
      continue;
    }
    await unit.fallbacks.change(
      { message_id },
      { state: 'gone', due_at: null, said: why, next_id: result.id, decided_at: at },
    );
    await unit.messages.change({ id: message_id }, { continued_by: result.id });
    // The code is looked up by the message that carries it.
    if (order.insteadOf?.code) await unit.verificationCodes.change({ message_id }, { message_id: result.id });
    await noteMessages(unit, at, [first.message]);
  }
}

/** In general words where there are some: what is kept here names nobody. */
function wordsOf({ findings, message }: OperationError): string {
  const finding = findings[0]?.finding;
  return isCauseCode(finding?.code) ? cause(finding.code).title : (finding?.problem ?? message);
}

/** Takes a message out of the outbox of its first channel. Returns false where it is being handed over, or is held, and is left. */
async function takeFromFirst(
  unit: Unit,
  { message, fallback }: Watched,
  channels: readonly { id: string; name: string }[],
  at: number,
): Promise<boolean> {
  const message_id = message.id;
  const taken = await unit.execute(`DELETE FROM outbox WHERE message_id = :message_id AND state = 'due'`, {
    message_id,
  });
  if (taken === 0) {
    const held = (await unit.outbox.one({ message_id }))?.state === 'aside';
    await unit.fallbacks.change({ message_id }, held ? { state: 'waits', due_at: null } : { due_at: at + SOON });
    return false;
  }
  const said = channels.find(({ id }) => id === fallback.to_id)?.name;
  await appendMessageEvents(
    unit,
    [{ message_id, kind: 'refused', at, cause: 'taken-elsewhere', detail: { said } }],
    at,
  );
  return true;
}
