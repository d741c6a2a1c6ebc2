/** What connected apps say about a person: asked when somebody looks, kept briefly, and honest when an app is silent. */
import type { Outcome } from '../../../connectors/connector';
import { appCause } from '../../../core/delivery/appCauses';
import { cause } from '../../../core/delivery/causes';
import { type Actor, type AppContext, exchangeRows, reachesApp, reachOf, requireRole } from '../../context';
import { credentialsOf } from './recordSync';

export interface LookUp {
  appId: string;
  appName: string;
  /** Such as “Person” or “Ticket”. */
  label: string;
  /** What it says now; absent when it does not answer. */
  found?: { title: string; url?: string } | 'none';
  open?: number;
  /** Why there is no answer. */
  problem?: string;
  askedAt: number;
}

/** An answer may be this old, in milliseconds. */
const FRESH = 60_000;
/** Nobody waits longer for an app. */
const PATIENCE = 3000;
const MOST_KEPT = 2000;

const kept = new Map<string, LookUp>();

/** What each connected app knows of a phone in E.164, in the order of the apps' names. */
export async function lookUpPerson(ctx: AppContext, actor: Actor, phone: string): Promise<LookUp[]> {
  requireRole(actor, 'agent');
  const reach = await reachOf(ctx.store, actor);
  const accounts = (await ctx.store.appAccounts.all()).filter(({ app_id }) => reachesApp(reach, app_id));
  const apps = new Map((await ctx.store.apps.all()).map((app) => [app.id, app.name]));
  const asked = accounts.flatMap((account) => {
    const connector = ctx.apps.get(account.connector);
    const base = { appId: account.app_id, appName: apps.get(account.app_id) ?? '' };
    const credentials = credentialsOf(ctx, account);
    return connector.records.flatMap((type) => [
      ...(type.findable
        ? [
            fresh(
              ctx,
              { ...base, label: type.label },
              phone,
              () => connector.find(credentials, type.id, phone),
              (value) => ({
                found: value ? { title: value.title ?? value.id, url: value.url } : ('none' as const),
              }),
            ),
          ]
        : []),
      ...(type.countable
        ? [
            fresh(
              ctx,
              { ...base, label: type.label },
              phone,
              () => connector.countOpen(credentials, type.id, phone),
              (open) => ({ open }),
            ),
          ]
        : []),
    ]);
  });
  return (await Promise.all(asked)).sort((a, b) => a.appName.localeCompare(b.appName));
}

/**
 * How many records of a person an app has open, for whoever has to decide by it; `failed` when
 * it does not say. `key` as the app's id and its record.
 */
export async function countOpenRecords(
  ctx: AppContext,
  key: string,
  phone: string,
  runId: string,
): Promise<number | 'failed'> {
  const [app = '', record = ''] = key.split(' ');
  const account = await ctx.store.appAccounts.one({ app_id: app });
  const type = account && ctx.apps.get(account.connector).records.find(({ id }) => id === record);
  if (!account || !type?.countable) return 'failed';
  const answer = await inTime(
    ctx,
    ctx.apps.get(account.connector).countOpen(credentialsOf(ctx, account), record, phone),
  );
  if (answer) {
    const rows = exchangeRows('record', runId, answer);
    await ctx.store.write((unit) => unit.exchanges.insert(rows), { durable: false });
  }
  return answer?.ok ? answer.value : 'failed';
}

/** Undefined when it takes longer than anybody waits. */
async function inTime<Value>(
  { clock }: AppContext,
  asked: Promise<Outcome<Value>>,
): Promise<Outcome<Value> | undefined> {
  let late: () => void = () => undefined;
  const over = new Promise<undefined>((resolve) => {
    late = () => resolve(undefined);
  });
  const timer = clock.limit(PATIENCE, late);
  return Promise.race([asked, over]).finally(timer.cancel);
}

async function fresh<Value>(
  ctx: AppContext,
  base: Pick<LookUp, 'appId' | 'appName' | 'label'>,
  phone: string,
  ask: () => Promise<Outcome<Value>>,
  read: (value: Value) => Partial<LookUp>,
): Promise<LookUp> {
  const key = `${base.appId} ${base.label} ${phone}`;
  const before = kept.get(key);
  if (before && ctx.now() - before.askedAt < FRESH) return before;
  const askedAt = ctx.now();
  const answer = await inTime(ctx, ask());
  if (answer?.ok) {
    const known = { ...base, ...read(answer.value), askedAt };
    if (kept.size > MOST_KEPT) kept.clear();
    kept.set(key, known);
    return known;
  }
  const problem = answer
    ? cause(appCause(answer.failure.cause)).explain({ who: base.appName, said: answer.failure.said })
    : `${base.appName} did not answer within ${PATIENCE / 1000} seconds.`;
  return { ...base, problem, askedAt };
}
