/** What the refused posts of a provider, or the events an app did not take, have in common that the good ones have not. */
import { type Compared, contrast } from '../../../core/diagnosis/contrast';
import type { AppContext } from '../../context';
import type { Scope } from '../complaintEvidence';
import { COMPARED_BACK, type ContrastView, changesAround, hourOf } from './messages';

/** Fewer than of messages: each brings its headers along. */
const MOST_COMPARED = 2000;
/** Headers beyond these, of those that are seen most, are not looked at. */
const MOST_HEADERS = 40;
const LONGEST_VALUE = 80;
/** Of these only whether they are there: what they hold is secret, or another each time. */
const NOT_SHOWN = /auth|token|sign|secret|key|cookie|date|time|length|trace|nonce/i;

interface Request {
  at: number;
  state: string;
  method: string;
  headers: string;
  octets: number;
  address: string | null;
}

/** The posts to the inbound address of a channel: how those that were refused differ, header by header. */
export async function contrastRequests(ctx: AppContext, scope: Scope): Promise<ContrastView | undefined> {
  if (!scope.channel) return undefined;
  const rows = await ctx.store.select<Request>(
    `SELECT received_at AS at, state, method, headers, length(body) AS octets, remote_address AS address
       FROM inbound_requests WHERE channel_id = :channel AND received_at > :since AND state IN ('done', 'refused', 'unreadable') AND coalesce(cause, '') <> 'inbound-partly-unreadable'
      ORDER BY id DESC LIMIT ${MOST_COMPARED}`,
    { channel: scope.channel, since: ctx.now() - COMPARED_BACK },
  );
  const read = rows.map((row) => ({ ...row, headers: JSON.parse(row.headers) as Record<string, string> }));
  const seen = new Map<string, number>();
  for (const { headers } of read) for (const name in headers) seen.set(name, (seen.get(name) ?? 0) + 1);
  const names = [...seen].sort(([, x], [, y]) => y - x).slice(0, MOST_HEADERS);
  return viewOf(
    ctx,
    scope,
    'requests',
    read.map(
      ({ at, state, method, headers, octets, address }): Compared => ({
        at,
        failed: state !== 'done',
        is: {
          ...(address ? { address } : {}),
          method,
          size: octets < 1000 ? 'under 1 kB' : octets < 10_000 ? '1 to 10 kB' : 'over 10 kB',
          ...Object.fromEntries(names.map(([name]) => [`header ${name}`, headerWords(name, headers[name])])),
          hour: hourOf(at),
        },
      }),
    ),
  );
}

function headerWords(name: string, value: string | undefined): string {
  if (value === undefined) return 'not there';
  return NOT_SHOWN.test(name) ? 'there' : value.slice(0, LONGEST_VALUE);
}

interface Delivery {
  at: number;
  state: string;
  type: string;
  channel: string | null;
  country: string | null;
  octets: number;
  url: string | null;
  server: string | null;
  form: string | null;
}

/** The events an app was told: how those that it did not take differ. */
export async function contrastEvents(ctx: AppContext, scope: Scope): Promise<ContrastView | undefined> {
  if (!scope.app) return undefined;
  const rows = await ctx.store.select<Delivery>(
    `SELECT d.created_at AS at, d.state, d.event_type AS type, c.name AS channel, m.country, length(d.body) AS octets,
            x.request->>'$.url' AS url, x.response->>'$.headers.server' AS server, x.response->>'$.headers.content-type' AS form
       FROM webhook_deliveries d JOIN webhook_subscriptions s ON s.id = d.subscription_id
       LEFT JOIN messages m ON m.id = d.message_id LEFT JOIN channels c ON c.id = m.channel_id
       LEFT JOIN exchanges x ON x.id = (SELECT max(e.id) FROM exchanges e WHERE e.subject_id = d.id)
      WHERE s.app_id = :app AND d.created_at > :since AND (d.state = 'delivered' OR d.attempts > 0)
        ${scope.channel ? 'AND (m.channel_id = :channel OR m.id IS NULL)' : ''}
      ORDER BY d.id DESC LIMIT ${MOST_COMPARED}`,
    { app: scope.app, channel: scope.channel ?? '', since: ctx.now() - COMPARED_BACK },
  );
  return viewOf(
    ctx,
    scope,
    'events',
    rows.map(
      ({ at, state, type, channel, country, octets, url, server, form }): Compared => ({
        at,
        failed: state !== 'delivered',
        is: {
          type,
          ...(country ? { country } : {}),
          ...(channel ? { channel } : {}),
          size: octets < 1000 ? 'under 1 kB' : octets < 10_000 ? '1 to 10 kB' : 'over 10 kB',
          ...(url ? { host: hostOf(url) } : {}),
          ...(server ? { server } : {}),
          ...(form ? { form } : {}),
          hour: hourOf(at),
        },
      }),
    ),
  );
}

function hostOf(url: string): string {
  return URL.canParse(url) ? new URL(url).host : url;
}

async function viewOf(
  ctx: AppContext,
  scope: Scope,
  of: ContrastView['of'],
  compared: readonly Compared[],
): Promise<ContrastView> {
  const found = contrast(compared);
  return { of, contrast: found, compared: compared.length, changes: await changesAround(ctx, scope, found) };
}
