/** What is on record once in a while however often it happens: refused access, and addresses that were looked at. */
import { LRUCache } from 'lru-cache';
import { type Actor, type AppContext, hasRole, recordAudit } from '../context';

const AGAIN_AFTER = 10 * 60_000;
const REMEMBERED = 2000;

const noted = new LRUCache<string, number>({ max: REMEMBERED });

/** `what`: the page, the action or the operation, without anything of whom it was about. */
export async function noteRefusal(ctx: AppContext, actor: Actor, what: string): Promise<void> {
  const who = actor.kind === 'user' ? `the role ${actor.role}` : 'its key';
  await noteOnce(ctx, actor, {
    action: 'access.refused',
    subject: what.slice(0, 200),
    summary: `Refused ${actor.name} ${what.slice(0, 200)}: ${who} does not allow it`,
  });
}

/** That somebody looked at an address that opens something to whoever has it. */
export async function noteReading(ctx: AppContext, actor: Actor, subject: string, what: string): Promise<void> {
  if (actor.kind !== 'user' || !hasRole(actor, 'administrator')) return;
  await noteOnce(ctx, actor, { action: 'secret.shown', subject, summary: `Looked at ${what}` });
}

async function noteOnce(
  ctx: AppContext,
  actor: Actor,
  note: { action: string; subject: string; summary: string },
): Promise<void> {
  const key = `${ctx.config.dataFolder} ${actor.id} ${note.action} ${note.subject}`;
  const at = ctx.now();
  const last = noted.get(key);
  if (last !== undefined && at - last < AGAIN_AFTER) return;
  noted.set(key, at);
  await ctx.store.write((unit) => recordAudit(unit, actor, at, note), { durable: false });
}
