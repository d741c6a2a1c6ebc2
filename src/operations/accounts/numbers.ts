/** Numbers: what accounts have, searching and claiming more, giving them back, what each is for. */
import type { Connector } from '../../connectors/connector';
import { countryName } from '../../core/addresses/display';
import { channelKind } from '../../core/connect/channelKinds';
import { missingRegistration } from '../../core/connect/predict';
import { type NumberPurpose, PURPOSES } from '../../core/connect/purposes';
import { rankBySimilarity } from '../../core/connect/similarity';
import type { ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  noteChanges,
  OperationError,
  reachesChannel,
  reachOf,
  recordAudit,
  requireAccess,
  requireRole,
  type View,
} from '../context';
import { openCredentials, syncProfiles } from '../profiles';
import { accountWith, refused } from './accountInUse';
import { changeAtProvider } from './providerChanges';
import { removeTrunkNumber } from './trunkNumbers';

export interface NumberView {
  number: View<ProviderNumberRow>;
  account: { id: string; name: string; connectorName: string };
  channel?: { id: string; name: string };
  canRelease: boolean;
  canVerify: boolean;
}

export async function listNumbers(ctx: AppContext, actor: Actor): Promise<NumberView[]> {
  requireAccess(actor, 'viewer', 'channels:read');
  await syncProfiles(ctx);
  const [numbers, accounts, channels] = await Promise.all([
    ctx.store.numbers.all({ gone_at: null }, { order: [['address', 'ASC']] }),
    ctx.store.accounts.all(),
    ctx.store.channels.all(),
  ]);
  const reach = await reachOf(ctx.store, actor);
  return numbers.flatMap((number) => {
    const account = accounts.find((row) => row.id === number.account_id);
    if (!account) return [];
    const connector = ctx.connectors.get(account.connector);
    if (channelKind(connector.kind).hosted) return [];
    const channel = channels.find((row) => row.number_id === number.id);
    if (channel && !reachesChannel(reach, channel.id)) return [];
    return [
      {
        number: asView(number),
        account: { id: account.id, name: account.name, connectorName: connector.name },
        channel: channel && { id: channel.id, name: channel.name },
        canRelease: connector.releaseNumber !== undefined || connector.trunk !== undefined,
        canVerify: connector.codesFor.includes('number') && number.facts.state === 'code-needed',
      },
    ];
  });
}

/** Accounts whose provider lets numbers be searched from here. */
export async function searchableAccounts(ctx: AppContext, actor: Actor): Promise<{ id: string; name: string }[]> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const accounts = await ctx.store.accounts.all({ disabled_at: null }, { order: [['name', 'ASC']] });
  return accounts.filter((account) => ctx.connectors.get(account.connector).searchNumbers !== undefined);
}

/** Numbers that could be claimed, nearest to the wanted digits first. */
export async function searchNumbers(
  ctx: AppContext,
  actor: Actor,
  input: { accountId: string; country: string; areaCode: string; digits: string },
) {
  requireRole(actor, 'administrator');
  const { account, connector } = await accountWith(ctx, input.accountId);
  if (!connector.searchNumbers) throw new OperationError('invalid', `${connector.name} offers no search.`);
  const outcome = await connector.searchNumbers(openCredentials(ctx, account), input);
  if (!outcome.ok) throw refused(account.name, outcome);
  const ours = new Set((await ctx.store.numbers.all({ gone_at: null })).map(({ address }) => address));
  const demands = demandsOf(account, connector, input.country);
  return {
    offers: rankBySimilarity(
      // A provider whose list is behind still offers what was claimed a moment ago.
      outcome.value.filter(({ address }) => !ours.has(address)),
      input.digits,
    ),
    demands,
  };
}

/** What a country demands before its networks carry anything from a number, and whether this account meets it; undefined for nothing known. */
function demandsOf(
  { facts }: ProviderAccountRow,
  connector: Connector,
  country: string,
): { said: string; met: boolean } | undefined {
  if (!connector.requires.registrationCountries.includes(country)) return undefined;
  const missing = missingRegistration(facts, connector.requires, country);
  const demand = `Networks in ${countryName(country)} carry texts of applications only once the brand and its use are registered.`;
  if (!facts.registrations) return { said: `${demand} ${connector.name} does not say whether they are.`, met: false };
  return missing
    ? { said: `${demand} Here ${missing}: until that is approved nothing sent from the number arrives.`, met: false }
    : { said: `${demand} Both are approved.`, met: true };
}

export async function claimNumber(
  ctx: AppContext,
  actor: Actor,
  input: { accountId: string; offerId: string; address: string; purpose?: NumberPurpose },
): Promise<void> {
  await changeAtProvider(ctx, actor, input.accountId, {
    action: 'number.claimed',
    summary: (account) => `Claimed ${input.address} in ${account.name}`,
    run: (connector, credentials) => connector.claimNumber?.(credentials, input.offerId),
  });
  if (!input.purpose) return;
  const number = await ctx.store.numbers.one({ account_id: input.accountId, address: input.address });
  if (number) await setPurpose(ctx, actor, number.id, input.purpose);
}

export async function releaseNumber(ctx: AppContext, actor: Actor, numberId: string): Promise<void> {
  requireRole(actor, 'administrator');
  const number = found(await ctx.store.numbers.one({ id: numberId }), 'number');
  const channel = await ctx.store.channels.one({ number_id: numberId });
  if (channel)
    throw new OperationError(
      'conflict',
      `${number.address} is the channel ${channel.name}. While people text it, it stays.`,
    );
  const { connector } = await accountWith(ctx, number.account_id);
  if (connector.trunk) return removeTrunkNumber(ctx, actor, number);
  await changeAtProvider(ctx, actor, number.account_id, {
    action: 'number.released',
    summary: (account) => `Released ${number.address} in ${account.name}`,
    run: (_, credentials) => connector.releaseNumber?.(credentials, number.remote_id),
  });
}

export async function setPurpose(
  ctx: AppContext,
  actor: Actor,
  numberId: string,
  purpose: NumberPurpose | null,
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const number = found(await unit.numbers.one({ id: numberId }), 'number');
    await unit.numbers.change({ id: numberId }, { purpose });
    await recordAudit(unit, actor, at, {
      action: 'number.purpose',
      subject: numberId,
      summary: `${number.address} is for ${purpose ? PURPOSES[purpose].toLowerCase() : 'nothing in particular'}`,
    });
    await noteChanges(unit, at, [['account', number.account_id]]);
  });
}
