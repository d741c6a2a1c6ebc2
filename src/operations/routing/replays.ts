/**
 * Replays: past messages put to what is live and to a draft, in the background. A replay is
 * done in slices, so that whatever else the engine has to do gets its turn in between.
 */
import type { Arrival } from '../../core/routing/arrival';
import { readRouteSet } from '../../core/routing/readSet';
import { Replay } from '../../core/routing/replay';
import { newId } from '../../store/ids';
import type { MessageRow, ReplayRow } from '../../store/schema/rows';
import { type Actor, type AppContext, found, noteChanges, OperationError, requireRole } from '../context';
import { publishedSet } from '../routes';
import { arrivalsOf } from './routing';

/** How far back a replay goes at most. */
export const MOST_REPLAYED = 100_000;
const SLICE = 500;

export async function beginReplay(ctx: AppContext, actor: Actor, content: unknown): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const read = readRouteSet(content);
  if (!read.ok) throw new OperationError('invalid', `The routes cannot be replayed: ${read.problem}`);
  const at = ctx.now();
  const id = newId('rpl', at);
  const { set } = await publishedSet(ctx);
  await ctx.store.write((unit) =>
    unit.replays.insert([
      {
        id,
        before: set,
        after: read.set,
        state: 'waiting',
        messages: 0,
        done: 0,
        summary: null,
        created_at: at,
        by: actor.name,
        ended_at: null,
      },
    ]),
  );
  ctx.engineWakeUp.ring('replays');
  return { id };
}

export async function getReplay(
  ctx: AppContext,
  actor: Actor,
  id: string,
): Promise<Omit<ReplayRow, 'before' | 'after'>> {
  requireRole(actor, 'viewer');
  const { before: _, after: __, ...row } = found(await ctx.store.replays.one({ id }), 'replay');
  return row;
}

/** Does what waits, the one that was under way when the engine ended from its beginning. */
export async function workReplays(ctx: AppContext, stopped: () => boolean): Promise<undefined> {
  const [row] = await ctx.store.replays.all({ state: ['waiting', 'running'] }, { order: [['id', 'ASC']], limit: 1 });
  if (!row || stopped()) return undefined;
  const [counted] = await ctx.store.select<{ n: number }>(
    `SELECT count(*) AS n FROM (SELECT 1 FROM messages WHERE direction = 'in' LIMIT ${MOST_REPLAYED})`,
  );
  await note(ctx, row.id, { state: 'running', messages: counted?.n ?? 0, done: 0 });
  const replay = new Replay(row.before, row.after);
  let before: string | null = null;
  let done = 0;
  while (done < MOST_REPLAYED && !stopped()) {
    const slice = await sliceBefore(ctx, before);
    if (slice.length === 0) break;
    replay.take(slice);
    before = slice.at(-1)?.id ?? null;
    done += slice.length;
    if (done % (SLICE * 10) === 0) await note(ctx, row.id, { done });
    await new Promise((resolve) => setImmediate(resolve));
  }
  if (stopped()) return undefined;
  await note(ctx, row.id, { state: 'done', done, messages: done, summary: replay.summary(), ended_at: ctx.now() });
  return undefined;
}

/** Newest first. What was decided on is known; of what came before routes were kept, what is known today. */
async function sliceBefore(ctx: AppContext, before: string | null): Promise<{ id: string; arrival: Arrival }[]> {
  const rows = await ctx.store.select<{ id: string; facts: string | null }>(
    `SELECT m.id, r.facts FROM messages m LEFT JOIN message_routings r ON r.message_id = m.id
      WHERE m.direction = 'in' AND (:before IS NULL OR m.id < :before) ORDER BY m.id DESC LIMIT ${SLICE}`,
    { before },
  );
  const bare = rows.filter(({ facts }) => facts === null).map(({ id }) => id);
  const known = bare.length > 0 ? await reconstructed(ctx, bare) : new Map<string, Arrival>();
  return rows.flatMap(({ id, facts }) => {
    const arrival = facts === null ? known.get(id) : (JSON.parse(facts) as Arrival);
    return arrival ? [{ id, arrival }] : [];
  });
}

async function reconstructed(ctx: AppContext, ids: readonly string[]): Promise<Map<string, Arrival>> {
  const messages: MessageRow[] = await ctx.store.messages.allBy('id', ids);
  return arrivalsOf(ctx.store, messages, new Map(), 0);
}

async function note(ctx: AppContext, id: string, values: Partial<ReplayRow>): Promise<void> {
  await ctx.store.write(
    async (unit) => {
      await unit.replays.change({ id }, values);
      await noteChanges(unit, ctx.now(), [['replay', id]]);
    },
    { durable: false },
  );
}
