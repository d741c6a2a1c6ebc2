/** Changes on the provider's side: codes, registrations, test mode, event subscriptions; each asked, kept as evidence, and read anew. */
import type { Connector, Outcome } from '../../connectors/connector';
import { normaliseAddress } from '../../core/addresses/address';
import type { ProviderAccountRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  exchangeRows,
  found,
  invalid,
  invalidText,
  noteChanges,
  notOnTrial,
  OperationError,
  recordAudit,
  requireRole,
} from '../context';
import { openCredentials } from '../profiles';
import { accountWith, refused } from './accountInUse';
import { refreshNumbers } from './readNumbers';

/** Asks for a code to a phone of a trial account, or to a number of ours that has to be proven. */
export async function startCode(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  subject: { kind: 'phone' | 'number'; id: string },
): Promise<{ id: string }> {
  const id = subject.kind === 'phone' ? phoneOf(subject.id) : subject.id;
  await changeAtProvider(ctx, actor, accountId, {
    action: 'code.asked',
    summary: (account) => `Asked ${account.name} to send a code to ${id}`,
    run: (connector, credentials) => connector.startCode?.(credentials, { kind: subject.kind, id }),
  });
  return { id };
}

export async function confirmCode(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  subject: { kind: 'phone' | 'number'; id: string },
  code: string,
): Promise<void> {
  const id = subject.kind === 'phone' ? phoneOf(subject.id) : subject.id;
  await changeAtProvider(ctx, actor, accountId, {
    action: 'code.confirmed',
    summary: (account) => `Confirmed ${id} at ${account.name}`,
    field: 'code',
    run: (connector, credentials) => connector.confirmCode?.(credentials, { kind: subject.kind, id }, code.trim()),
  });
}

function phoneOf(text: string): string {
  const normalised = normaliseAddress(text);
  if (!normalised.ok) throw invalid('phone', normalised.finding);
  return normalised.address.value;
}

export async function register(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  input: { country: string; step: 'brand' | 'use'; name: string; details: string },
): Promise<void> {
  if (!input.name.trim()) throw invalidText('name', 'The name is empty.', 'The registered name of the organisation.');
  if (!input.details.trim())
    throw invalidText('details', 'There are no details.', 'Reviewers refuse registrations that say nothing.');
  await changeAtProvider(ctx, actor, accountId, {
    action: `registration.${input.step}`,
    summary: (account) => `Handed the ${input.step} registration for ${input.country} in at ${account.name}`,
    run: (connector, credentials) => connector.register?.(credentials, input),
  });
}

export async function endTestMode(ctx: AppContext, actor: Actor, numberId: string): Promise<void> {
  const number = found(await ctx.store.numbers.one({ id: numberId }), 'number');
  await changeAtProvider(ctx, actor, number.account_id, {
    action: 'number.test-mode-ended',
    summary: (account) => `Switched the test mode of ${number.address} off at ${account.name}`,
    run: (connector, credentials) => connector.endTestMode?.(credentials, number.remote_id),
  });
}

export async function subscribeToEvents(ctx: AppContext, actor: Actor, accountId: string): Promise<void> {
  await changeAtProvider(ctx, actor, accountId, {
    action: 'account.subscribed',
    summary: (account) => `Subscribed to the events of ${account.name}`,
    run: (connector, credentials) => connector.subscribe?.(credentials),
  });
}

interface ProviderChange {
  action: string;
  summary: (account: ProviderAccountRow) => string;
  run: (connector: Connector, credentials: ReturnType<typeof openCredentials>) => Promise<Outcome<null>> | undefined;
  /** The field of the form that a refusal belongs to. */
  field?: string;
}

/** One change on the provider's side: asked, kept as evidence, and what it says of itself read anew. */
export async function changeAtProvider(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  change: ProviderChange,
): Promise<void> {
  requireRole(actor, 'administrator');
  notOnTrial('What is changed at a provider in this way cannot be reverted by itself');
  const { account, connector } = await accountWith(ctx, accountId);
  const outcome = await change.run(connector, openCredentials(ctx, account));
  if (!outcome) throw new OperationError('invalid', `${connector.name} offers no way to do this from here.`);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('set-up', accountId, outcome));
    if (outcome.ok)
      await recordAudit(unit, actor, at, {
        action: change.action,
        subject: accountId,
        summary: change.summary(account),
      });
    await noteChanges(unit, at, [['account', accountId]]);
  });
  if (!outcome.ok) throw refused(account.name, outcome, change.field);
  await readAccountAgain(ctx, accountId);
}

/** Facts and numbers as the provider has them now. A failure here is shown by the next check. */
export async function readAccountAgain(ctx: AppContext, accountId: string): Promise<void> {
  const { account, connector } = await accountWith(ctx, accountId);
  if (!connector.listNumbers) return;
  const check = await connector.checkAccount(openCredentials(ctx, account), account.settings);
  if (check.ok) {
    const at = ctx.now();
    await ctx.store.write((unit) => unit.accounts.change({ id: account.id }, { facts: check.value, facts_at: at }));
  }
  await refreshNumbers(ctx, account.id);
}
