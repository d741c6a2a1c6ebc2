/** What the examination of connections has to say, from the facts kept in the store. */
import { type ConnectionFinding, examineConnection } from '../../core/connect/examine';
import type { ChannelRow, ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import { optOutsKeptByProviders } from '../contacts';
import { type AppContext, fallbackUrl, inboundUrl } from '../context';
import { readDoor } from '../door';
import { ledElsewhere } from '../profiles';

export type { ConnectionFinding };

/** Opt-outs that a provider kept longer ago say nothing of how it is set now. */
const DAY = 86_400_000;
const LATELY = 30 * 86_400_000;

export async function findingsOf(
  ctx: AppContext,
  accounts: readonly ProviderAccountRow[],
): Promise<ConnectionFinding[]> {
  const ids = accounts.map((account) => account.id);
  const [channels, numbers] = await Promise.all([
    ctx.store.channels.all({ account_id: ids }),
    ctx.store.numbers.all({ account_id: ids, gone_at: null }),
  ]);
  const [optOuts, door, posted] = await Promise.all([
    optOutsKeptByProviders(ctx.store, ctx.now() - LATELY),
    readDoor(ctx),
    ctx.store.select<{ id: string }>(
      `SELECT c.id FROM channels c WHERE c.account_id IN (:ids) AND EXISTS (SELECT 1 FROM inbound_requests r
         WHERE r.channel_id = c.id AND r.state IN ('stored', 'done') AND r.received_at > :since)`,
      { ids, since: ctx.now() - DAY },
    ),
  ]);
  const around = { optOuts, doorOpen: door?.state === 'open', posted: new Set(posted.map(({ id }) => id)) };
  return accounts.flatMap((account) =>
    examineConnection(
      factsOf(
        ctx,
        around,
        account,
        channels.filter((channel) => channel.account_id === account.id),
        numbers.filter((number) => number.account_id === account.id),
      ),
    ),
  );
}

function factsOf(
  ctx: AppContext,
  {
    optOuts,
    doorOpen,
    posted,
  }: { optOuts: ReadonlyMap<string, number>; doorOpen: boolean; posted: ReadonlySet<string> },
  account: ProviderAccountRow,
  channels: ChannelRow[],
  numbers: ProviderNumberRow[],
) {
  const connector = ctx.connectors.get(account.connector);
  return {
    now: ctx.now(),
    account: {
      id: account.id,
      name: account.name,
      connectorName: connector.name,
      facts: account.facts,
      requires: connector.requires,
      challenges: connector.challenges,
      inboundBelongsTo: connector.inboundBelongsTo,
      inboundMethod: connector.inboundMethod,
      canSetAddress: connector.setInbound !== undefined,
      disabled: account.disabled_at !== null,
      doorOpen,
      leadsTo: ledElsewhere(ctx, account),
    },
    numbers: numbers.map((number) => ({
      address: number.address,
      inboundUrl: number.inbound_url ?? undefined,
      fallback: number.inbound_fallback ?? undefined,
    })),
    channels: channels.flatMap((channel) => {
      const number = numbers.find((row) => row.id === channel.number_id);
      if (!number) return [];
      const told =
        connector.listNumbers !== undefined &&
        connector.setInbound !== undefined &&
        connector.tells?.inboundUrl !== false;
      return [
        {
          id: channel.id,
          name: channel.name,
          kind: channel.kind,
          address: channel.address,
          addressKind: number.kind,
          abilities: number.abilities,
          facts: number.facts,
          inboundUrl: inboundUrl(ctx, channel),
          fallbackUrl: fallbackUrl(ctx, channel),
          remote: told
            ? {
                url: number.inbound_url ?? undefined,
                method: number.inbound_method ?? undefined,
                ...(connector.tells?.fallback === false ? {} : { fallback: number.inbound_fallback ?? undefined }),
              }
            : undefined,
          handedOver: channel.handed_over_at !== null,
          postedLately: posted.has(channel.id),
          optOutsKept: optOuts.get(channel.id) ?? 0,
          challengedAt: channel.challenged_at ?? undefined,
        },
      ];
    }),
  };
}
