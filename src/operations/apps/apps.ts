/** Business applications and what is connected with each. */
import { type AppFinding, examineApp } from '../../core/connect/examineApp';
import { APP_HOPS } from '../../core/proof/hops';
import { newId } from '../../store/ids';
import type { ApiKeyRow, AppRow, WebhookDeliveryRow, WebhookSubscriptionRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  asView,
  type EvidenceView,
  found,
  invalidText,
  noteChanges,
  reachesApp,
  reachOf,
  recordAudit,
  requireReached,
  requireRole,
  type View,
  viewExchange,
} from '../context';
import { beginProofs, groupProofs, type HopProof } from '../proofs';
import { appsTold, publishedSet } from '../routes';
import { type KeyState, stateOfKey } from './apiKeys';
import { type HookSummary, listHooks } from './hooks';

export async function createApp(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; description: string },
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The app has no name.', 'Use the name your colleagues know it by.');
  const at = ctx.now();
  const id = newId('app', at);
  await ctx.store.write(async (unit) => {
    if (await unit.apps.one({ name }))
      throw invalidText('name', `There is an app called ${name} already.`, 'Choose another name.');
    await unit.apps.insert([{ id, name, description: input.description.trim(), created_at: at, team: null }]);
    await beginProofs(unit, id, APP_HOPS, at);
    await recordAudit(unit, actor, at, { action: 'app.created', subject: id, summary: `Added the app ${name}` });
    await noteChanges(unit, at, [['app', id]]);
  });
  return { id };
}

export interface AppSummary {
  app: AppRow;
  proofs: HopProof[];
  keys: number;
  subscriptions: number;
  routed: boolean;
  automations: Automation[];
  /** What is about to stop, or has been stopped. */
  findings: AppFinding[];
}

export async function listApps(ctx: AppContext, actor: Actor): Promise<AppSummary[]> {
  requireRole(actor, 'viewer');
  const now = ctx.now();
  const [apps, keys, subscriptions, proofs, { set }] = await Promise.all([
    ctx.store.apps.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.apiKeys.all({ revoked_at: null }),
    ctx.store.subscriptions.all({ disabled_at: null }),
    ctx.store.proofs.all(),
    publishedSet(ctx),
  ]);
  const grouped = groupProofs(proofs, ctx.now());
  const told = appsTold(set);
  const all = await listAutomations(ctx, grouped);
  const reach = await reachOf(ctx.store, actor);
  return apps
    .filter(({ id }) => reachesApp(reach, id))
    .map((app) => {
      const inForce = keys.filter((key) => key.app_id === app.id && stateOfKey(key, now) === 'in-force');
      const standing = subscriptions.filter((subscription) => subscription.app_id === app.id);
      const automations = all.filter(({ appId }) => appId === app.id);
      return {
        automations,
        app,
        proofs: grouped.get(app.id) ?? [],
        keys: inForce.length,
        subscriptions: standing.length,
        routed: told.has(app.id),
        findings: examineApp(
          inForce.map(({ name, expires_at, last_used_at }) => ({
            name,
            expiresAt: expires_at,
            lastUsedAt: last_used_at,
          })),
          standing.map(({ url, paused_why }) => ({ url, pausedWhy: paused_why })),
          now,
          automations.map(({ what, name, proofs }) => ({
            what,
            name,
            brokenBy: proofs.find(({ cause }) => cause)?.cause,
          })),
        ),
      };
    });
}

export interface Automation {
  id: string;
  appId: string;
  kind: 'hook' | 'record' | 'sheet' | 'feed' | 'phone';
  /** Such as “send hook”. */
  what: string;
  name: string;
  /** Whether the app sets it in motion or is written to. */
  way: 'in' | 'out';
  disabledAt: number | null;
  proofs: HopProof[];
}

const PAGES: Record<Automation['kind'], string> = {
  hook: 'hooks',
  record: 'records',
  sheet: 'sheets',
  feed: 'feeds',
  phone: 'calls',
};

/** Where an automation is set up. */
export function automationPage({ id, appId, kind }: Automation): string {
  return `/apps/${appId}/${PAGES[kind]}${kind === 'hook' ? `/${id}` : ''}`;
}

/** Everything that posts, rows, events, calls and messages set in motion, with its own mark. */
async function listAutomations(ctx: AppContext, proofs: ReadonlyMap<string, HopProof[]>): Promise<Automation[]> {
  const { hooks, recordActions, sheets, feeds, phoneSystems } = ctx.store;
  const rows = await Promise.all([hooks.all(), recordActions.all(), sheets.all(), feeds.all(), phoneSystems.all()]);
  const kinds = [
    ['hook', 'send hook', 'in'],
    ['record', 'record action', 'out'],
    ['sheet', 'sheet', 'in'],
    ['feed', 'calendar feed', 'in'],
    ['phone', 'telephone system', 'in'],
  ] as const;
  return rows.flatMap((list, index) => {
    const [kind, what, way] = kinds[index] as (typeof kinds)[number];
    return list.map((row) => ({
      id: row.id,
      appId: row.app_id,
      kind,
      what,
      name: row.name,
      way: 'way' in row && row.way === 'append' ? 'out' : way,
      disabledAt: row.disabled_at,
      proofs: proofs.get(row.id) ?? [],
    }));
  });
}

export type KeyView = View<Omit<ApiKeyRow, 'hash'>> & { state: KeyState };

export interface DeliveryView {
  delivery: View<WebhookDeliveryRow>;
  /** Each attempt, oldest first, as it may be shown. */
  attempts: EvidenceView[];
}

export type SubscriptionView = View<Omit<WebhookSubscriptionRow, 'sealed_secrets'>> & {
  deliveries: DeliveryView[];
  /** Events that wait for their turn or for the app. */
  waiting: number;
  /** Taken within the last seven days. */
  delivered: number;
  /** Until when the secret before is signed with as well. */
  overlapUntil?: number;
};

export interface AppView extends AppSummary {
  apiKeys: KeyView[];
  webhooks: SubscriptionView[];
  hooks: HookSummary[];
  apiUrl: string;
}

export async function getApp(ctx: AppContext, actor: Actor, id: string): Promise<AppView> {
  const summary = found(
    (await listApps(ctx, actor)).find((entry) => entry.app.id === id),
    'app',
  );
  const now = ctx.now();
  const keys = await ctx.store.apiKeys.all({ app_id: id }, { order: [['id', 'DESC']] });
  const subscriptions = await ctx.store.subscriptions.all({ app_id: id }, { order: [['id', 'DESC']] });
  return {
    ...summary,
    apiKeys: keys.map(({ hash: _, ...key }) => ({ ...asView(key), state: stateOfKey(key, now) })),
    webhooks: await Promise.all(subscriptions.map((subscription) => viewSubscription(ctx, subscription))),
    hooks: await listHooks(ctx, actor, id),
    apiUrl: `${ctx.config.publicUrl}/api/v1`,
  };
}

export async function nameApp(ctx: AppContext, actor: Actor, id: string): Promise<Pick<AppRow, 'id' | 'name'>> {
  requireRole(actor, 'viewer');
  const { name } = found(await ctx.store.apps.one({ id }), 'app');
  await requireReached(ctx.store, actor, 'app', id);
  return { id, name };
}

const WEEK = 7 * 24 * 3_600_000;

async function viewSubscription(
  ctx: AppContext,
  { sealed_secrets: _, ...subscription }: WebhookSubscriptionRow,
): Promise<SubscriptionView> {
  const now = ctx.now();
  const { id } = subscription;
  const [deliveries, [counts]] = await Promise.all([
    ctx.store.deliveries.all({ subscription_id: id }, { order: [['id', 'DESC']], limit: 15 }),
    ctx.store.select<{ waiting: number; delivered: number }>(
      `SELECT (SELECT count(*) FROM webhook_deliveries WHERE subscription_id = :id AND state IN ('due', 'leased')) AS waiting,
              (SELECT count(*) FROM webhook_deliveries WHERE subscription_id = :id AND state = 'delivered' AND delivered_at > :since) AS delivered`,
      { id, since: now - WEEK },
    ),
  ]);
  const attempts = await ctx.store.exchanges.all(
    { subject_id: deliveries.map((delivery) => delivery.id) },
    { order: [['id', 'ASC']] },
  );
  return {
    ...asView(subscription),
    waiting: counts?.waiting ?? 0,
    delivered: counts?.delivered ?? 0,
    overlapUntil: (subscription.previous_until ?? 0) > now ? (subscription.previous_until ?? undefined) : undefined,
    deliveries: deliveries.map((delivery) => ({
      delivery: asView(delivery),
      attempts: attempts
        .filter((attempt) => attempt.subject_id === delivery.id)
        .map((attempt) => viewExchange(attempt, delivery.body)),
    })),
  };
}
