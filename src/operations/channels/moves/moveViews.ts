/** What is seen of a number that moves: both sides, and what came over each. */
import { canMove } from '../../../core/connect/numberMove';
import type { NumberMoveRow } from '../../../store/schema/rows';
import type { Tables } from '../../../store/schema/tables';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  inboundUrl,
  requireReached,
  requireRole,
  type View,
} from '../../context';
import { syncProfiles } from '../../profiles';
import { addressOf } from './moveNumber';

export interface SideOfMove {
  accountId: string;
  account: string;
  connector: string;
  /** Whether it sends now. */
  sends: boolean;
  trunk: boolean;
  /** What stands against sending over it, as the account was checked last. */
  refused?: string;
  /** The inbound URL it posts to; a trunk has none. */
  url?: string;
  /** Whether the provider has this address, where it tells. */
  has: 'ours' | 'another' | 'nothing' | 'not-told';
  canSetAddress: boolean;
  canRehearse: boolean;
  /** Requests that came over it since the move began, and the last of them. */
  came: number;
  lastAt?: number;
}

export interface MoveView {
  move: View<Omit<NumberMoveRow, 'other_token' | 'turns'>>;
  /** The side that sends, and the other. */
  sides: [SideOfMove, SideOfMove];
}

/** The move of a channel's number that is under way. */
export async function readMove(ctx: AppContext, actor: Actor, channelId: string): Promise<MoveView | undefined> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const row = await ctx.store.numberMoves.one({ channel_id: channelId, ended_at: null });
  if (!row) return undefined;
  await syncProfiles(ctx);
  const channel = found(await ctx.store.channels.one({ id: channelId }), 'channel');
  const came = await ctx.store.select<{ account: string | null; n: number; last: number }>(
    `SELECT account_id AS account, count(*) AS n, max(received_at) AS last FROM inbound_requests
      WHERE channel_id = :channelId AND received_at >= :since AND state <> 'refused' GROUP BY account_id`,
    { channelId, since: row.created_at },
  );
  const side = async (accountId: string, numberId: string): Promise<SideOfMove> => {
    const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
    const number = await ctx.store.numbers.one({ id: numberId });
    const connector = ctx.connectors.get(account.connector);
    const sends = channel.account_id === accountId;
    const url = connector.trunk ? undefined : inboundUrl(ctx, sends ? channel : addressOf(row));
    const seen = came.find(({ account: id }) => id === accountId);
    const told = number?.inbound_url;
    return {
      accountId,
      account: account.name,
      connector: connector.name,
      sends,
      trunk: connector.trunk !== undefined,
      ...(account.disabled_at !== null
        ? { refused: 'it is switched off' }
        : account.state === 'accepted'
          ? {}
          : { refused: 'it does not accept the credentials' }),
      url,
      has: told ? (told === url ? 'ours' : 'another') : connector.setInbound ? 'nothing' : 'not-told',
      canSetAddress: connector.setInbound !== undefined,
      canRehearse: connector.send !== undefined,
      came: seen?.n ?? 0,
      lastAt: seen?.last,
    };
  };
  const from = await side(row.from_account, row.from_number);
  const to = await side(row.to_account, row.to_number);
  const { other_token: _, turns: __, ...move } = row;
  return { move: asView(move), sides: from.sends ? [from, to] : [to, from] };
}

/** Accounts a channel's number could move to. */
export async function moveChoices(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
): Promise<[id: string, name: string][]> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const channel = found(await ctx.store.channels.one({ id: channelId }), 'channel');
  const accounts = await ctx.store.accounts.all({ disabled_at: null }, { order: [['name', 'ASC']] });
  return accounts.flatMap(({ id, name, connector }) =>
    id !== channel.account_id &&
    ctx.connectors.has(connector) &&
    canMove(channel.kind, ctx.connectors.get(connector).kind)
      ? [[id, name]]
      : [],
  );
}

/** Channels whose number moves to an account or came from it, by the account: they are listened to over both. */
export async function movingChannels(from: Pick<Tables, 'numberMoves'>): Promise<Map<string, string[]>> {
  const moving = new Map<string, string[]>();
  for (const { channel_id, from_account, to_account } of await from.numberMoves.all({ ended_at: null }))
    for (const account of [from_account, to_account]) moving.set(account, [...(moving.get(account) ?? []), channel_id]);
  return moving;
}
