/** API keys: how an app calls Windgap. */

import { createHash, randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import { isWithin, readAddressList } from '../../core/access/addressList';
import { isApiVersion, LATEST_VERSION } from '../../core/api/versions';
import { newId } from '../../store/ids';
import type { ApiKeyRow, AppRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  APP_SCOPES,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  recordAudit,
  requireConfirmed,
  requireReached,
  requireRole,
  type Scope,
} from '../context';
import { recordFacts } from '../proofs';

/** How long a key goes on working beside the one that replaces it, unless it is said otherwise. */
const OVERLAP_HOURS = 24;

export interface NewKey {
  appId: string;
  name: string;
  /** Without them, what an app needs. */
  scopes?: readonly Scope[];
  /** Epoch milliseconds; without it the key works until it is revoked. */
  expiresAt?: number;
  /** Addresses and networks it may be used from; without them, anywhere. */
  addresses?: string;
  /** What it sends reaches handsets of the bench and verified phones alone. */
  forTests?: boolean;
}

/** The key is shown this once; only its hash is kept. It has 192 random bits, so a plain SHA-256 is enough. */
export async function createApiKey(ctx: AppContext, actor: Actor, input: NewKey): Promise<{ id: string; key: string }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const app = found(await ctx.store.apps.one({ id: input.appId }), 'app');
  await requireReached(ctx.store, actor, 'app', app.id);
  const at = ctx.now();
  if (input.scopes?.length === 0)
    throw invalidText('scopes', 'The key may do nothing.', 'Tick at least one thing it is for.');
  requireToCome(input.expiresAt, at);
  const addresses = readAddresses(input.addresses);
  return ctx.store.write(async (unit) => {
    const made = await insertKey(unit, at, {
      app_id: app.id,
      name: input.name.trim() || 'API key',
      scopes: [...(input.scopes ?? APP_SCOPES)],
      expires_at: input.expiresAt ?? null,
      addresses,
      for_tests: input.forTests ? 1 : 0,
    });
    await recordAudit(unit, actor, at, {
      action: 'key.created',
      subject: made.id,
      summary: `Made ${input.forTests ? 'a test key' : 'an API key'} for ${app.name}${addresses ? `, for ${addresses.join(', ')}` : ''}`,
    });
    await noteChanges(unit, at, [['app', app.id]]);
    return made;
  });
}

function readAddresses(text = ''): string[] | null {
  const read = readAddressList(text);
  if (!read.ok)
    throw invalidText(
      'addresses',
      `“${read.bad}” is no address and no network.`,
      'Write them as 192.0.2.7 or 192.0.2.0/24.',
    );
  return read.addresses.length > 0 ? read.addresses : null;
}

function requireToCome(expiresAt: number | undefined, now: number): void {
  if (expiresAt !== undefined && !(expiresAt > now))
    throw invalidText('days', 'The key would have ended already.', 'Choose a day to come, or none.');
}

async function insertKey(
  unit: Unit,
  at: number,
  values: Pick<ApiKeyRow, 'app_id' | 'name' | 'scopes' | 'expires_at' | 'addresses' | 'for_tests'> &
    Partial<Pick<ApiKeyRow, 'api_version'>>,
): Promise<{ id: string; key: string }> {
  // Whoever reads one sees what it is for.
  const key = `${values.for_tests ? 'wgt' : 'wgk'}_${randomBytes(24).toString('base64url')}`;
  const id = newId('key', at);
  await unit.apiKeys.insert([
    {
      api_version: LATEST_VERSION,
      ...values,
      id,
      hint: `${key.slice(0, 8)}…${key.slice(-4)}`,
      hash: hashKey(key),
      created_at: at,
      last_used_at: null,
      last_used_from: null,
      revoked_at: null,
    },
  ]);
  return { id, key };
}

/** A new key with the same name and scopes; the old one goes on working for `hours`, so that nothing stops meanwhile. */
export async function replaceApiKey(
  ctx: AppContext,
  actor: Actor,
  keyId: string,
  { hours = OVERLAP_HOURS, expiresAt }: { hours?: number } & Pick<NewKey, 'expiresAt'> = {},
): Promise<{ id: string; key: string; oldEndsAt: number }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  if (!Number.isFinite(hours) || hours < 0 || hours > 30 * 24)
    throw invalidText('hours', 'The overlap is not between 0 hours and 30 days.', 'A day is usual.');
  const at = ctx.now();
  requireToCome(expiresAt, at);
  return ctx.store.write(async (unit) => {
    const old = found(await unit.apiKeys.one({ id: keyId }), 'API key');
    await requireReached(unit, actor, 'app', old.app_id);
    if (stateOfKey(old, at) !== 'in-force')
      throw invalidText('form', 'This key no longer works.', 'Make a new one instead.');
    const oldEndsAt = Math.min(at + Math.round(hours * 3_600_000), old.expires_at ?? Number.POSITIVE_INFINITY);
    const made = await insertKey(unit, at, {
      app_id: old.app_id,
      name: old.name,
      scopes: old.scopes,
      // A replaced key is put into the program that was written for the old one.
      api_version: old.api_version,
      expires_at: expiresAt ?? null,
      addresses: old.addresses,
      for_tests: old.for_tests,
    });
    await unit.apiKeys.change({ id: keyId }, { expires_at: oldEndsAt });
    await recordAudit(unit, actor, at, {
      action: 'key.replaced',
      subject: made.id,
      summary: `Replaced the API key ${old.hint}, which works for ${hours} more hours`,
    });
    await noteChanges(unit, at, [['app', old.app_id]]);
    return { ...made, oldEndsAt };
  });
}

/** Takes a key to the latest version of the API, when its program is ready for it; and back, as long as the old one is there. */
export async function setKeyVersion(ctx: AppContext, actor: Actor, keyId: string, version: string): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  if (!isApiVersion(version)) throw invalidText('version', 'There is no such version.', 'Choose one of the list.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const key = found(await unit.apiKeys.one({ id: keyId }), 'API key');
    await requireReached(unit, actor, 'app', key.app_id);
    await unit.apiKeys.change({ id: keyId }, { api_version: version });
    const summary = `The API key ${key.hint} gets answers of version ${version}`;
    await recordAudit(unit, actor, at, { action: 'key.version', subject: keyId, summary });
    await noteChanges(unit, at, [['app', key.app_id]]);
  });
}

/** Says where a key may be used from; nothing given is anywhere. */
export async function bindKey(ctx: AppContext, actor: Actor, keyId: string, addresses: string): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const list = readAddresses(addresses);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const key = found(await unit.apiKeys.one({ id: keyId }), 'API key');
    await requireReached(unit, actor, 'app', key.app_id);
    await unit.apiKeys.change({ id: keyId }, { addresses: list });
    const summary = `The API key ${key.hint} works from ${list ? list.join(', ') : 'anywhere'}`;
    await recordAudit(unit, actor, at, { action: 'key.bound', subject: keyId, summary });
    await noteChanges(unit, at, [['app', key.app_id]]);
  });
}

/** Takes from a key that it sees the messages of all apps. */
export async function narrowKey(ctx: AppContext, actor: Actor, keyId: string): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const key = found(await unit.apiKeys.one({ id: keyId }), 'API key');
    await requireReached(unit, actor, 'app', key.app_id);
    await unit.apiKeys.change({ id: keyId }, { scopes: key.scopes.filter((scope) => scope !== 'messages:all') });
    const summary = `The API key ${key.hint} sees the messages of its own app only`;
    await recordAudit(unit, actor, at, { action: 'key.narrowed', subject: keyId, summary });
    await noteChanges(unit, at, [['app', key.app_id]]);
  });
}

export async function revokeApiKey(ctx: AppContext, actor: Actor, keyId: string): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const key = found(await unit.apiKeys.one({ id: keyId }), 'API key');
    await requireReached(unit, actor, 'app', key.app_id);
    await unit.apiKeys.change({ id: keyId, revoked_at: null }, { revoked_at: at });
    const touches = ['call-in'] as const;
    await recordFacts(
      unit,
      [{ subject: key.app_id, fact: { kind: 'changed', touches, at, note: `the key ${key.hint} was revoked` } }],
      at,
    );
    await recordAudit(unit, actor, at, {
      action: 'key.revoked',
      subject: keyId,
      summary: `Revoked the API key ${key.hint}`,
    });
    await noteChanges(unit, at, [['app', key.app_id]]);
  });
}

export type KeyState = 'in-force' | 'expired' | 'revoked';

export function stateOfKey(key: Pick<ApiKeyRow, 'revoked_at' | 'expires_at'>, now: number): KeyState {
  if (key.revoked_at !== null) return 'revoked';
  return key.expires_at !== null && key.expires_at <= now ? 'expired' : 'in-force';
}

export type KeyVerdict =
  | { ok: true; actor: Extract<Actor, { kind: 'app' }> }
  /** `app` is told where the key is known, so that its people can be told. */
  | {
      ok: false;
      type: 'key-missing' | 'key-unknown' | 'key-expired' | 'key-revoked' | 'key-elsewhere';
      reason: string;
      app?: Pick<AppRow, 'id' | 'name'>;
    };
export type KeyCheck = (key: string | undefined, from: string | null) => Promise<KeyVerdict>;

/** How often use of a key is written down; between, it is only known to this process. */
const USE_NOTED_EVERY = 10_000;

/** Keys remembered at once. */
const MOST_KEYS = 10_000;

/** Recognises API keys. A revoked key stops working within a second. */
export function createKeyCheck(ctx: AppContext): KeyCheck {
  const cache = new LRUCache<string, { row: ApiKeyRow; app: AppRow; readAt: number }>({ max: MOST_KEYS });
  const notedAt = new LRUCache<string, number>({ max: MOST_KEYS });
  const refusedAt = new LRUCache<string, number>({ max: MOST_KEYS });

  async function read(hash: string) {
    const kept = cache.get(hash);
    if (kept && ctx.now() - kept.readAt < 1000) return kept;
    cache.delete(hash);
    const row = await ctx.store.apiKeys.one({ hash });
    const app = row && (await ctx.store.apps.one({ id: row.app_id }));
    if (!row || !app) return undefined;
    const entry = { row, app, readAt: ctx.now() };
    cache.set(hash, entry);
    return entry;
  }

  async function noteUse(row: ApiKeyRow, at: number, from: string | null) {
    if (at - (notedAt.get(row.id) ?? 0) < USE_NOTED_EVERY) return;
    notedAt.set(row.id, at);
    await ctx.store.write(
      async (unit) => {
        await unit.apiKeys.change({ id: row.id }, { last_used_at: at, last_used_from: from });
        await recordFacts(unit, [{ subject: row.app_id, fact: { kind: 'called-in', began: at, at, ref: row.id } }], at);
        await noteChanges(unit, at, [['app', row.app_id]]);
      },
      { durable: false },
    );
  }

  /** A key that no longer works breaks the way in, with the cause; whoever calls will not tell us. */
  async function noteRefusal(row: ApiKeyRow, at: number, cause: 'key-expired' | 'key-revoked') {
    if (at - (refusedAt.get(row.id) ?? 0) < USE_NOTED_EVERY) return;
    refusedAt.set(row.id, at);
    await ctx.store.write(
      async (unit) => {
        await recordFacts(
          unit,
          [{ subject: row.app_id, fact: { kind: 'fault', cause, began: at, at, ref: row.id } }],
          at,
        );
        await noteChanges(unit, at, [['app', row.app_id]]);
      },
      { durable: false },
    );
  }

  /** A key in the wrong place is perhaps in the wrong hands. */
  async function noteElsewhere(row: ApiKeyRow, app: AppRow, at: number, from: string) {
    const key = `${row.id} ${from}`;
    if (at - (refusedAt.get(key) ?? 0) < USE_NOTED_EVERY) return;
    refusedAt.set(key, at);
    const actor: Actor = { kind: 'app', id: app.id, name: app.name, keyId: row.id, scopes: [] };
    await ctx.store.write((unit) =>
      recordAudit(unit, actor, at, {
        action: 'key.refused',
        subject: row.id,
        summary: `Refused the API key ${row.hint} from ${from}, where it may not be used`,
      }),
    );
  }

  return async (key, from) => {
    if (!key) return { ok: false, type: 'key-missing', reason: 'There is no API key in the Authorization header.' };
    const entry = await read(hashKey(key));
    if (!entry) return { ok: false, type: 'key-unknown', reason: 'This API key is not known.' };
    const { row, app } = entry;
    const now = ctx.now();
    const state = stateOfKey(row, now);
    const note = (work: Promise<void>) =>
      void work.catch((error) => ctx.log.error({ err: error }, 'use of a key was not noted'));
    if (state !== 'in-force') {
      note(noteRefusal(row, now, `key-${state}`));
      const when = new Date(row.revoked_at ?? row.expires_at ?? now).toISOString();
      const reason = state === 'revoked' ? `This API key was revoked at ${when}.` : `This API key expired at ${when}.`;
      return { ok: false, type: `key-${state}`, reason, app };
    }
    if (row.addresses && !isWithin(from ?? '', row.addresses)) {
      note(noteElsewhere(row, app, now, from ?? 'nowhere'));
      return {
        ok: false,
        type: 'key-elsewhere',
        reason: `This API key may not be used from ${from ?? 'nowhere'}.`,
        app,
      };
    }
    note(noteUse(row, now, from));
    return {
      ok: true,
      actor: {
        kind: 'app',
        id: app.id,
        name: app.name,
        keyId: row.id,
        scopes: row.scopes as Scope[],
        version: row.api_version,
        ...(row.for_tests ? { forTests: true } : {}),
      },
    };
  };
}

function hashKey(key: string): string {
  return createHash('sha256').update(key).digest('base64url');
}
