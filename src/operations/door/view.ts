/** The public address as its page shows it: how the door stands from here, and what came from outside. */
import {
  type Actor,
  type AppContext,
  type EvidenceView,
  reachesChannel,
  reachOf,
  recordAudit,
  requireRole,
  viewExchange,
} from '../context';
import {
  DOOR,
  type DoorStanding,
  type FromOutside,
  knock,
  newKnock,
  readDoor,
  readFromOutside,
  SEAL_HEADER,
} from './knock';

const DAY = 86_400_000;

export interface DoorView {
  /** The public address, and the door under it. */
  address: string;
  door: string;
  standing?: DoorStanding;
  evidence?: EvidenceView;
  fromOutside?: FromOutside;
  /** The latest post of each channel's provider that was taken, with where it came from. */
  posts: { channel: string; name: string; at: number; from?: string }[];
}

export async function viewDoor(ctx: AppContext, actor: Actor): Promise<DoorView> {
  requireRole(actor, 'viewer');
  const [standing, fromOutside, reach, rows] = await Promise.all([
    readDoor(ctx),
    readFromOutside(ctx),
    reachOf(ctx.store, actor),
    ctx.store.select<{ channel: string; name: string; at: number; from_address: string | null }>(
      `SELECT c.id AS channel, c.name, r.received_at AS at, r.remote_address AS from_address FROM channels c
         JOIN inbound_requests r ON r.id = (SELECT max(i.id) FROM inbound_requests i
           WHERE i.channel_id = c.id AND i.state IN ('stored', 'done') AND i.received_at > :since AND i.method IN ('POST', 'GET'))
        ORDER BY r.received_at DESC`,
      { since: ctx.now() - 7 * DAY },
    ),
  ]);
  const exchange = standing && (await ctx.store.exchanges.one({ id: standing.exchange }));
  return {
    address: ctx.config.publicUrl,
    door: `${ctx.config.publicUrl}${DOOR}`,
    ...(standing ? { standing } : {}),
    ...(exchange ? { evidence: viewExchange(exchange) } : {}),
    ...(fromOutside ? { fromOutside } : {}),
    posts: rows
      .filter(({ channel }) => reachesChannel(reach, channel))
      .map(({ from_address, ...row }) => ({ ...row, ...(from_address ? { from: from_address } : {}) })),
  };
}

/** Whether anything of a provider's has been taken since then: then the way from outside is open, whatever is seen from here. */
export async function cameFromOutside(ctx: AppContext, since: number): Promise<boolean> {
  const heard = await readFromOutside(ctx);
  if (heard && heard.at >= since) return true;
  const [row] = await ctx.store.select<{ n: number }>(
    `SELECT EXISTS (SELECT 1 FROM inbound_requests WHERE received_at >= :since AND state IN ('stored', 'done') AND method IN ('POST', 'GET')) AS n`,
    { since },
  );
  return row?.n === 1;
}

/** Knocks now. */
export async function knockNow(ctx: AppContext, actor: Actor): Promise<DoorStanding> {
  requireRole(actor, 'administrator');
  const standing = await knock(ctx);
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, standing.at, {
      action: 'door.knocked',
      subject: 'door',
      summary: `Knocked at the public address: ${standing.state === 'open' ? 'open' : standing.said}`,
    }),
  );
  return standing;
}

/** One line for a shell on any machine: the same request from there. The seal in it opens nothing but this answer. */
export function curlFor(ctx: AppContext, actor: Actor): string {
  requireRole(actor, 'administrator');
  const { mark, body, seal } = newKnock(ctx, 'outside');
  const quoted = `'${body.replaceAll("'", "'\\''")}'`;
  return `curl -sS -X POST -H 'content-type: application/json' -H '${SEAL_HEADER}: ${seal}' --data-binary ${quoted} '${ctx.config.publicUrl}${DOOR}?knock=${mark}'`;
}
