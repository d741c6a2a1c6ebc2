/** What administrators do with the key by which mail of an account is signed. */
import { generateKeyPair } from 'node:crypto';
import { promisify } from 'node:util';
import { recordFor, recordName } from '../../core/mail/signing';
import type { MailKeyRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  recordAudit,
  requireConfirmed,
  requireRole,
} from '../context';
import { openCredentials, syncProfiles } from '../profiles';
import { lookFor } from './mailKeys';

export interface MailKeyView {
  domain: string;
  /** Undefined while there is no key. */
  record?: { name: string; value: string; state: MailKeyRow['state']; said?: string; since: number; lookedAt?: number };
}

/** Undefined for accounts that send no mail of their own. */
export async function viewMailKey(ctx: AppContext, actor: Actor, accountId: string): Promise<MailKeyView | undefined> {
  requireRole(actor, 'viewer');
  const domain = await domainOf(ctx, accountId);
  if (domain === undefined) return undefined;
  const row = await ctx.store.mailKeys.one({ account_id: accountId });
  if (!row) return { domain };
  return {
    domain,
    record: {
      name: recordName(row.selector, row.domain),
      value: recordFor(row.public_key),
      state: row.state,
      said: row.said ?? undefined,
      since: row.since,
      lookedAt: row.looked_at ?? undefined,
    },
  };
}

/** Makes a key, in place of the one there is: its selector is another, so that mail under way is still found to be signed. */
export async function makeMailKey(ctx: AppContext, actor: Actor, accountId: string): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const domain = await domainOf(ctx, accountId);
  if (domain === undefined)
    throw invalidText('form', 'This account sends no mail of its own.', 'Only mailboxes sign what they send.');
  // RFC 8301 §3.2: 2048 bits are what signers should use, and what fits into one record.
  const { publicKey, privateKey } = await promisify(generateKeyPair)('rsa', {
    modulusLength: 2048,
    publicKeyEncoding: { type: 'spki', format: 'der' },
    privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  });
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const account = found(await unit.accounts.one({ id: accountId }), 'account');
    await unit.mailKeys.put({
      account_id: accountId,
      domain,
      selector: `w${at.toString(36)}`,
      public_key: publicKey.toString('base64'),
      sealed_key: ctx.sealer.seal({ key: privateKey }),
      state: 'missing',
      said: null,
      since: at,
      looked_at: null,
      created_at: at,
    });
    await recordAudit(unit, actor, at, {
      action: 'account.signing',
      subject: accountId,
      summary: `Made a key to sign mail of ${account.name}, for ${domain}`,
    });
    await noteChanges(unit, at, [['account', accountId]]);
  });
}

export async function removeMailKey(ctx: AppContext, actor: Actor, accountId: string): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const account = found(await unit.accounts.one({ id: accountId }), 'account');
    found(await unit.mailKeys.one({ account_id: accountId }), 'key');
    await unit.mailKeys.remove({ account_id: accountId });
    await recordAudit(unit, actor, at, {
      action: 'account.signing',
      subject: accountId,
      summary: `Mail of ${account.name} is signed no more`,
    });
    await noteChanges(unit, at, [['account', accountId]]);
  });
}

/** Looks now whether the record stands. */
export async function lookForRecord(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
): Promise<Pick<MailKeyRow, 'state' | 'said'>> {
  requireRole(actor, 'administrator');
  return lookFor(ctx, found(await ctx.store.mailKeys.one({ account_id: accountId }), 'key'));
}

/** The domain mail of an account is from; undefined where it sends none. */
async function domainOf(ctx: AppContext, accountId: string): Promise<string | undefined> {
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const connector = ctx.connectors.get(account.connector);
  return connector.mailDomain?.(openCredentials(ctx, account));
}
