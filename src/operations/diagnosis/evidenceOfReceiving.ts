/** Evidence of what came in, and of what became of it in routes and apps. */
import type { CauseCode } from '../../core/delivery/causes';
import { CAUSE_OF_DELIVERY } from '../apps/webhooks';
import type { AppContext } from '../context';
import { refusedThatFit, wouldBeTakenNow } from '../inbound';
import { causeOf, type Found, JUST_NOW, nothing, type Scope, seen, told } from './complaintEvidence';

export async function inEvidence(ctx: AppContext, scope: Scope, since: number): Promise<Found> {
  const [newest] = await ctx.store.select<{
    id: string;
    created_at: number;
    outcome: string | null;
    cause: CauseCode | null;
  }>(
    `SELECT m.id, m.created_at, r.outcome, r.cause FROM messages m LEFT JOIN message_routings r ON r.message_id = m.id
      WHERE m.direction = 'in' AND m.created_at > :since ${scope.channel ? 'AND m.channel_id = :channel' : ''}
        ${scope.phone ? 'AND m.sender = :phone' : ''} ORDER BY m.id DESC LIMIT 1`,
    { since, channel: scope.channel ?? '', phone: scope.phone ?? '' },
  );
  if (!newest) return nothing();
  const href = `/watch/messages/${newest.id}`;
  const found: Found = { named: [], observed: [], traffic: true };
  if (ctx.now() - newest.created_at < JUST_NOW)
    found.observed.push(seen('in-arrived', true, undefined, href), seen('in-called', true));
  if (newest.outcome && newest.outcome !== 'asking')
    found.observed.push(seen('in-routed', newest.outcome !== 'unrouted' && newest.outcome !== 'held', undefined, href));
  if (newest.cause) found.named.push(told(newest.cause, { href, at: newest.created_at }));
  const deliveries = await ctx.store.select<{
    app: string;
    app_id: string;
    delivered_at: number | null;
    cause: CauseCode | null;
    last_status: number | null;
  }>(
    `SELECT a.name AS app, a.id AS app_id, d.delivered_at, ${CAUSE_OF_DELIVERY} AS cause, d.last_status FROM webhook_deliveries d
       JOIN webhook_subscriptions s ON s.id = d.subscription_id JOIN apps a ON a.id = s.app_id
      WHERE d.message_id = :message AND d.event_type = 'windgap.message.received' ${scope.app ? 'AND a.id = :app' : ''}`,
    { message: newest.id, app: scope.app ?? '' },
  );
  for (const { app, app_id, delivered_at, cause: why, last_status } of deliveries)
    if (delivered_at === null && why)
      found.named.push(
        told(why, {
          who: app,
          saying: last_status ? String(last_status) : undefined,
          href: `/apps/${app_id}`,
          subject: app,
        }),
      );
  const runs = (await ctx.store.runs.all({ subject_id: newest.id })).filter(
    ({ source, app_id }) => source !== 'record' || !scope.app || app_id === scope.app,
  );
  for (const run of runs) {
    const last = run.results.at(-1);
    const code = run.state === 'done' ? undefined : causeOf(last);
    if (last && code)
      found.named.push(
        told(code, { said: last.finding?.problem ?? last.said, href: run.app_id ? `/apps/${run.app_id}` : href }),
      );
  }
  const kept = runs.filter(({ source }) => source === 'record');
  const reached = [
    ...deliveries.map(({ delivered_at }) => delivered_at !== null),
    ...kept.map(({ state }) => state === 'done'),
  ];
  if (reached.length > 0) found.observed.push(seen('app-told', reached.every(Boolean), undefined, href));
  else if (scope.app) found.observed.push(seen('app-told', false, 'Nothing was on its way to the app', href));
  return found;
}

/** Requests that were refused after the last that was taken: what came, and why it is not here. */
export async function refusedRequests(ctx: AppContext, scope: Scope, since: number): Promise<Found> {
  const rows = await ctx.store.select<{
    id: string;
    channel_id: string;
    cause: CauseCode;
    channel: string;
    received_at: number;
    taken_at: number | null;
  }>(
    `SELECT r.id, r.channel_id, r.cause, c.name AS channel, r.received_at,
            (SELECT max(received_at) FROM inbound_requests t WHERE t.channel_id = r.channel_id AND t.state = 'done') AS taken_at
       FROM inbound_requests r LEFT JOIN channels c ON c.id = r.channel_id
      WHERE r.received_at > :since AND r.cause IS NOT NULL AND r.cause <> 'inbound-partly-unreadable' AND r.state IN ('refused', 'unreadable')
        ${scope.channel ? 'AND r.channel_id = :channel' : ''} ORDER BY r.id DESC LIMIT 20`,
    { since, channel: scope.channel ?? '' },
  );
  const standing = rows.filter(({ received_at, taken_at }) => received_at > (taken_at ?? 0));
  const [newest] = standing;
  if (!newest) return { ...nothing(), ...(await healedRequests(ctx, rows)) };
  const { channel, cause: code, id, received_at } = newest;
  return {
    named: [told(code, { who: channel, subject: channel, href: `/watch/inbound/${id}`, at: received_at })],
    observed: [seen('in-called', true, 'The provider calls the inbound URL, and is refused', `/watch/inbound/${id}`)],
    traffic: true,
  };
}

/**
 * Requests that were refused, would be taken now and are not in: when that was, and which. What does not fit the
 * credentials of now was posted by a stranger as far as anybody can tell, and was never on the way.
 */
async function healedRequests(
  ctx: AppContext,
  rows: readonly { id: string; channel_id: string; cause: CauseCode; received_at: number }[],
): Promise<Pick<Found, 'healed'>> {
  const channels = [...new Set(rows.filter(isOfSignature).map(({ channel_id }) => channel_id))];
  const fitting = (await Promise.all(channels.map((channel) => refusedThatFit(ctx, channel)))).flat();
  const readable: typeof rows = await Promise.all(
    rows
      .filter(({ cause: code }) => code === 'inbound-unreadable')
      .map(async (row) => ((await wouldBeTakenNow(ctx, row.id)) ? [row] : [])),
  ).then((each) => each.flat());
  const lost = [...fitting, ...readable].sort((x, y) => x.received_at - y.received_at);
  const [first] = lost;
  const last = lost.at(-1);
  if (!first || !last) return {};
  const [well] = await ctx.store.select<{ at: number | null }>(
    `SELECT min(received_at) AS at FROM inbound_requests WHERE channel_id = :channel AND state = 'done' AND received_at > :until`,
    { channel: last.channel_id, until: last.received_at },
  );
  if (!well?.at) return {};
  return {
    healed: {
      from: first.received_at,
      until: last.received_at,
      wellSince: well.at,
      codes: [...new Set(lost.flatMap(({ cause: code }) => code ?? []))],
      lost: lost.map(({ id }) => id),
      kind: 'requests',
    },
  };
}

const isOfSignature = ({ cause: code }: { cause: CauseCode }) => code.startsWith('signature-');

/** Events an app did not take and will not be offered again, before it took others: when that was, and which. */
export async function healedEvents(ctx: AppContext, scope: Scope, since: number): Promise<Found> {
  const rows = await ctx.store.select<{ id: string; created_at: number; cause: CauseCode | null; well_at: number }>(
    `SELECT d.id, d.created_at, ${CAUSE_OF_DELIVERY} AS cause,
            (SELECT min(w.delivered_at) FROM webhook_deliveries w WHERE w.subscription_id = d.subscription_id AND w.delivered_at > d.created_at) AS well_at
       FROM webhook_deliveries d JOIN webhook_subscriptions s ON s.id = d.subscription_id
      WHERE d.state IN ('given-up', 'aside') AND d.created_at > :since ${scope.app ? 'AND s.app_id = :app' : ''}
        ${scope.channel ? 'AND d.message_id IN (SELECT m.id FROM messages m WHERE m.id = d.message_id AND m.channel_id = :channel)' : ''}
      ORDER BY d.id DESC LIMIT 200`,
    { since, app: scope.app ?? '', channel: scope.channel ?? '' },
  );
  const lost = rows.filter(({ well_at }) => well_at !== null);
  if (lost.length === 0) return nothing();
  const times = lost.map(({ created_at }) => created_at);
  return {
    ...nothing(),
    healed: {
      from: Math.min(...times),
      until: Math.max(...times),
      wellSince: Math.min(...lost.map(({ well_at }) => well_at)),
      codes: [...new Set(lost.flatMap(({ cause: code }) => code ?? []))],
      lost: lost.map(({ id }) => id),
      kind: 'events',
    },
  };
}
