/** Connector profiles added in the interface: kept as text in the store, adopted by each process. */

import { randomBytes } from 'node:crypto';
import type { Connector, Credentials, Exchange } from '../../connectors/connector';
import { examineProfile, placeIn } from '../../connectors/profile/readProfile';
import { runExamples } from '../../connectors/profile/runExamples';
import { type Profile, profileJsonSchema } from '../../connectors/profile/schema';
import type { Finding } from '../../core/finding';
import type { ProviderAccountRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  hideTokensIn,
  invalid,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
} from '../context';
import { keptCredentials, ledElsewhere, meantFor, openCredentials, usesNoted } from './credentials';
import { type NotFound, whatIsMissing } from './foundNothing';
import { type ListedWord, withWord } from './words';

/** How long a process may work with the profiles it has before it looks again. */
const LOOK_EVERY = 1000;
const lookedAt = new WeakMap<AppContext['connectors'], { at: number; fingerprint: string }>();

/** Takes over profiles that another process saved. Cheap: one look a second at most. */
export async function syncProfiles(ctx: AppContext, force = false): Promise<void> {
  const last = lookedAt.get(ctx.connectors);
  if (!force && last && ctx.now() - last.at < LOOK_EVERY) return;
  const [row] = await ctx.store.select<{ fingerprint: string }>(
    `SELECT count(*) || ' ' || coalesce(max(changed_at), 0) || ' ' || coalesce(group_concat(id), '') || ' ' ||
            coalesce((SELECT value FROM settings WHERE name = '${WORDS_SETTING}'), '') AS fingerprint FROM connector_profiles`,
  );
  const fingerprint = row?.fingerprint ?? '';
  if (fingerprint !== last?.fingerprint)
    ctx.connectors.adopt(await ctx.store.profiles.all(), await amendedProfiles(ctx));
  lookedAt.set(ctx.connectors, { at: ctx.now(), fingerprint });
}

const WORDS_SETTING = 'listed-words';

async function wordsAdded(ctx: Pick<AppContext, 'store'>): Promise<Record<string, ListedWord[]>> {
  return ((await ctx.store.settings.one({ name: WORDS_SETTING }))?.value ?? {}) as Record<string, ListedWord[]>;
}

/** Shipped profiles with the words that were said here to mean something. */
async function amendedProfiles(ctx: AppContext): Promise<{ id: string; text: string }[]> {
  return Object.entries(await wordsAdded(ctx)).flatMap(([id, words]) => {
    const text = ctx.connectors.shippedText(id);
    return text === undefined ? [] : [{ id, text: words.reduce(withWordIfItFits, text) }];
  });
}

/** A later version of a shipped profile may have no place for it any more: then it is asked about again when it comes. */
function withWordIfItFits(text: string, word: ListedWord): string {
  try {
    return withWord(text, word);
  } catch {
    return text;
  }
}

/** Says once what a word of a provider's means: in its profile, or beside it where the profile ships with Windgap. */
export async function addWord(ctx: AppContext, actor: Actor, id: string, word: ListedWord): Promise<void> {
  requireRole(actor, 'administrator');
  await syncProfiles(ctx);
  const profile = found(ctx.connectors.profileOf(id), 'profile');
  if (!profile.shipped) {
    await saveProfile(ctx, actor, withWord(profile.text, word), id);
    return;
  }
  withWord(profile.text, word);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = await wordsAdded({ store: unit as never });
    const others = (before[id] ?? []).filter((each) => each.what !== word.what || each.word !== word.word);
    await unit.settings.put({ name: WORDS_SETTING, value: { ...before, [id]: [...others, word] } });
    await recordAudit(unit, actor, at, {
      action: 'profile.word-listed',
      subject: id,
      summary: `Said that “${word.word}” of ${ctx.connectors.get(id).name} means ${word.means}`,
    });
    await noteChanges(unit, at, [['account', id]]);
  });
  await syncProfiles(ctx, true);
}

/** The connector of an account; a profile that another process saved a moment ago is looked for before there is none. */
export async function connectorOf(ctx: AppContext, { connector }: { connector: string }): Promise<Connector> {
  await syncProfiles(ctx, !ctx.connectors.has(connector));
  return ctx.connectors.get(connector);
}

export interface ProfileSummary {
  id: string;
  name: string;
  summary: string;
  kind: Connector['kind'];
  shipped: boolean;
  accounts: number;
  changedAt?: number;
  changedBy?: string;
  /** Set when the kept text can no longer be read. */
  findings: Finding[];
}

export async function listProfiles(ctx: AppContext, actor: Actor): Promise<ProfileSummary[]> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const [stored, accounts] = await Promise.all([ctx.store.profiles.all(), ctx.store.accounts.all()]);
  const used = (id: string) => accounts.filter((account) => account.connector === id).length;
  const readable = ctx.connectors.list().flatMap((connector): ProfileSummary[] => {
    const profile = ctx.connectors.profileOf(connector.id);
    if (!profile) return [];
    const row = stored.find((entry) => entry.id === connector.id);
    const { id, name, summary, kind } = connector;
    return [
      {
        id,
        name,
        summary,
        kind,
        shipped: profile.shipped,
        accounts: used(id),
        changedAt: row?.changed_at,
        changedBy: row?.changed_by,
        findings: [],
      },
    ];
  });
  const unreadable = stored
    .filter((row) => !ctx.connectors.has(row.id))
    .map((row): ProfileSummary => {
      const reading = examineProfile(row.text);
      return {
        id: row.id,
        name: row.id,
        summary: 'This profile cannot be read by this version of Windgap.',
        kind: 'sms-http',
        shipped: false,
        accounts: used(row.id),
        changedAt: row.changed_at,
        changedBy: row.changed_by,
        findings: reading.ok ? [] : reading.findings,
      };
    });
  return [...readable, ...unreadable];
}

export async function getProfile(
  ctx: AppContext,
  actor: Actor,
  id: string,
): Promise<{ text: string; shipped: boolean }> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const row = await ctx.store.profiles.one({ id });
  return found(ctx.connectors.profileOf(id) ?? (row && { text: row.text, shipped: false }), 'profile');
}

/** JSON Schema 2020-12 of what may be written. */
export function profileSchemaDocument(): object {
  return profileJsonSchema();
}

/** Everything wrong with a text, and every example of its own that it reads otherwise, as its editor asks while it is typed. */
export async function examineProfileText(actor: Actor, text: string): Promise<Finding[]> {
  requireRole(actor, 'administrator');
  const reading = examineProfile(text);
  return reading.ok ? failingExamples(reading.profile, text) : reading.findings;
}

async function failingExamples(profile: Profile, text: string): Promise<Finding[]> {
  return 'examples' in profile ? runExamples(profile, placeIn(text)) : [];
}

function mistakes(findings: readonly Finding[]): OperationError {
  return new OperationError(
    'invalid',
    `The profile has ${findings.length} ${findings.length === 1 ? 'mistake' : 'mistakes'}.`,
    findings.map((finding) => ({ field: 'text', finding })),
  );
}

/** Saves a new profile or a changed one. Its id is its own and cannot be that of a shipped one. */
export async function saveProfile(
  ctx: AppContext,
  actor: Actor,
  text: string,
  editing?: string,
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const reading = examineProfile(text);
  if (!reading.ok) throw mistakes(reading.findings);
  const failing = await failingExamples(reading.profile, text);
  if (failing.length > 0) throw mistakes(failing);
  const { id, name } = reading.profile;
  const refuse = (problem: string, remedy: string) =>
    invalid('text', { code: 'profile-id', severity: 'error', problem, remedy });
  if (ctx.connectors.profileOf(id)?.shipped)
    throw refuse(`${id} is the id of a profile that ships with Windgap.`, 'Give it an id of its own.');
  if (editing !== undefined && editing !== id)
    throw refuse('The id of a profile cannot change: accounts refer to it.', `Write “id: ${editing}” again.`);
  if (editing === undefined && (await ctx.store.profiles.one({ id })))
    throw refuse(`There is a profile ${id} already.`, 'Edit that one, or give this another id.');
  const at = ctx.now();
  await noteWhereMeantFor(ctx, id);
  await ctx.store.write(async (unit) => {
    await unit.profiles.put({ id, text, changed_at: at, changed_by: actor.name });
    await recordAudit(unit, actor, at, {
      action: editing ? 'profile.changed' : 'profile.added',
      subject: id,
      summary: editing ? `Changed the connector profile ${name}` : `Added the connector profile ${name}`,
    });
    await noteChanges(unit, at, [['account', id]]);
  });
  await syncProfiles(ctx, true);
  await holdBackCredentials(ctx, actor, id);
  ctx.engineWakeUp.ring('accounts');
  return { id };
}

/** Accounts whose credentials were given before it was noted for where: the profile as it is now tells. */
async function noteWhereMeantFor(ctx: AppContext, id: string): Promise<void> {
  if (!ctx.connectors.has(id)) return;
  const connector = ctx.connectors.get(id);
  for (const account of await ctx.store.accounts.all({ connector: id })) {
    if (usesNoted(account)) continue;
    const meant_for = meantFor(connector, keptCredentials(ctx, account));
    await ctx.store.write((unit) => unit.accounts.change({ id: account.id }, { meant_for }));
  }
}

/** Switches off the accounts whose credentials the changed profile would send elsewhere: nobody who only writes profiles gets to read them. */
async function holdBackCredentials(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  const at = ctx.now();
  for (const account of await ctx.store.accounts.all({ connector: id, disabled_at: null })) {
    const elsewhere = ledElsewhere(ctx, account);
    if (!elsewhere) continue;
    await ctx.store.write(async (unit) => {
      await unit.accounts.change({ id: account.id }, { disabled_at: at });
      await recordAudit(unit, actor, at, {
        action: 'account.disabled',
        subject: account.id,
        summary: `Switched ${account.name} off: its profile uses the credentials elsewhere now: ${elsewhere.join(' and ')}`,
      });
      await noteChanges(unit, at, [['account', account.id]]);
    });
  }
}

export async function removeProfile(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const used = await ctx.store.accounts.count({ connector: id });
  if (used > 0)
    throw new OperationError('conflict', `${used} ${used === 1 ? 'account is' : 'accounts are'} connected through it.`);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.profiles.remove({ id });
    await recordAudit(unit, actor, at, {
      action: 'profile.removed',
      subject: id,
      summary: `Removed the profile ${id}`,
    });
  });
  await syncProfiles(ctx, true);
}

/** The parts of a profile that can be tried against a live account. */
export const TRIABLE = ['account', 'numbers', 'search', 'send', 'set-address', 'inbound'] as const;
export type TriablePart = (typeof TRIABLE)[number];

export interface TrialInput {
  text: string;
  part: TriablePart;
  /** Credentials as typed, or those of this account when they are left empty. */
  accountId?: string;
  credentials: Record<string, string>;
  /** What the part needs: recipient, sender, text; a number's id; country; a body to be read. */
  values: Record<string, string>;
}

export interface TrialResult {
  ok: boolean;
  /** What Windgap made of it, as JSON. */
  read: string;
  problem?: string;
  /** What it looked for and did not find. */
  missing: NotFound[];
  exchanges: Exchange[];
}

/** Tries one part of an unsaved profile for real and shows what was sent, what came back and how it is read. */
export async function tryProfile(ctx: AppContext, actor: Actor, input: TrialInput): Promise<TrialResult> {
  requireRole(actor, 'administrator');
  const reading = examineProfile(input.text);
  if (!reading.ok) throw new OperationError('invalid', reading.findings[0]?.problem ?? 'The profile cannot be read.');
  const connector = ctx.connectors.build(input.text);
  const account = input.accountId ? await ctx.store.accounts.one({ id: input.accountId }) : undefined;
  const kept = account ? credentialsForTrial(ctx, account, input.text) : {};
  const credentials = Object.fromEntries(
    connector.credentialFields.map(({ name }) => [name, input.credentials[name] || kept[name] || '']),
  );
  const { values } = input;
  if (input.part === 'inbound') {
    const body = values.body ?? '';
    const missing = whatIsMissing(input.text, reading.profile, 'inbound', body);
    return readBody(connector, body, account?.settings ?? {}, missing);
  }
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'profile.tried',
      subject: reading.profile.id,
      summary: `Tried “${input.part}” of the profile ${reading.profile.name}${account ? ` with the credentials of ${account.name}` : ''}`,
    }),
  );
  const outcome = await runPart(connector, credentials, input.part, values);
  if (!outcome) throw new OperationError('invalid', `This profile has no part “${input.part}”.`);
  const answer = outcome.exchange?.response;
  const missing =
    answer && answer.status < 300 && input.part !== 'set-address'
      ? whatIsMissing(input.text, reading.profile, input.part, answer.body)
      : [];
  const nothing = outcome.ok && Array.isArray(outcome.value) && outcome.value.length === 0;
  return {
    ok: outcome.ok && !nothing,
    read: JSON.stringify(outcome.ok ? outcome.value : outcome.failure, null, 2),
    problem: outcome.ok
      ? nothing
        ? 'It was answered, and nothing was found in the answer.'
        : undefined
      : (outcome.failure.said ?? outcome.failure.cause),
    missing,
    exchanges: [outcome.exchange, ...(outcome.also ?? [])].filter((entry) => entry !== undefined).map(hideTokensIn),
  };
}

/**
 * The kept credentials, for the profile they were given for, as it is saved and where it leads: with any other text
 * they would go wherever that says, and could be read back from what is shown of the trial.
 */
function credentialsForTrial(ctx: AppContext, account: ProviderAccountRow, text: string): Credentials {
  if (ctx.connectors.profileOf(account.connector)?.text !== text)
    throw new OperationError(
      'invalid',
      `The credentials of ${account.name} are used with its profile as it is saved only. Save the profile first, or type credentials for this trial.`,
    );
  return openCredentials(ctx, account);
}

function runPart(
  connector: Connector,
  credentials: Record<string, string>,
  part: Exclude<TriablePart, 'inbound'>,
  values: Record<string, string>,
) {
  const { remoteId = '', sender = '', recipient = '' } = values;
  switch (part) {
    case 'account':
      return connector.checkAccount(credentials, {});
    case 'numbers':
      return connector.listNumbers?.(credentials);
    case 'search':
      return connector.searchNumbers?.(credentials, { country: values.country ?? 'GB', digits: values.digits ?? '' });
    case 'set-address':
      return connector.setInbound?.(
        credentials,
        { remoteId, address: sender },
        { url: values.url ?? '', fallback: values.fallback ?? '', challengeWord: values.challengeWord ?? '' },
      );
    case 'send':
      return connector.send?.(credentials, {
        reference: values.reference || `trial-${randomBytes(6).toString('hex')}`,
        sender,
        recipient,
        text: values.text ?? '',
        receiptUrl: values.receiptUrl ?? '',
        numberId: remoteId,
      });
  }
}

async function readBody(
  connector: Connector,
  body: string,
  settings: Record<string, unknown>,
  missing: NotFound[],
): Promise<TrialResult> {
  const parsed = await connector.parse(
    { method: connector.inboundMethod, url: 'https://windgap.invalid/in/trial', headers: {}, body: Buffer.from(body) },
    settings,
  );
  const unread = parsed.ok ? (parsed.unread ?? []) : [];
  const nothing = parsed.ok && parsed.items.length === 0;
  return {
    ok: parsed.ok && unread.length === 0 && !nothing,
    read: JSON.stringify(parsed.ok ? parsed.items : null, null, 2),
    problem: !parsed.ok
      ? parsed.reason
      : unread.length > 0
        ? `A part of it cannot be read: ${unread.map(({ reason }) => reason).join('; ')}`
        : nothing
          ? 'Nothing was found in it.'
          : undefined,
    // Of several kinds that may be posted one is here; what is missing is said of that one.
    missing: nothing || !parsed.ok ? missing : missing.filter(({ name }) => name !== 'each'),
    exchanges: [],
  };
}
