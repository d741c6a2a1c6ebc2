/** Writes one of our addresses into a provider's settings, with the evidence of it. */

import type { Connector } from '../../connectors/connector';
import { changeTrace } from '../../core/changeTrace';
import type { ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { readAccountAgain } from '../accounts';
import {
  type AppContext,
  exchangeRows,
  fallbackUrl,
  inboundUrl,
  invalid,
  noteChanges,
  OperationError,
} from '../context';
import { openCredentials } from '../profiles';

/** A number at its provider. */
export interface Place {
  account: ProviderAccountRow;
  number: ProviderNumberRow;
  connector: Connector;
}

/**
 * Has the provider post to an address of a channel from now on, and reads its settings back. `taken` is done in the unit
 * that notes that it did. Throws what it refused it for.
 */
export async function setAddressAt(
  ctx: AppContext,
  { account, number, connector }: Place,
  channel: { id: string; inbound_token: string; challenge_word: string | null },
  taken: (unit: Unit, at: number) => Promise<void>,
): Promise<void> {
  if (!connector.setInbound)
    throw new OperationError('invalid', `${connector.name} has no way to set the address from here.`);
  const trace = changeTrace();
  const before = trace && (await addressAtProvider(ctx, account, number, connector));
  const outcome = await connector.setInbound(
    openCredentials(ctx, account),
    { remoteId: number.remote_id, address: number.address },
    { url: inboundUrl(ctx, channel), fallback: fallbackUrl(ctx, channel), challengeWord: channel.challenge_word ?? '' },
  );
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('set-inbound', channel.id, outcome));
    if (outcome.ok) await taken(unit, at);
    await noteChanges(unit, at, [['channel', channel.id]]);
  });
  if (!outcome.ok)
    throw invalid('form', {
      code: outcome.failure.cause,
      severity: 'error',
      problem: `${account.name} did not take the address: ${outcome.failure.said ?? outcome.failure.cause}.`,
      remedy: 'Set it by hand in its console.',
    });
  if (trace && before)
    trace.outside.push({
      accountId: account.id,
      numberId: number.id,
      channelId: channel.id,
      before,
      after: inboundUrl(ctx, channel),
    });
  await readAccountAgain(ctx, account.id);
}

/** What the provider posts to now, read afresh: what is to be reverted must be what it really was. */
async function addressAtProvider(
  ctx: AppContext,
  account: ProviderAccountRow,
  number: ProviderNumberRow,
  connector: Connector,
): Promise<{ url: string; fallback: string }> {
  await readAccountAgain(ctx, account.id);
  const [row, of] = await Promise.all([
    ctx.store.numbers.one({ id: number.id }),
    ctx.store.accounts.one({ id: account.id }),
  ]);
  const ofAccount = connector.inboundBelongsTo === 'account' ? of?.facts.callback : undefined;
  if (ofAccount) return { url: ofAccount.url ?? '', fallback: '' };
  if (connector.tells?.inboundUrl === true)
    return { url: row?.inbound_url ?? '', fallback: row?.inbound_fallback ?? '' };
  throw new OperationError(
    'invalid',
    `${connector.name} does not say which address it has now, so it could not be reverted. Make this change at once instead of on trial.`,
  );
}
