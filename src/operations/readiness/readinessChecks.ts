/** Makes the checks, part by part. A part is what is examined and kept by itself: an account, or one check. */
import type { Examined } from '../../core/readiness/readiness';
import { isStoreTrouble } from '../../store/trouble';
import { ANY, type AppContext, type Change, type Topic } from '../context';
import { syncProfiles } from '../profiles';
import { ACCOUNT_CHECKS, CHECKS } from './checks';
import { checkFailed } from './checks/check';
import { readSetUp, type SetUp } from './checks/setUp';

/** The name of a check, or `account acc_1`. */
export type Part = string;

const ACCOUNT = 'account ';
export const accountPart = (id: string): Part => `${ACCOUNT}${id}`;

/** Topics whose changes call for an examination. */
export const WATCHED = [...new Set<Topic>(['account', 'trunk', 'channel', ...CHECKS.flatMap(({ topics }) => topics)])];

/** Every part there is now. */
export async function allParts(ctx: AppContext): Promise<Part[]> {
  const accounts = await ctx.store.select<{ id: string }>('SELECT id FROM provider_accounts');
  return [...CHECKS.map(({ name }) => name), ...accounts.map(({ id }) => accountPart(id))];
}

/** Which parts some changes touch. Messages themselves touch none: their proofs say so on their channel. */
export async function partsTouched(ctx: AppContext, changes: readonly Omit<Change, 'id'>[]): Promise<Set<Part>> {
  const parts = new Set<Part>();
  const channels = changes.flatMap(({ topic, subject }) => (topic === 'channel' ? [subject] : []));
  for (const { account_id } of await ctx.store.channels.allBy('id', channels, ['account_id']))
    parts.add(accountPart(account_id));
  for (const { topic, subject } of changes) {
    if (topic === 'account' || topic === 'trunk' || topic === 'channel') {
      if (subject === ANY) return new Set(await allParts(ctx));
      if (topic !== 'channel') parts.add(accountPart(subject));
    }
    for (const { name, topics } of CHECKS) if (topics.includes(topic)) parts.add(name);
  }
  return parts;
}

/** What the examination of some parts says now. A part that is gone says nothing. */
export async function examineParts(ctx: AppContext, parts: Iterable<Part>): Promise<Map<Part, Examined[]>> {
  const wanted = [...parts];
  const setUp = readSetUp(ctx);
  const ids = wanted.flatMap((part) => (part.startsWith(ACCOUNT) ? [part.slice(ACCOUNT.length)] : []));
  const found = new Map<Part, Examined[]>(wanted.map((part) => [part, []]));
  for (const [part, findings] of await examineAccounts(setUp, ids)) found.set(part, findings);
  const checks = CHECKS.filter(({ name }) => found.has(name));
  const findings = await Promise.all(
    checks.map(({ name, examine }) => examine(setUp).catch((error) => [failed(ctx, name, error)])),
  );
  for (const [place, { name }] of checks.entries()) found.set(name, findings[place] ?? []);
  return found;
}

async function examineAccounts(setUp: SetUp, ids: readonly string[]): Promise<[Part, Examined[]][]> {
  if (ids.length === 0) return [];
  const { ctx } = setUp;
  await syncProfiles(ctx);
  const [accounts, channels] = await Promise.all([
    ctx.store.accounts.readableBy('id', ids),
    ctx.store.channels.readableBy('account_id', ids),
  ]);
  const findings = new Map<string, Examined[]>(accounts.map(({ id }) => [id, []]));
  for (const { name, prepare } of ACCOUNT_CHECKS) {
    const judge = await prepare({ ...setUp, accounts, channels }).catch((error) => () => [failed(ctx, name, error)]);
    for (const account of accounts) {
      const own = channels.filter(({ account_id }) => account_id === account.id);
      findings.get(account.id)?.push(...judged(ctx, name, () => judge(account, own)));
    }
  }
  return [...findings].map(([id, found]) => [accountPart(id), found]);
}

function judged(ctx: AppContext, name: string, judge: () => Examined[]): Examined[] {
  try {
    return judge();
  } catch (error) {
    return [failed(ctx, name, error)];
  }
}

function failed(ctx: AppContext, name: string, error: unknown): Examined {
  if (isStoreTrouble(error)) throw error;
  ctx.log.error({ err: error, check: name }, 'a check of readiness failed');
  return checkFailed(name, error);
}
