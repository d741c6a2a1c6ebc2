/** Provider accounts: connecting one, checking it, replacing its credentials, switching it off and on. */
import type { AccountFacts, Connector, Credentials, Failure, Outcome } from '../../connectors/connector';
import { type CauseCode, cause } from '../../core/delivery/causes';
import { CHANNEL_HOPS } from '../../core/proof/hops';
import { newId } from '../../store/ids';
import type { ExchangeRow, ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  exchangeRows,
  found,
  invalid,
  invalidText,
  isOperationError,
  noteChanges,
  OperationError,
  reachesChannel,
  reachOf,
  recordAudit,
  requireConfirmed,
  requireRole,
  type View,
} from '../context';
import { isOpen, keptCredentials, meantFor, openCredentials, syncProfiles } from '../profiles';
import { fault, recordFacts, type SubjectFact } from '../proofs';
import { type ConnectionFinding, findingsOf } from './connectionFindings';
import { refreshNumbers } from './readNumbers';
import { readTrunkSettings } from './readTrunkSettings';

export interface ConnectInput {
  connector: string;
  name: string;
  credentials: Record<string, string>;
  /** Of a trunk: how its link is encrypted, and whose certificates are believed. */
  encryption?: { encryption: string; believed: string };
}

/** Asks the provider before saving anything; nothing is stored unless it accepts the credentials. */
export async function connectProvider(ctx: AppContext, actor: Actor, input: ConnectInput): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await syncProfiles(ctx);
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The connection has no name.', 'Give it a name your colleagues will recognise.');
  if (await ctx.store.accounts.one({ name }))
    throw invalidText('name', `There is a connection called ${name} already.`, 'Choose another name.');
  const connector = ctx.connectors.get(input.connector);
  const credentials = pickCredentials(connector, input.credentials);
  const chosen = connector.trunk && input.encryption;
  if (connector.trunk && chosen) readTrunkSettings(connector.trunk, {}, chosen);
  const check = await tryCredentials(connector, credentials, chosen ?? {});
  const at = ctx.now();
  const id = newId('acc', at);
  await ctx.store.write(async (unit) => {
    await unit.accounts.insert([
      {
        id,
        connector: connector.id,
        name,
        sealed_credentials: ctx.sealer.seal(credentials),
        created_at: at,
        credentials_changed_at: at,
        settings: { ...chosen, ...(check.value.bind ? { bind: check.value.bind } : {}) },
        disabled_at: null,
        sealed_previous: null,
        previous_until: null,
        meant_for: meantFor(connector, credentials),
        ...checkColumns(check, at),
      },
    ]);
    await unit.exchanges.insert(exchangeRows('account-check', id, check));
    await recordAudit(unit, actor, at, {
      action: 'account.connected',
      subject: id,
      summary: `Connected ${connector.name} as ${name}`,
    });
    await noteChanges(unit, at, [['account', id]]);
  });
  if (connector.listNumbers) await refreshNumbers(ctx, id);
  ctx.engineWakeUp.ring('accounts');
  return { id };
}

/**
 * Replaces the credentials once the provider accepts the new ones. Every hop they touch is
 * unproven again. For `overlapHours` what comes in signed with the old ones still counts.
 */
export async function replaceCredentials(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  given: Record<string, string>,
  overlapHours = 0,
): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const connector = ctx.connectors.get(account.connector);
  const credentials = pickCredentials(connector, given);
  const check = await tryCredentials(connector, credentials, account.settings);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.accounts.change(
      { id: accountId },
      {
        sealed_credentials: ctx.sealer.seal(credentials),
        credentials_changed_at: at,
        sealed_previous: overlapHours > 0 ? account.sealed_credentials : null,
        previous_until: overlapHours > 0 ? at + overlapHours * 3_600_000 : null,
        meant_for: meantFor(connector, credentials),
        ...checkColumns(check, at),
      },
    );
    const evidence = exchangeRows('account-check', accountId, check);
    await unit.exchanges.insert(evidence);
    const overlap = overlapHours > 0 ? `; the old ones still count for what comes in for ${overlapHours} h` : '';
    await recordAudit(unit, actor, at, {
      action: 'account.credentials-replaced',
      subject: accountId,
      summary: `Replaced the credentials of ${account.name}${overlap}`,
    });
    const facts = await factsForChannels(unit, accountId, (subject) => [
      {
        subject,
        fact: { kind: 'changed', touches: CHANNEL_HOPS, at, note: 'the account’s credentials were replaced' },
      },
      { subject, fact: { kind: 'credential-accepted', began: at, at, ref: evidence[0]?.id ?? accountId } },
    ]);
    await recordFacts(unit, facts, at);
    await noteChanges(unit, at, [['account', accountId]]);
  });
  ctx.engineWakeUp.ring('accounts');
  // Other credentials may lead to other numbers. The new ones are saved by now: a list that fails is read by the next check.
  if (connector.listNumbers)
    await refreshNumbers(ctx, accountId).catch((error: unknown) => {
      if (!isOperationError(error)) throw error;
    });
}

/** Calls the provider with the saved credentials and notes the answer on the account and its channels. */
export async function checkAccount(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
): Promise<{ state: ProviderAccountRow['state']; cause?: CauseCode }> {
  requireRole(actor, 'administrator');
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const connector = ctx.connectors.get(account.connector);
  const began = ctx.now();
  const outcome = (await asBound(ctx, account)) ?? (await askCarrierOrProvider(ctx, account, connector));
  const at = ctx.now();
  const failedWith = outcome.ok ? undefined : outcome.failure.cause;
  const state = outcome.ok ? 'accepted' : cause(outcome.failure.cause).transient ? 'unreachable' : 'refused';
  await ctx.store.write(async (unit) => {
    const evidence = exchangeRows('account-check', accountId, outcome);
    await unit.exchanges.insert(evidence);
    await unit.accounts.change(
      { id: accountId },
      outcome.ok ? checkColumns(outcome, at) : { state, cause: outcome.failure.cause, checked_at: at },
    );
    const ref = evidence[0]?.id ?? accountId;
    const facts = await factsForChannels(unit, accountId, (subject) => [
      failedWith
        ? fault(subject, failedWith, at, ref)
        : { subject, fact: { kind: 'credential-accepted', began, at, ref } },
    ]);
    await recordFacts(unit, facts, at);
    await noteChanges(unit, at, [['account', accountId]]);
  });
  if (outcome.ok && connector.listNumbers) await refreshNumbers(ctx, accountId);
  return { state, cause: failedWith };
}

/** A trunk that is bound shows more than a second bind would, which many carriers refuse. */
async function asBound(ctx: AppContext, account: ProviderAccountRow): Promise<Outcome<AccountFacts> | undefined> {
  const trunk = await ctx.store.trunkStates.one({ account_id: account.id });
  const fresh = trunk && ctx.now() - trunk.written_at < 10_000;
  return trunk?.state === 'bound' && fresh ? { ok: true, value: { ...account.facts } } : undefined;
}

async function askCarrierOrProvider(
  ctx: AppContext,
  account: ProviderAccountRow,
  connector: Connector,
): Promise<Outcome<AccountFacts>> {
  const outcome = await connector.checkAccount(openCredentials(ctx, account), account.settings);
  if (outcome.ok || outcome.failure.cause !== 'trunk-bound-elsewhere') return asTheTrunkIsSet(account, outcome);
  // Whoever is bound may be ourselves, not having said so lately: the engine writes what its links are twice a second.
  await ctx.clock.pause(1500);
  return (await asBound(ctx, account)) ?? outcome;
}

/** A login that is let in another way than its trunk tries to come in is no use to the trunk. */
function asTheTrunkIsSet(account: ProviderAccountRow, outcome: Outcome<AccountFacts>): Outcome<AccountFacts> {
  const only = outcome.ok ? outcome.value.bind : undefined;
  if (only === undefined || only === account.settings.bind) return outcome;
  return {
    ok: false,
    failure: { cause: 'trunk-bind-wrong', said: `this login is let in as ${only}` },
    ...(outcome.exchange ? { exchange: outcome.exchange } : {}),
    ...(outcome.also ? { also: outcome.also } : {}),
  };
}

/** Nothing is sent through a disabled account; what waits stays in the outbox, and a trunk unbinds. */
export async function setAccountDisabled(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  disabled: boolean,
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const account = found(await unit.accounts.one({ id: accountId }), 'account');
    if ((account.disabled_at !== null) === disabled) return;
    // What may not be sent where the profile leads now keeps it switched off.
    if (!disabled) openCredentials(ctx, account);
    await unit.accounts.change({ id: accountId }, { disabled_at: disabled ? at : null });
    const note = disabled ? 'the account was switched off' : 'the account was switched on again';
    const touches = ['credential', 'outbound', 'receipt'] as const;
    const facts = await factsForChannels(unit, accountId, (subject) => [
      { subject, fact: { kind: 'changed', touches, at, note } },
    ]);
    await recordFacts(unit, facts, at);
    await recordAudit(unit, actor, at, {
      action: disabled ? 'account.disabled' : 'account.enabled',
      subject: accountId,
      summary: disabled ? `Switched ${account.name} off` : `Switched ${account.name} on again`,
    });
    await noteChanges(unit, at, [['account', accountId]]);
  });
  ctx.engineWakeUp.ring('accounts');
  ctx.engineWakeUp.ring('outbox');
}

/** Only the connector's own fields, as typed: a stray space is reported, not silently repaired. */
function pickCredentials(connector: Connector, given: Record<string, string>): Credentials {
  const credentials = Object.fromEntries(
    connector.credentialFields.map((field) => [field.name, given[field.name] ?? '']),
  );
  const findings = connector.examineCredentials(credentials);
  if (findings.length > 0) {
    throw new OperationError('invalid', 'The credentials cannot be right as they are.', findings);
  }
  return credentials;
}

async function tryCredentials(connector: Connector, credentials: Credentials, settings: Record<string, unknown>) {
  const outcome = await connector.checkAccount(credentials, settings);
  if (outcome.ok) return outcome;
  const { title, remedy } = cause(outcome.failure.cause);
  const field = fieldAtFault(connector, outcome.failure.cause);
  const said = outcome.failure.said ? ` ${connector.name} says: ${outcome.failure.said}.` : '';
  throw invalid(field, { code: outcome.failure.cause, severity: 'error', problem: `${title}.${said}`, remedy });
}

/** The field whose value is wrong, when the cause tells. */
function fieldAtFault(connector: Connector, code: CauseCode): string {
  const fields = connector.credentialFields;
  const secret = fields.find((field) => field.secret);
  const address = fields.find((field) => /^https?:/.test(field.initial ?? '') || field.name === 'host');
  const id = fields.find((field) => field !== address && !field.secret && field.name !== 'port');
  if (code === 'credential-secret-wrong' || code === 'credential-expired') return secret?.name ?? 'form';
  if (code === 'credential-id-unknown') return id?.name ?? 'form';
  if (
    code === 'provider-unreachable' ||
    code === 'provider-timeout' ||
    code === 'address-not-allowed' ||
    code === 'encryption-refused'
  )
    return address?.name ?? 'form';
  return 'form';
}

export function refusalText(who: string, failure: Failure): string {
  return cause(failure.cause).explain({ who, said: failure.said });
}

function checkColumns(check: { value: AccountFacts }, at: number) {
  const { name, balance } = check.value;
  return {
    state: 'accepted' as const,
    cause: null,
    checked_at: at,
    remote_name: name ?? null,
    balance_micros: balance?.micros ?? null,
    balance_currency: balance?.currency ?? null,
    balance_at: balance ? at : null,
    facts: check.value,
    facts_at: at,
  };
}

async function factsForChannels(
  unit: Unit,
  accountId: string,
  factsOf: (channelId: string) => SubjectFact[],
): Promise<SubjectFact[]> {
  const channels = await unit.channels.all({ account_id: accountId });
  return channels.flatMap((channel) => factsOf(channel.id));
}

export interface AccountView {
  account: View<Omit<ProviderAccountRow, 'sealed_credentials' | 'sealed_previous'>>;
  connector: Connector;
  numbers: (View<ProviderNumberRow> & { channel?: { id: string; name: string } })[];
  exchanges: ExchangeRow[];
  findings: ConnectionFinding[];
  /** Messages that wait to be sent through it. */
  waiting: number;
  /** What may be shown of the credentials: secrets are left out. */
  visibleCredentials: { name: string; label: string; help: string; secret: boolean; value: string }[];
}

export async function listAccounts(ctx: AppContext, actor: Actor): Promise<AccountView[]> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const accounts = await ctx.store.accounts.all(undefined, { order: [['name', 'ASC']] });
  const findings = await reachedFindings(ctx, actor, accounts);
  return Promise.all(accounts.map((account) => viewAccount(ctx, account, findings)));
}

export async function getAccount(ctx: AppContext, actor: Actor, id: string): Promise<AccountView> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id }), 'account');
  return viewAccount(ctx, account, await reachedFindings(ctx, actor, [account]));
}

/** What was found of accounts and of those of their channels that whoever looks reaches. */
async function reachedFindings(
  ctx: AppContext,
  actor: Actor,
  accounts: readonly ProviderAccountRow[],
): Promise<ConnectionFinding[]> {
  const reach = await reachOf(ctx.store, actor);
  return (await findingsOf(ctx, accounts)).filter(({ subject }) => reachesChannel(reach, subject));
}

async function viewAccount(
  ctx: AppContext,
  row: ProviderAccountRow,
  findings: readonly ConnectionFinding[],
): Promise<AccountView> {
  const connector = ctx.connectors.get(row.connector);
  const credentials = keptCredentials(ctx, row);
  const { sealed_credentials: _, sealed_previous: __, ...account } = row;
  const channels = await ctx.store.channels.all({ account_id: row.id });
  const numbers = await ctx.store.numbers.all({ account_id: row.id, gone_at: null }, { order: [['address', 'ASC']] });
  const subjects = new Set([row.id, ...channels.map((channel) => channel.id)]);
  return {
    account: asView(account),
    connector,
    numbers: numbers.map((number) => ({
      ...asView(number),
      channel: channels.find((channel) => channel.number_id === number.id),
    })),
    exchanges: await ctx.store.exchanges.all({ subject_id: row.id }, { order: [['id', 'DESC']], limit: 10 }),
    findings: findings.filter((finding) => subjects.has(finding.subject)),
    waiting: await ctx.store.outbox.count({ channel_id: channels.map((channel) => channel.id) }),
    visibleCredentials: connector.credentialFields.map(({ name, label, help, secret }) => {
      const open = isOpen(row, { name, secret });
      return { name, label, help, secret: !open, value: open ? (credentials[name] ?? '') : '' };
    }),
  };
}

export interface ConnectorView {
  id: string;
  name: string;
  summary: string;
  kind: Connector['kind'];
  handsOverAddress: boolean;
  preconditions: Connector['preconditions'];
  handover: Connector['handover'];
  fields: { name: string; label: string; help: string; secret: boolean; initial?: string }[];
  /** Of a trunk: whether its link is encrypted unless somebody says otherwise. */
  encryption?: 'none' | 'tls';
}

export async function listConnectors(ctx: AppContext, actor: Actor): Promise<ConnectorView[]> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  return ctx.connectors.list().map(({ trunk, credentialFields, ...connector }) => ({
    id: connector.id,
    name: connector.name,
    summary: connector.summary,
    kind: connector.kind,
    handsOverAddress: connector.handsOverAddress,
    preconditions: connector.preconditions,
    handover: connector.handover,
    ...(trunk ? { encryption: trunk.defaults.encryption } : {}),
    fields: credentialFields.map(({ name: field, label, help, secret, initial }) => ({
      name: field,
      label,
      help,
      secret,
      initial,
    })),
  }));
}
