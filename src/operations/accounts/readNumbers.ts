/** Reads the account's numbers from the provider and keeps what it says of each. */
import type { RemoteNumber } from '../../connectors/connector';
import { normaliseAddress } from '../../core/addresses/address';
import { newId } from '../../store/ids';
import type { ProviderNumberRow } from '../../store/schema/rows';
import { type AppContext, exchangeRows, found, noteChanges } from '../context';
import { openCredentials } from '../profiles';
import { refused } from './accountInUse';

/** Reads the account's numbers from the provider and keeps what it says of each. */
export async function refreshNumbers(ctx: AppContext, accountId: string): Promise<void> {
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const connector = ctx.connectors.get(account.connector);
  if (!connector.listNumbers) return;
  const outcome = await connector.listNumbers(openCredentials(ctx, account));
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('numbers', accountId, outcome));
    if (outcome.ok) {
      const known = await unit.numbers.all({ account_id: accountId });
      for (const remote of outcome.value) {
        const earlier = known.find((row) => row.remote_id === remote.remoteId);
        await unit.numbers.put(numberRow(accountId, remote, earlier, at));
      }
      const listed = new Set(outcome.value.map((remote) => remote.remoteId));
      const gone = known.filter((row) => !listed.has(row.remote_id) && row.gone_at === null);
      await unit.numbers.change({ id: gone.map((row) => row.id) }, { gone_at: at });
    }
    await noteChanges(unit, at, [['account', accountId]]);
  });
  if (!outcome.ok) throw refused(account.name, outcome);
}

export function numberRow(
  accountId: string,
  remote: RemoteNumber,
  earlier: ProviderNumberRow | undefined,
  at: number,
): ProviderNumberRow {
  const normalised = normaliseAddress(remote.address, { allowShortCode: true, allowSenderName: true });
  return {
    id: earlier?.id ?? newId('num', at),
    account_id: accountId,
    remote_id: remote.remoteId,
    address: normalised.ok ? normalised.address.value : remote.address,
    kind: normalised.ok ? normalised.address.kind : remote.address.includes('@') ? 'mail-address' : 'other',
    country: normalised.ok ? (normalised.address.country ?? null) : null,
    abilities: remote.abilities,
    inbound_url: remote.inbound.url ?? null,
    inbound_method: remote.inbound.method ?? null,
    inbound_fallback: remote.inbound.fallback ?? null,
    seen_at: at,
    facts: remote.facts,
    purpose: earlier?.purpose ?? null,
    gone_at: null,
  };
}
