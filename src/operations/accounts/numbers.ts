/** Numbers: what accounts have, searching and claiming more, giving them back, what each is for. */

import type { Connector, Outcome, RemoteNumber } from '../../connectors/connector';
import { type Address, normaliseAddress } from '../../core/addresses/address';
import { channelKind } from '../../core/connect/channelKinds';
import { type NumberPurpose, PURPOSES } from '../../core/connect/purposes';
import { rankBySimilarity } from '../../core/connect/similarity';
import { cause } from '../../core/delivery/causes';
import type { Finding } from '../../core/finding';
import { newId } from '../../store/ids';
import type { ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  exchangeRows,
  found,
  invalid,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireAccess,
  requireRole,
} from '../context';
import { openCredentials, syncProfiles } from '../profiles';

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

function numberRow(
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

export interface NumberView {
  number: ProviderNumberRow;
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
  return numbers.flatMap((number) => {
    const account = accounts.find((row) => row.id === number.account_id);
    if (!account) return [];
    const connector = ctx.connectors.get(account.connector);
    if (channelKind(connector.kind).hosted) return [];
    const channel = channels.find((row) => row.number_id === number.id);
    return [
      {
        number,
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
  return rankBySimilarity(outcome.value, input.digits);
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

async function removeTrunkNumber(ctx: AppContext, actor: Actor, number: ProviderNumberRow): Promise<void> {
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.numbers.remove({ id: number.id });
    await recordAudit(unit, actor, at, {
      action: 'number.removed',
      subject: number.id,
      summary: `Took ${number.address} off the trunk`,
    });
    await noteChanges(unit, at, [['account', number.account_id]]);
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
async function changeAtProvider(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  change: ProviderChange,
): Promise<void> {
  requireRole(actor, 'administrator');
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
  const check = await connector.checkAccount(openCredentials(ctx, account));
  if (check.ok) {
    const at = ctx.now();
    await ctx.store.write((unit) => unit.accounts.change({ id: account.id }, { facts: check.value, facts_at: at }));
  }
  await refreshNumbers(ctx, account.id);
}

function refused(who: string, outcome: Outcome<unknown>, field = 'form'): OperationError {
  if (outcome.ok) throw new Error('Not a refusal');
  const { cause: code, said } = outcome.failure;
  const { explain, remedy } = cause(code);
  const words = explain({ who, said });
  const problem = said && !words.includes(said) ? `${words} It says: ${said}.` : words;
  return invalid(field, { code, severity: 'error', problem, remedy });
}

async function accountWith(ctx: AppContext, accountId: string) {
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  return { account, connector: ctx.connectors.get(account.connector) };
}

export interface PastedLine {
  line: number;
  text: string;
  address?: Address;
  finding?: Finding;
}

/** Reads numbers in any human form, one a line, each with what is wrong with it. */
export async function examineNumbers(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  input: { text: string; country: string },
): Promise<PastedLine[]> {
  requireRole(actor, 'administrator');
  const known = await ctx.store.numbers.all({ account_id: accountId });
  const seen = new Map<string, number>();
  const lines = input.text
    .split(/\r?\n/)
    .flatMap((text, index) => (text.trim() ? [{ text: text.trim(), line: index + 1 }] : []));
  const read = lines.map(({ text, line }): PastedLine => {
    const normalised = normaliseAddress(text, { defaultCountry: input.country || undefined, allowShortCode: true });
    if (!normalised.ok) return { line, text, finding: normalised.finding };
    const { value } = normalised.address;
    const earlier = seen.get(value);
    seen.set(value, earlier ?? line);
    const finding = earlier
      ? lineFinding('number-repeated', `The same number as in line ${earlier}.`, 'Leave one of them out.')
      : known.some((row) => row.address === value)
        ? lineFinding('number-known', 'This number is on the account already.', 'Nothing needs doing.')
        : undefined;
    return { line, text, address: normalised.address, finding };
  });
  const people = await ctx.store.identities.all({ kind: 'phone', value: [...seen.keys()] });
  return read.map((entry) => {
    if (entry.finding || !people.some((person) => person.value === entry.address?.value)) return entry;
    const problem = 'This is the phone of a contact: a personal mobile is not a number of the carrier’s.';
    return {
      ...entry,
      finding: lineFinding('number-personal', problem, 'Give the number the carrier has assigned to you.'),
    };
  });
}

function lineFinding(code: string, problem: string, remedy: string): Finding {
  return { code, severity: 'error', problem, remedy };
}

/** Adds the lines without a finding as numbers of a trunk, whose carrier has no list that could be read. */
export async function addTrunkNumbers(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  input: { text: string; country: string },
): Promise<{ added: number; lines: PastedLine[] }> {
  const { account, connector } = await accountWith(ctx, accountId);
  if (!connector.trunk) throw new OperationError('invalid', `${connector.name} tells its numbers itself.`);
  const lines = await examineNumbers(ctx, actor, accountId, input);
  const good = lines.flatMap(({ address, finding }) => (address && !finding ? [address] : []));
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.numbers.insert(
      good.map((address) =>
        numberRow(
          accountId,
          {
            remoteId: address.value,
            address: address.value,
            abilities: ['text-in', 'text-out'],
            inbound: {},
            facts: {},
          },
          undefined,
          at,
        ),
      ),
    );
    await recordAudit(unit, actor, at, {
      action: 'numbers.added',
      subject: accountId,
      summary: `Added ${good.length} ${good.length === 1 ? 'number' : 'numbers'} to ${account.name}`,
    });
    await noteChanges(unit, at, [['account', accountId]]);
  });
  return { added: good.length, lines };
}
