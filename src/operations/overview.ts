/** What the overview shows: the pass from provider to app with its traffic, and what is not as it should be. */
import { cause } from '../core/delivery/causes';
import type { Finding } from '../core/finding';
import type { ProofState } from '../core/proof/proofs';
import { worstOf } from '../core/proof/proofs';
import { explainProof } from '../core/proof/wording';
import { type AccountView, listAccounts } from './accounts';
import { type Actor, requireRole } from './actor';
import { listApps } from './apps';
import { listChannels } from './channels';
import type { ConnectionFinding } from './connectionFindings';
import type { HopProof } from './proofs';
import { defaultRoute } from './routes';
import type { Windgap } from './windgap';

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
  mend: string;
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

const HOP_WORDS: Record<string, string> = {
  credential: 'Credential',
  outbound: 'Outbound',
  receipt: 'Receipt',
  inbound: 'Inbound',
  'call-in': 'Call in',
  'call-out': 'Call out',
};

export async function getOverview(w: Windgap, actor: Actor): Promise<Overview> {
  requireRole(actor, 'viewer');
  const since = w.now() - 24 * 3600_000;
  const [accounts, channels, apps, route, traffic, told, outcomes, waiting] = await Promise.all([
    listAccounts(w, actor),
    listChannels(w, actor),
    listApps(w, actor),
    defaultRoute(w.store),
    w.store.select<{ channel_id: string; direction: string; n: number }>(
      'SELECT channel_id, direction, count(*) AS n FROM messages WHERE created_at > :since GROUP BY channel_id, direction',
      { since },
    ),
    w.store.select<{ app_id: string; n: number }>(
      `SELECT s.app_id, count(*) AS n FROM webhook_deliveries d JOIN webhook_subscriptions s ON s.id = d.subscription_id
        WHERE d.created_at > :since AND d.event_type = 'windgap.message.received' GROUP BY s.app_id`,
      { since },
    ),
    w.store.select<{ direction: string; state: string; n: number }>(
      'SELECT direction, state, count(*) AS n FROM messages WHERE created_at > :since GROUP BY direction, state',
      { since },
    ),
    w.store.select<{ state: string; n: number }>('SELECT state, count(*) AS n FROM outbox GROUP BY state'),
  ]);
  const of = (rows: { n: number }[]) => rows.reduce((sum, row) => sum + row.n, 0);
  const routeId = route?.id ?? 'no-route';
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
    routes: [
      {
        id: routeId,
        name: route?.name ?? 'No route',
        detail: 'every inbound message',
        href: '/apps',
        state: 'not-applicable',
      },
    ],
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
        from: channel.account_id,
        to: channel.id,
        traffic: of(traffic.filter((row) => row.channel_id === channel.id)),
        state: worstOf(proofs.filter((proof) => proof.hop !== 'inbound').map((proof) => proof.state)),
      })),
      ...channels.map(({ channel, proofs }) => ({
        from: channel.id,
        to: routeId,
        traffic: of(traffic.filter((row) => row.channel_id === channel.id && row.direction === 'in')),
        state: proofs.find((proof) => proof.hop === 'inbound')?.state ?? 'unproven',
      })),
      { from: routeId, to: DESK_ID, traffic: of(traffic.filter((row) => row.direction === 'in')), state: 'proven' },
      ...apps
        .filter(({ routed }) => routed)
        .map(({ app, proofs }) => ({
          from: routeId,
          to: app.id,
          traffic: told.find((row) => row.app_id === app.id)?.n ?? 0,
          state: proofs.find((proof) => proof.hop === 'call-out')?.state ?? 'unproven',
        })),
    ],
    troubles: [
      ...accounts.flatMap(({ account }) =>
        account.state !== 'accepted' && account.cause
          ? [
              {
                nodes: [account.id],
                state: account.state === 'refused' ? ('broken' as const) : ('unproven' as const),
                text: `${account.name}: ${cause(account.cause).title.toLowerCase()}`,
                mend: cause(account.cause).mend,
                href: `/connect/providers/${account.id}`,
              },
            ]
          : [],
      ),
      ...accounts.flatMap((view) => view.findings.flatMap((finding) => findingTrouble(view, finding))),
      ...channels.flatMap(({ channel, proofs }) =>
        proofs.flatMap((proof) =>
          trouble([channel.id, channel.account_id], channel.name, `/connect/channels/${channel.id}`, proof),
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

/** What the examination of a connection says, short of mere notices. */
function findingTrouble({ account, numbers }: AccountView, finding: ConnectionFinding): PassTrouble[] {
  if (finding.severity === 'notice') return [];
  const channel = numbers.find((number) => number.channel?.id === finding.subject)?.channel;
  const [name, href] = channel
    ? [channel.name, `/connect/channels/${channel.id}`]
    : [account.name, `/connect/providers/${account.id}`];
  return [asTrouble([account.id, ...(channel ? [channel.id] : [])], name, href, finding)];
}

function asTrouble(nodes: string[], name: string, href: string, { problem, severity, mend }: Finding): PassTrouble {
  const text = `${name}: ${problem.charAt(0).toLowerCase()}${problem.slice(1).replace(/\.$/, '')}`;
  return { nodes, state: severity === 'error' ? 'broken' : 'unproven', text, mend, href };
}

function trouble(nodes: string[], name: string, href: string, proof: HopProof): PassTrouble[] {
  const { why, mend } = explainProof(proof.hop, proof);
  if (!why || !mend || (proof.state !== 'broken' && proof.state !== 'unproven')) return [];
  const hop = HOP_WORDS[proof.hop] ?? proof.hop;
  const text = `${name}, ${hop.toLowerCase()}: ${why.charAt(0).toLowerCase()}${why.slice(1)}`;
  return [{ nodes, state: proof.state, text, mend, href }];
}
