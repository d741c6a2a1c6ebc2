/** Calls of the public API that were refused, kept as evidence: at most one write a second, however many there are. */
import type { AppRow, RefusedCallRow } from '../../store/schema/rows';
import { type Actor, type AppContext, asView, requireReached, requireRole, type View } from '../context';

export interface RefusedCall {
  method: string;
  path: string;
  status: number;
  /** The last part of the problem’s type. */
  type: string;
  said: string;
  from: string;
  /** Whose key it was, where that is known. */
  app?: Pick<AppRow, 'id' | 'name'>;
  /** The key as it came. */
  key?: string;
  body?: string;
}

export type RefusedCallKeeper = (call: RefusedCall) => void;

/** Kinds of refusals kept between two writes; what comes beyond is counted with none. */
const MOST_KINDS = 100;
const KEPT_BODY = 2000;
const ALIKE_WITHIN = 60_000;

/** Keeps refused calls; those alike within a minute are one row that counts them. What a kill takes is a second’s. */
export function createRefusedCallKeeper(ctx: AppContext): RefusedCallKeeper {
  let waiting = new Map<string, Omit<RefusedCallRow, 'id'>>();
  let writing = false;

  async function write(): Promise<void> {
    while (waiting.size > 0) {
      const rows = [...waiting.values()];
      waiting = new Map();
      await ctx.store.write(
        async (unit) => {
          for (const row of rows) {
            const merged = await unit.execute(
              `UPDATE refused_calls SET times = times + :times, last_at = :last_at WHERE id = (
                 SELECT max(id) FROM refused_calls WHERE last_at > :since AND app_id IS :app_id AND key_hint IS :key_hint
                    AND method = :method AND path = :path AND status = :status AND type = :type AND said = :said)`,
              { ...row, since: row.at - ALIKE_WITHIN },
            );
            if (merged === 0) await unit.refusedCalls.insert([row]);
          }
        },
        { durable: false },
      );
      if (waiting.size > 0) await ctx.clock.pause(1000);
    }
  }

  return ({ app, key, from, method, path, status, type, said, body }) => {
    const at = ctx.now();
    const row = {
      at,
      last_at: at,
      times: 1,
      app_id: app?.id ?? null,
      app_name: app?.name ?? null,
      key_hint: hintOf(key),
      from_address: from,
      method,
      path: path.slice(0, 200),
      status,
      type,
      said: said.slice(0, 500),
      // What strangers send is not kept: only who is known is answered for.
      body: app && body ? body.slice(0, KEPT_BODY) : null,
    };
    const kind = JSON.stringify([row.app_id, row.key_hint, method, row.path, status, type, row.said]);
    const known = waiting.get(kind);
    if (known) {
      known.times += 1;
      known.last_at = at;
    } else if (waiting.size < MOST_KINDS) waiting.set(kind, row);
    if (writing) return;
    writing = true;
    void write()
      .catch((error) => ctx.log.error({ err: error }, 'a refused call was not kept'))
      .finally(() => {
        writing = false;
      });
  };
}

/** Enough of a key of ours to find it by; of anything else not a letter, as it may be a password. */
function hintOf(key: string | undefined): string | null {
  if (!key) return null;
  return /^wg[kt]_/.test(key) ? `${key.slice(0, 8)}…` : 'not a key of Windgap';
}

export type RefusedCallView = View<RefusedCallRow>;

/** The latest refused calls of an app, newest first. */
export async function listRefusedCalls(
  ctx: AppContext,
  actor: Actor,
  app: string,
  most = 20,
): Promise<RefusedCallView[]> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'app', app);
  return (await ctx.store.refusedCalls.all({ app_id: app }, { order: [['id', 'DESC']], limit: most })).map(asView);
}
