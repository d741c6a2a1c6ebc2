/** Refused access on record: who tried what they may not. The same again within a while is the same. */
import { LRUCache } from 'lru-cache';
import { type Actor, type AppContext, hasRole, recordAudit } from '../context';

const AGAIN_AFTER = 10 * 60_000;
const REMEMBERED = 2000;

const noted = new LRUCache<string, number>({ max: REMEMBERED });

/** `what`: the page, the action or the operation, without anything of whom it was about. */
export async function noteRefusal(ctx: AppContext, actor: Actor, what: string): Promise<void> {
  const key = `${actor.id} ${what}`;
  const at = ctx.now();
  const last = noted.get(key);
  if (last !== undefined && at - last < AGAIN_AFTER) return;
  noted.set(key, at);
  const who = actor.kind === 'user' ? `the role ${actor.role}` : hasRole(actor, 'viewer') ? 'its standing' : 'its key';
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, at, {
      action: 'access.refused',
      subject: what.slice(0, 200),
      summary: `Refused ${actor.name} ${what.slice(0, 200)}: ${who} does not allow it`,
    }),
  );
}
