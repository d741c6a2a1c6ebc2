/** What the overview shows: the pass from provider to app with its traffic, and what is not as it should be. */
import { cause } from '../../core/delivery/causes';
import type { Finding } from '../../core/finding';
import type { ProofState } from '../../core/proof/proofs';
import { worstOf } from '../../core/proof/proofs';
import { explainProof, HOP_WORDS } from '../../core/proof/wording';
import { conditionsOf } from '../../core/routing/group';
import { BARE_NAMES } from '../../core/routing/names';
import type { RouteSet } from '../../core/routing/route';
import { groupWords } from '../../core/routing/wording';
import { type AccountView, type ConnectionFinding, listAccounts } from '../accounts';
import { listApps } from '../apps';
import { listChannels } from '../channels';
import { type Actor, type AppContext, reachedBy, reachOf, reachValues, requireRole } from '../context';
import type { HopProof } from '../proofs';
import { appsTold, publishedSet } from '../routes';

export interface PassNode {
  id: string;
  name: string;
  detail: string;
  href: string;
  state: ProofState;
}

export interface PassLine {
  from: string;
  to: string;
  /** Messages in the last 24 hours. */
  traffic: number;
  state: ProofState;
}

export interface PassTrouble {
  /** Nodes whose path this is on. */
  nodes: string[];
  state: 'broken' | 'unproven';
  text: string;
  remedy: string;
  href: string;
}

export interface Overview {
  accounts: PassNode[];
  channels: PassNode[];
  routes: PassNode[];
  apps: PassNode[];
  lines: PassLine[];
  troubles: PassTrouble[];
  today: { received: number; sent: number; delivered: number; failed: number; waiting: number; uncertain: number };
}

export const DESK_ID = 'desk';

export async function getOverview(ctx: AppContext, actor: Actor): Promise<Overview> {
  requireRole(actor, 'viewer');
  const since = ctx.now() - 24 * 3600_000;
  const reach = await reachOf(ctx.store, actor);
  const mine = reachedBy(reach, 'm.channel_id', 'channel');
  const values = { since, ...reachValues(reach) };
  const [accounts, channels, apps, { set }, traffic, told, outcomes, waiting, taken, unrouted] = await Promise.all([
    listAccounts(ctx, actor),
    listChannels(ctx, actor),
    listApps(ctx, actor),
    publishedSet(ctx),
    ctx.store.select<{ channel_id: string; direction: string; n: number }>(
      `SELECT channel_id, direction, count(*) AS n FROM messages m WHERE created_at > :since AND ${mine} GROUP BY channel_id, direction`,
      values,
    ),
    ctx.store.select<{ app_id: string; route_id: string; n: number }>(
      `SELECT s.app_id, r.routes->>'$[0].id' AS route_id, count(*) AS n FROM webhook_deliveries d
         JOIN webhook_subscriptions s ON s.id = d.subscription_id JOIN message_routings r ON r.message_id = d.message_id
        WHERE d.created_at > :since AND d.event_type = 'windgap.message.received' GROUP BY 1, 2`,
      { since },
    ),
    ctx.store.select<{ direction: string; state: string; n: number }>(
      `SELECT direction, state, count(*) AS n FROM messages m WHERE created_at > :since AND ${mine} GROUP BY direction, state`,
      values,
    ),
    ctx.store.select<{ state: string; n: number }>('SELECT state, count(*) AS n FROM outbox GROUP BY state'),
    ctx.store.select<{ channel_id: string; route_id: string; n: number }>(
      `SELECT m.channel_id, r.routes->>'$[0].id' AS route_id, count(*) AS n FROM messages m JOIN message_routings r ON r.message_id = m.id
        WHERE m.created_at > :since AND m.direction = 'in' AND ${mine} GROUP BY 1, 2`,
      values,
    ),
    ctx.store.select<{ outcome: 'unrouted' | 'held'; n: number }>(
      `SELECT outcome, count(*) AS n FROM message_routings WHERE outcome IN ('unrouted', 'held') AND at > :since GROUP BY outcome`,
      { since },
    ),
  ]);
  const of = (rows: { n: number }[]) => rows.reduce((sum, row) => sum + row.n, 0);
  const routes = passRoutes(set, taken);
  return {
    accounts: accounts.map(({ account, connector }) => ({
      id: account.id,
      name: account.name,
      detail: connector.name,
      href: `/connect/providers/${account.id}`,
      state: account.state === 'accepted' ? 'proven' : account.state === 'refused' ? 'broken' : 'unproven',
    })),
    channels: channels.map(({ channel, proofs }) => ({
      id: channel.id,
      name: channel.name,
      detail: channel.address,
      href: `/connect/channels/${channel.id}`,
      state: worstOf(proofs.map((proof) => proof.state)),
    })),
    routes: routes.map(({ id, name, detail }) => ({
      id,
      name,
      detail,
      href: '/route/routes',
      state: 'not-applicable',
    })),
    apps: [
      {
        id: DESK_ID,
        name: 'Shared desk',
        detail: 'people in Conversations',
        href: '/route/conversations',
        state: 'not-applicable',
      },
      ...apps.map(({ app, proofs }) => ({
        id: app.id,
        name: app.name,
        detail: app.description,
        href: `/apps/${app.id}`,
        state: worstOf(proofs.map((proof) => proof.state)),
      })),
    ],
    lines: [
      ...channels.map(({ channel, proofs }) => ({
        from: channel.accountId,
        to: channel.id,
        traffic: of(traffic.filter((row) => row.channel_id === channel.id)),
        state: worstOf(proofs.filter((proof) => proof.hop !== 'inbound').map((proof) => proof.state)),
      })),
      ...channels.flatMap(({ channel, proofs }) =>
        routes
          .map(({ id, takes }) => ({
            from: channel.id,
            to: id,
            traffic: of(taken.filter((row) => row.channel_id === channel.id && takes(row.route_id))),
            state: proofs.find((proof) => proof.hop === 'inbound')?.state ?? ('unproven' as const),
          }))
          // A channel that got nothing lately leads to the route that takes what is left.
          .filter(
            ({ traffic: n }, place, all) =>
              n > 0 || (place === all.length - 1 && all.every((each) => each.traffic === 0)),
          ),
      ),
      ...routes.map(({ id, takes }) => ({
        from: id,
        to: DESK_ID,
        traffic: of(taken.filter((row) => takes(row.route_id))),
        state: 'proven' as const,
      })),
      ...apps.flatMap(({ app, proofs }) =>
        routes
          .filter(({ tells }) => tells.has(app.id))
          .map(({ id, takes }) => ({
            from: id,
            to: app.id,
            traffic: of(told.filter((row) => row.app_id === app.id && takes(row.route_id))),
            state: proofs.find((proof) => proof.hop === 'call-out')?.state ?? ('unproven' as const),
          })),
      ),
    ],
    troubles: [
      ...unrouted.map(({ outcome, n }) => untaken(outcome, n)),
      ...accounts.flatMap(({ account }) =>
        account.state !== 'accepted' && account.cause
          ? [
              {
                nodes: [account.id],
                state: account.state === 'refused' ? ('broken' as const) : ('unproven' as const),
                text: `${account.name}: ${cause(account.cause).title.toLowerCase()}`,
                remedy: cause(account.cause).remedy,
                href: `/connect/providers/${account.id}`,
              },
            ]
          : [],
      ),
      ...accounts.flatMap((view) => view.findings.flatMap((finding) => findingTrouble(view, finding))),
      ...channels.flatMap(({ channel, proofs }) =>
        proofs.flatMap((proof) =>
          trouble([channel.id, channel.accountId], channel.name, `/connect/channels/${channel.id}`, proof),
        ),
      ),
      ...apps.flatMap(({ app, proofs, findings }) => [
        ...proofs.flatMap((proof) => trouble([app.id], app.name, `/apps/${app.id}`, proof)),
        ...findings.map((finding) => asTrouble([app.id], app.name, `/apps/${app.id}`, finding)),
      ]),
    ].sort((a, b) => (a.state === b.state ? 0 : a.state === 'broken' ? -1 : 1)),
    today: {
      received: of(outcomes.filter((row) => row.direction === 'in')),
      sent: of(outcomes.filter((row) => row.direction === 'out')),
      delivered: of(outcomes.filter((row) => row.state === 'delivered' || row.state === 'read')),
      failed: of(outcomes.filter((row) => row.state === 'failed')),
      waiting: of(waiting.filter((row) => row.state !== 'uncertain')),
      uncertain: of(waiting.filter((row) => row.state === 'uncertain')),
    },
  };
}

/** Drawn by themselves are the first few; the rest stand together. */
const DRAWN = 6;

interface PassRoute {
  id: string;
  name: string;
  detail: string;
  takes: (routeId: string | null) => boolean;
  tells: Set<string>;
}

function passRoutes({ routes, hours }: RouteSet, taken: readonly { route_id: string }[]): PassRoute[] {
  const active = routes.filter(({ off }) => !off);
  if (active.length === 0)
    return [
      { id: 'no-route', name: 'No route', detail: 'nothing is done by itself', takes: () => true, tells: new Set() },
    ];
  const busy = (id: string) => taken.some((row) => row.route_id === id);
  const own =
    active.length <= DRAWN
      ? active
      : [...active.filter(({ id }) => busy(id)), ...active.filter(({ id }) => !busy(id))].slice(0, DRAWN - 1);
  const alone = active
    .filter((route) => own.includes(route))
    .map(
      (route): PassRoute => ({
        id: route.id,
        name: route.name,
        detail:
          groupWords(route.when, BARE_NAMES) === 'always'
            ? 'what is left'
            : countWords(conditionsOf(route.when).length),
        takes: (id) => id === route.id,
        tells: appsTold({ routes: [route], hours }),
      }),
    );
  const others = active.filter((route) => !own.includes(route));
  if (others.length === 0) return alone;
  const ids = new Set(others.map(({ id }) => id));
  return [
    ...alone,
    {
      id: 'other-routes',
      name: `${others.length} other routes`,
      detail: 'quieter ones',
      takes: (id) => id === null || ids.has(id),
      tells: appsTold({ routes: others, hours }),
    },
  ];
}

function countWords(conditions: number): string {
  return conditions === 1 ? 'one condition' : `${conditions} conditions`;
}

function untaken(outcome: 'unrouted' | 'held', n: number): PassTrouble {
  const { remedy } = cause(outcome === 'held' ? 'auto-reply-loop' : 'no-route');
  const messages = n === 1 ? 'One message' : `${n} messages`;
  return {
    nodes: [],
    state: 'unproven',
    text:
      outcome === 'held'
        ? `${messages} came in an echo of answers and were not answered`
        : `${messages} of the last day matched no route`,
    remedy,
    href: `/watch/messages?routing=${outcome}`,
  };
}

/** What the examination of a connection says, short of mere notices. */
function findingTrouble({ account, numbers }: AccountView, finding: ConnectionFinding): PassTrouble[] {
  if (finding.severity === 'notice') return [];
  const channel = numbers.find((number) => number.channel?.id === finding.subject)?.channel;
  const [name, href] = channel
    ? [channel.name, `/connect/channels/${channel.id}`]
    : [account.name, `/connect/providers/${account.id}`];
  return [asTrouble([account.id, ...(channel ? [channel.id] : [])], name, href, finding)];
}

function asTrouble(nodes: string[], name: string, href: string, { problem, severity, remedy }: Finding): PassTrouble {
  const text = `${name}: ${problem.replace(/\.$/, '')}`;
  return { nodes, state: severity === 'error' ? 'broken' : 'unproven', text, remedy, href };
}

function trouble(nodes: string[], name: string, href: string, proof: HopProof): PassTrouble[] {
  const { why, remedy } = explainProof(proof.hop, proof);
  if (!why || !remedy || (proof.state !== 'broken' && proof.state !== 'unproven')) return [];
  const hop = HOP_WORDS[proof.hop];
  const text = `${name}, ${hop.toLowerCase()}: ${why.charAt(0).toLowerCase()}${why.slice(1)}`;
  return [{ nodes, state: proof.state, text, remedy, href }];
}
