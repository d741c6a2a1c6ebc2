/** Trunks: what the engine holds open, what it notes of them, and what an administrator sets. */
import type { Accepted, InboundHttpRequest, TrunkEvents } from '../../connectors/connector';
import { settingsOf, type TrunkSettings } from '../../connectors/smpp/dialect';
import { normaliseAddress } from '../../core/addresses/address';
import { createBatcher } from '../../store/batcher';
import { newId } from '../../store/ids';
import type { ChannelRow, InboundRequestRow, ProviderAccountRow } from '../../store/schema/rows';
import type { AppContext } from '../context';
import { settleLate } from '../outbound';
import { openCredentials, syncProfiles } from '../profiles';
import { createRecorder } from './trunkRecorder';

export type { TrunkLink } from '../../connectors/connector';

/** An account whose link is to be held, with everything that makes another link of it when it changes. */
export interface TrunkAccount {
  account: ProviderAccountRow;
  settings: TrunkSettings;
  fingerprint: string;
}

export async function trunkAccounts(ctx: AppContext): Promise<TrunkAccount[]> {
  await syncProfiles(ctx);
  const accounts = await ctx.store.accounts.all({ disabled_at: null });
  return accounts.flatMap((account) => {
    const connector = ctx.connectors.has(account.connector) ? ctx.connectors.get(account.connector) : undefined;
    if (!connector?.trunk) return [];
    const settings = settingsOf(connector.trunk, account.settings);
    const profile = ctx.connectors.profileOf(account.connector)?.text;
    const fingerprint = JSON.stringify([account.credentials_changed_at, settings, profile]);
    return [{ account, settings, fingerprint }];
  });
}

/** What the engine does when something happens on a trunk. */
export interface TrunkHandlers {
  /** The link can take texts. */
  ready(): void;
}

/** Opens and holds the link of an account; everything worth knowing of it is written to the store. */
export function holdTrunk(ctx: AppContext, { account, settings }: TrunkAccount, handlers: TrunkHandlers) {
  const connector = ctx.connectors.get(account.connector);
  if (!connector.openTrunk) throw new Error(`${connector.name} is no trunk`);
  const recorder = createRecorder(ctx, account);
  const storeDelivered = createBatcher<InboundRequestRow, void>(async (rows) => {
    await ctx.store.append('inbound', rows);
    ctx.engineWakeUp.ring('inbound');
    return rows.map(() => undefined);
  });
  const events: TrunkEvents = {
    changed(change) {
      recorder.changed(change);
      if (change.state === 'bound') handlers.ready();
    },
    arrived: async (request) => storeDelivered(await deliveredRow(ctx, account, request)),
    answeredLate(reference: string, accepted: Accepted) {
      void settleLate(ctx, reference, accepted).catch((error) =>
        ctx.log.error({ err: error }, 'a late answer was not noted'),
      );
    },
    pdu: (entry) => recorder.pdu(entry),
  };
  const link = connector.openTrunk(openCredentials(ctx, account), settings, events);
  recorder.watch(link);
  return {
    link,
    async close() {
      await link.close();
      await recorder.close();
    },
  };
}

/** A channel whose number moves to this account, or came from it. */
async function movingThere(ctx: AppContext, accountId: string, address: string): Promise<ChannelRow | undefined> {
  const moves = await ctx.store.numberMoves.all({ ended_at: null });
  const ids = moves.flatMap(({ channel_id, from_account, to_account }) =>
    from_account === accountId || to_account === accountId ? [channel_id] : [],
  );
  return (await ctx.store.channels.allBy('id', ids)).find((channel) => channel.address === address);
}

async function deliveredRow(
  ctx: AppContext,
  account: ProviderAccountRow,
  request: InboundHttpRequest,
): Promise<InboundRequestRow> {
  const at = ctx.now();
  const to = normaliseAddress(request.headers.destination_addr ?? '', { allowShortCode: true, allowSenderName: true });
  const address = to.ok ? to.address.value : (request.headers.destination_addr ?? '');
  const channel =
    (await ctx.store.channels.one({ account_id: account.id, address })) ??
    (await movingThere(ctx, account.id, address));
  return {
    id: newId('inb', at),
    channel_id: channel?.id ?? '',
    account_id: account.id,
    received_at: at,
    method: request.method,
    path: request.url,
    query: '',
    headers: { ...request.headers },
    body: request.body,
    remote_address: null,
    signature: 'bind',
    answer_status: 0,
    state: 'stored',
    cause: null,
    outcome: null,
    processed_at: null,
  };
}
