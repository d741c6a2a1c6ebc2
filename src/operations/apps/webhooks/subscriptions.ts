/** Webhook subscriptions: where an app is told what happens, which events, with which secret; paused and resumed. */
import { isApiVersion, LATEST_VERSION } from '../../../core/api/versions';
import { newWebhookSecret } from '../../../core/signing/standardWebhooks';
import { newId } from '../../../store/ids';
import type { EventFilter, WebhookSubscriptionRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireAccess,
  requireConfirmed,
  requireReached,
  requireScope,
} from '../../context';
import { recordFacts } from '../../proofs';
import { EVENT_TYPES, MESSAGE_EVENTS, queueTestEvent, TOLD_STATES } from './webhookEvents';

const HOUR = 3_600_000;
/** Both secrets are signed with for so long, so that the app can change over without losing an event. */
const SECRET_OVERLAP = 24 * HOUR;

export interface SubscriptionInput {
  url: string;
  events?: readonly string[];
  filter?: EventFilter;
}

/** The secret is shown this once. */
export async function subscribe(
  ctx: AppContext,
  actor: Actor,
  input: SubscriptionInput & { appId: string },
): Promise<{ id: string; secret: string }> {
  requireWebhooks(actor);
  requireConfirmed(ctx, actor);
  const app = found(await ctx.store.apps.one({ id: input.appId }), 'app');
  if (actor.kind !== 'app') await requireReached(ctx.store, actor, 'app', app.id);
  const secret = newWebhookSecret();
  const at = ctx.now();
  const id = newId('sub', at);
  await ctx.store.write(async (unit) => {
    const wanted = await readWanted(unit, actor, input);
    await unit.subscriptions.insert([
      {
        id,
        app_id: app.id,
        ...wanted,
        sealed_secrets: ctx.sealer.seal([secret]),
        previous_until: null,
        breaker: null,
        paused_at: null,
        paused_why: null,
        created_at: at,
        disabled_at: null,
        api_version: LATEST_VERSION,
      },
    ]);
    await changed(unit, actor, at, { id, app_id: app.id }, 'created', `${app.name} gets events at ${wanted.url}`);
  });
  return { id, secret };
}

export type SubscriptionSummary = Omit<WebhookSubscriptionRow, 'sealed_secrets'> & {
  /** Events that wait for their turn or for the app. */
  waiting: number;
};

export async function listSubscriptions(ctx: AppContext, actor: Actor, appId: string): Promise<SubscriptionSummary[]> {
  requireAccess(actor, 'viewer', 'webhooks:read');
  if (actor.kind !== 'app') await requireReached(ctx.store, actor, 'app', appId);
  const rows = await ctx.store.subscriptions.all({ app_id: appId }, { order: [['id', 'DESC']] });
  return Promise.all(
    rows.map(async ({ sealed_secrets: _, ...row }) => ({
      ...row,
      waiting: await ctx.store.deliveries.count({ subscription_id: row.id, state: ['due', 'leased'] }),
    })),
  );
}

/** Another address, other events, another filter; what is not given stays. What waits goes to the new address. */
export async function changeSubscription(
  ctx: AppContext,
  actor: Actor,
  subscriptionId: string,
  input: Partial<SubscriptionInput>,
): Promise<void> {
  requireWebhooks(actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = await standing(unit, actor, subscriptionId);
    const wanted = await readWanted(
      unit,
      actor,
      { url: before.url, events: before.events, filter: before.filter, ...input },
      before.filter,
    );
    const moved = wanted.url !== before.url;
    await unit.subscriptions.change({ id: subscriptionId }, { ...wanted, ...(moved ? { breaker: null } : {}) });
    const summary = moved
      ? `Events go to ${wanted.url} instead of ${before.url}`
      : `Changed which events go to ${wanted.url}`;
    await changed(unit, actor, at, before, 'changed', summary, moved);
  });
  ctx.engineWakeUp.ring('webhooks');
}

/** `before` is the filter that stands: what somebody else opened may be kept by whoever could not open it. */
async function readWanted(unit: Unit, actor: Actor, input: SubscriptionInput, before?: EventFilter) {
  const events = [...new Set(input.events ?? MESSAGE_EVENTS)];
  const unknown = events.find((type) => !(EVENT_TYPES as readonly string[]).includes(type));
  if (unknown) throw invalidText('events', `There is no event ${unknown}.`, `Choose of ${EVENT_TYPES.join(', ')}.`);
  if (events.length === 0) throw invalidText('events', 'No event is chosen.', 'Tick at least one.');
  const filter: EventFilter = {};
  if (input.filter?.channels?.length) {
    const known = new Set((await unit.channels.all()).map((channel) => channel.id));
    const stray = input.filter.channels.find((id) => !known.has(id));
    if (stray) throw invalidText('filter', `There is no channel ${stray}.`, 'Choose of the channels there are.');
    filter.channels = [...new Set(input.filter.channels)];
  }
  if (input.filter?.states?.length) {
    const stray = input.filter.states.find((state) => !TOLD_STATES.includes(state));
    if (stray)
      throw invalidText('filter', `Apps receive no events for ${stray}.`, `Choose of ${TOLD_STATES.join(', ')}.`);
    filter.states = [...new Set(input.filter.states)];
  }
  if (input.filter?.allApps) {
    if (!before?.allApps) requireScope(actor, 'messages:all');
    filter.allApps = true;
  }
  return { url: readUrl(input.url), events, filter };
}

function readUrl(text: string): string {
  const url = URL.canParse(text.trim()) ? new URL(text.trim()) : undefined;
  if (url && (url.protocol === 'http:' || url.protocol === 'https:')) return url.href;
  throw invalidText(
    'url',
    'This is not a web address.',
    'It starts with https:// and is given by the people who run the app.',
  );
}

/** Takes a subscription to another version of the API; what waits stays as it was written. */
export async function setSubscriptionVersion(
  ctx: AppContext,
  actor: Actor,
  subscriptionId: string,
  version: string,
): Promise<void> {
  requireWebhooks(actor);
  if (!isApiVersion(version)) throw invalidText('version', 'There is no such version.', 'Choose one of the list.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const subscription = await standing(unit, actor, subscriptionId);
    await unit.subscriptions.change({ id: subscriptionId }, { api_version: version });
    await changed(unit, actor, at, subscription, 'changed', `Events to ${subscription.url} are of version ${version}`);
  });
}

export async function endSubscription(ctx: AppContext, actor: Actor, subscriptionId: string): Promise<void> {
  requireWebhooks(actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const subscription = await standing(unit, actor, subscriptionId);
    await unit.subscriptions.change({ id: subscriptionId }, { disabled_at: at });
    await changed(unit, actor, at, subscription, 'ended', `Ended events to ${subscription.url}`);
  });
  ctx.engineWakeUp.ring('webhooks');
}

/** A new secret, shown this once. The one before is signed with beside it for a day. */
export async function replaceSecret(
  ctx: AppContext,
  actor: Actor,
  subscriptionId: string,
): Promise<{ secret: string }> {
  requireWebhooks(actor);
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  const secret = newWebhookSecret();
  await ctx.store.write(async (unit) => {
    const subscription = await standing(unit, actor, subscriptionId);
    const [present] = ctx.sealer.open<string[]>(subscription.sealed_secrets);
    await unit.subscriptions.change(
      { id: subscriptionId },
      { sealed_secrets: ctx.sealer.seal([secret, present]), previous_until: at + SECRET_OVERLAP },
    );
    const summary = `Replaced the signing secret for ${subscription.url}; both sign until ${new Date(at + SECRET_OVERLAP).toISOString()}`;
    await changed(unit, actor, at, subscription, 'secret-replaced', summary);
  });
  return { secret };
}

/** Secrets that sign now: one, or two while one is being replaced. */
export function secretsOf(ctx: AppContext, subscription: WebhookSubscriptionRow): string[] {
  const secrets = ctx.sealer.open<string[]>(subscription.sealed_secrets);
  return (subscription.previous_until ?? 0) > ctx.now() ? secrets : secrets.slice(0, 1);
}

export async function pauseSubscription(ctx: AppContext, actor: Actor, subscriptionId: string): Promise<void> {
  requireWebhooks(actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const subscription = await standing(unit, actor, subscriptionId);
    if (subscription.paused_at !== null) return;
    await unit.subscriptions.change({ id: subscriptionId }, { paused_at: at, paused_why: 'by-hand' });
    await changed(
      unit,
      actor,
      at,
      subscription,
      'paused',
      `Paused events to ${subscription.url}; they are kept`,
      false,
    );
  });
  ctx.engineWakeUp.ring('webhooks');
}

/** Goes on where it stopped, in order, one call first. */
export async function resumeSubscription(ctx: AppContext, actor: Actor, subscriptionId: string): Promise<void> {
  requireWebhooks(actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const subscription = await standing(unit, actor, subscriptionId);
    await unit.subscriptions.change(
      { id: subscriptionId },
      { paused_at: null, paused_why: null, breaker: { failures: 0, atOnce: 1 } },
    );
    await unit.execute(
      `UPDATE webhook_deliveries SET due_at = :at, attempts = 0, first_attempt_at = NULL WHERE subscription_id = :id AND state = 'due'`,
      { at, id: subscriptionId },
    );
    await changed(unit, actor, at, subscription, 'resumed', `Resumed events to ${subscription.url}`, false);
  });
  ctx.engineWakeUp.ring('webhooks');
}

/** Sends an event that means nothing, so that the way out is proven before something happens. */
export async function sendTestEvent(
  ctx: AppContext,
  actor: Actor,
  subscriptionId: string,
): Promise<{ deliveryId: string }> {
  requireWebhooks(actor);
  const at = ctx.now();
  const deliveryId = await ctx.store.write(async (unit) => {
    const subscription = await standing(unit, actor, subscriptionId);
    if (subscription.paused_at !== null)
      throw new OperationError('conflict', 'The subscription is paused; resume it first.');
    const id = await queueTestEvent(unit, subscription, actor.name, at);
    await recordAudit(unit, actor, at, {
      action: 'subscription.tested',
      subject: subscriptionId,
      summary: `Sent a test event to ${subscription.url}`,
    });
    return id;
  });
  ctx.engineWakeUp.ring('webhooks');
  return { deliveryId };
}

/** People with the role, and apps with the scope. */
export function requireWebhooks(actor: Actor): void {
  requireAccess(actor, 'administrator', 'webhooks:write');
}

/** A subscription that has not ended, and to an app only its own. */
export async function standing(unit: Unit, actor: Actor, id: string): Promise<WebhookSubscriptionRow> {
  const row = await unit.subscriptions.one({ id });
  const foreign = actor.kind === 'app' && row?.app_id !== actor.id;
  const subscription = found(foreign ? undefined : row, 'subscription');
  if (actor.kind !== 'app') await requireReached(unit, actor, 'app', subscription.app_id);
  if (subscription.disabled_at !== null) throw new OperationError('conflict', 'This subscription has ended.');
  return subscription;
}

async function changed(
  unit: Unit,
  actor: Actor,
  at: number,
  subscription: Pick<WebhookSubscriptionRow, 'id' | 'app_id'>,
  what: 'created' | 'changed' | 'ended' | 'secret-replaced' | 'paused' | 'resumed',
  summary: string,
  /** The way out has to be proven again. */
  unproves = true,
): Promise<void> {
  const note = `the webhook subscription was ${what === 'secret-replaced' ? 'given a new secret' : what}`;
  const touches = ['call-out'] as const;
  if (unproves)
    await recordFacts(unit, [{ subject: subscription.app_id, fact: { kind: 'changed', touches, at, note } }], at);
  await recordAudit(unit, actor, at, { action: `subscription.${what}`, subject: subscription.id, summary });
  await noteChanges(unit, at, [
    ['app', subscription.app_id],
    ['delivery', subscription.id],
  ]);
}
