/**
 * Moves the number of a channel to another provider while traffic goes on. From the beginning to the end both sides are
 * listened to; which one sends changes in one unit, at once or at a given time, and back as easily. The channel stays what
 * it is: its conversations, routes and rules.
 */
import { channelKind } from '../../../core/connect/channelKinds';
import { canMove } from '../../../core/connect/numberMove';
import { newId } from '../../../store/ids';
import type { ChannelRow, NumberMoveRow, ProviderAccountRow, ProviderNumberRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { addTrunkNumber, readAccountAgain } from '../../accounts';
import {
  type Actor,
  type AppContext,
  exchangeRows,
  found,
  inboundUrl,
  invalidText,
  newToken,
  noteChanges,
  OperationError,
  recordAudit,
  requireConfirmed,
  requireReached,
  requireRole,
  SYSTEM,
} from '../../context';
import { rehearse } from '../../outbound';
import { syncProfiles } from '../../profiles';
import { beginChannelProofs } from '../channels';
import { setAddressAt } from '../setAddress';

/** Begins a move: the new side is listened to from now on, and nothing else changes. */
export async function prepareMove(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
  accountId: string,
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await requireReached(ctx.store, actor, 'channel', channelId);
  await syncProfiles(ctx);
  const channel = found(await ctx.store.channels.one({ id: channelId }), 'channel');
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const connector = ctx.connectors.get(account.connector);
  if (account.id === channel.account_id)
    throw invalidText('account', 'The number is there already.', 'Choose the account it moves to.');
  if (!canMove(channel.kind, connector.kind))
    throw invalidText(
      'account',
      `${connector.name} carries something else than ${channelKind(channel.kind).name}.`,
      'Choose an account that carries texts.',
    );
  const added = connector.trunk ? await addTrunkNumber(ctx, account.id, channel.address) : false;
  if (!connector.trunk) await readAccountAgain(ctx, account.id);
  const number = await ctx.store.numbers.one({ account_id: account.id, address: channel.address, gone_at: null });
  if (!number)
    throw invalidText(
      'account',
      `${account.name} does not list ${channel.address} yet.`,
      'Order the move of the number there; once it is listed, begin here.',
    );
  const at = ctx.now();
  const move: NumberMoveRow = {
    id: newId('mov', at),
    channel_id: channel.id,
    state: 'prepared',
    from_account: channel.account_id,
    from_number: channel.number_id,
    to_account: account.id,
    to_number: number.id,
    added: added ? 1 : 0,
    other_token: newToken(channel.name),
    cut_over_at: null,
    said: null,
    turns: [],
    created_at: at,
    ended_at: null,
  };
  await ctx.store.write(async (unit) => {
    if (await unit.numberMoves.one({ channel_id: channel.id, ended_at: null }))
      throw new OperationError('conflict', `${channel.address} is being moved already.`);
    if (await unit.channels.one({ number_id: number.id }))
      throw invalidText('account', `${channel.address} is a channel there already.`, 'A number has one channel.');
    await unit.numberMoves.insert([move]);
    await recordAudit(unit, actor, at, {
      action: 'channel.move-begun',
      subject: channel.id,
      summary: `Began to move ${channel.address} of ${channel.name} to ${account.name}`,
    });
    await noteChanges(unit, at, [['channel', channel.id]]);
  });
  return { id: move.id };
}

/** Writes the address of the side that does not send yet, or no more, into its provider's settings. */
export async function handOverOtherSide(ctx: AppContext, actor: Actor, moveId: string): Promise<void> {
  requireRole(actor, 'administrator');
  const { move, channel } = await openMove(ctx, actor, moveId);
  const other = move.state === 'prepared' ? sideOf(move, 'to') : sideOf(move, 'from');
  const account = found(await ctx.store.accounts.one({ id: other.account }), 'account');
  const number = found(await ctx.store.numbers.one({ id: other.number }), 'number');
  const place = { account, number, connector: ctx.connectors.get(account.connector) };
  const { challenge_word } = channel;
  await setAddressAt(ctx, place, { id: channel.id, challenge_word, ...addressOf(move) }, (unit, at) =>
    recordAudit(unit, actor, at, {
      action: 'channel.handed-over',
      subject: channel.id,
      summary: `Set the other inbound URL of ${channel.name} at ${account.name}`,
    }),
  );
}

/** Sends one text from the number over the side that does not send yet. Says what that provider answered. */
export async function rehearseMove(ctx: AppContext, actor: Actor, moveId: string, to: string): Promise<string> {
  requireRole(actor, 'administrator');
  const { move, channel } = await openMove(ctx, actor, moveId);
  if (move.state !== 'prepared') throw new OperationError('conflict', 'The number sends there already.');
  const account = found(await ctx.store.accounts.one({ id: move.to_account }), 'account');
  const number = found(await ctx.store.numbers.one({ id: move.to_number }), 'number');
  const connector = ctx.connectors.get(account.connector);
  if (!connector.send)
    throw new OperationError(
      'invalid',
      `Over ${connector.name} the bind is what can be seen before the move: see its page.`,
    );
  const outcome = await rehearse(ctx, account, {
    reference: newId('msg', ctx.now()),
    sender: number.address,
    recipient: to,
    text: `A test of ${channel.name} before it moves to ${account.name}.`,
    receiptUrl: `${inboundUrl(ctx, addressOf(move))}/receipts`,
    numberId: number.remote_id,
  });
  const at = ctx.now();
  const said = outcome.ok ? 'accepted it' : `refused it: ${outcome.failure.said ?? outcome.failure.cause}`;
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('send', channel.id, outcome));
    await unit.numberMoves.change({ id: move.id }, { said: `In the last rehearsal ${account.name} ${said}.` });
    await noteChanges(unit, at, [['channel', channel.id]]);
  });
  return `${account.name} ${said}.`;
}

/** When the number begins to send over the new side; null: when somebody says so. */
export async function timeCutOver(ctx: AppContext, actor: Actor, moveId: string, at: number | null): Promise<void> {
  requireRole(actor, 'administrator');
  const { move, channel } = await openMove(ctx, actor, moveId);
  if (move.state !== 'prepared') throw new OperationError('conflict', 'The number sends there already.');
  if (at !== null && !(at > ctx.now()))
    throw invalidText('at', 'This moment is over already.', 'Give one that is to come.');
  await ctx.store.write(async (unit) => {
    await unit.numberMoves.change({ id: move.id }, { cut_over_at: at });
    await recordAudit(unit, actor, ctx.now(), {
      action: 'channel.move-timed',
      subject: channel.id,
      summary:
        at === null ? 'Took the time of the move back' : `${channel.address} moves at ${new Date(at).toISOString()}`,
    });
    await noteChanges(unit, ctx.now(), [['channel', channel.id]]);
  });
}

/** The other side sends from now on, and the one that did is still listened to. From either side. */
export async function swapSides(ctx: AppContext, actor: Actor, moveId: string): Promise<void> {
  requireRole(actor, 'administrator');
  if (actor.kind === 'user') requireConfirmed(ctx, actor);
  const { move } = await openMove(ctx, actor, moveId);
  await ctx.store.write((unit) => swap(ctx, unit, actor, move.id));
  ctx.engineWakeUp.ring('outbox');
  ctx.engineWakeUp.ring('accounts');
}

/** Ends a move: one that was only prepared leaves all as it was, of one that was made the old side is listened to no more. */
export async function endMove(ctx: AppContext, actor: Actor, moveId: string): Promise<void> {
  requireRole(actor, 'administrator');
  const { move, channel } = await openMove(ctx, actor, moveId);
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    await unit.numberMoves.change({ id: move.id }, { ended_at: at, cut_over_at: null });
    // Called off, nothing says that the number is there.
    if (move.state === 'prepared' && move.added === 1) await unit.numbers.remove({ id: move.to_number });
    await recordAudit(unit, actor, at, {
      action: 'channel.move-ended',
      subject: channel.id,
      summary:
        move.state === 'prepared'
          ? `Called the move of ${channel.address} off`
          : `Ended the move of ${channel.address}: its old side is listened to no more`,
    });
    await noteChanges(unit, at, [['channel', channel.id]]);
  });
}

/** Makes the moves whose time has come. Returns when the next one is, in milliseconds. */
export async function makeTimedMoves(ctx: AppContext): Promise<number | undefined> {
  const timed = await ctx.store.select<{ id: string; at: number }>(
    `SELECT id, cut_over_at AS at FROM number_moves WHERE ended_at IS NULL AND state = 'prepared' AND cut_over_at IS NOT NULL ORDER BY cut_over_at`,
  );
  await syncProfiles(ctx);
  for (const { id } of timed.filter(({ at }) => at <= ctx.now()))
    await ctx.store.write(async (unit) => {
      const move = found(await unit.numberMoves.one({ id }), 'move');
      const account = await unit.accounts.one({ id: move.to_account });
      // Nothing is led to where it would be refused.
      const hindrance = !account
        ? 'the account is gone'
        : account.disabled_at !== null
          ? `${account.name} is switched off`
          : account.state !== 'accepted'
            ? `${account.name} does not accept the credentials`
            : undefined;
      if (hindrance === undefined) return swap(ctx, unit, SYSTEM, id);
      await unit.numberMoves.change({ id }, { cut_over_at: null, said: `It was not moved at its time: ${hindrance}.` });
      await noteChanges(unit, ctx.now(), [['channel', move.channel_id]]);
    });
  ctx.engineWakeUp.ring('outbox');
  const next = timed.find(({ at }) => at > ctx.now());
  return next && next.at - ctx.now();
}

/** Of the side that does not send. */
export const addressOf = ({ other_token }: Pick<NumberMoveRow, 'other_token'>) => ({ inbound_token: other_token });

interface Side {
  account: string;
  number: string;
}

const sideOf = (move: NumberMoveRow, which: 'from' | 'to'): Side =>
  which === 'from'
    ? { account: move.from_account, number: move.from_number }
    : { account: move.to_account, number: move.to_number };

async function openMove(
  ctx: AppContext,
  actor: Actor,
  id: string,
): Promise<{ move: NumberMoveRow; channel: ChannelRow }> {
  await syncProfiles(ctx);
  const move = found(await ctx.store.numberMoves.one({ id, ended_at: null }), 'move');
  await requireReached(ctx.store, actor, 'channel', move.channel_id);
  return { move, channel: found(await ctx.store.channels.one({ id: move.channel_id }), 'channel') };
}

/** In one unit: the addresses change places, so that each side posts to its own before and after. */
async function swap(ctx: AppContext, unit: Unit, actor: Actor, id: string): Promise<void> {
  const at = ctx.now();
  const move = found(await unit.numberMoves.one({ id, ended_at: null }), 'move');
  const forth = move.state === 'prepared';
  const side = sideOf(move, forth ? 'to' : 'from');
  const channel = found(await unit.channels.one({ id: move.channel_id }), 'channel');
  const account: ProviderAccountRow = found(await unit.accounts.one({ id: side.account }), 'account');
  const number: ProviderNumberRow = found(await unit.numbers.one({ id: side.number }), 'number');
  const connector = ctx.connectors.get(account.connector);
  const moved = {
    account_id: account.id,
    number_id: number.id,
    kind: connector.kind,
    pace: Math.min(channel.pace, connector.limits.pace),
    inbound_token: move.other_token,
    // Only what the provider was seen to have was handed over.
    ...(number.inbound_url === inboundUrl(ctx, addressOf(move))
      ? { handed_over_at: at, handed_over_how: 'by-windgap' as const }
      : { handed_over_at: null, handed_over_how: null }),
  };
  await unit.channels.change({ id: channel.id }, moved);
  await unit.numberMoves.change(
    { id },
    {
      state: forth ? 'moved' : 'prepared',
      other_token: channel.inbound_token,
      cut_over_at: null,
      said: null,
      turns: [...move.turns, { at, account: account.id }],
    },
  );
  // What was proven over the other side says nothing of this one.
  await unit.proofs.remove({ subject_id: channel.id });
  await beginChannelProofs(unit, { ...channel, ...moved, created_at: at }, connector, number, account);
  await recordAudit(unit, actor, at, {
    action: 'channel.moved',
    subject: channel.id,
    summary: `${channel.address} of ${channel.name} sends through ${account.name} from now on`,
  });
  await noteChanges(unit, at, [
    ['channel', channel.id],
    ['account', move.from_account],
    ['account', move.to_account],
  ]);
}
