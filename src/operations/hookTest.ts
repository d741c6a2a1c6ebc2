/** A test post: what the app would post, from here, over the same wire. */
import { signWebhook } from '../core/signing/standardWebhooks';
import { newId } from '../store/ids';
import { type Actor, requireRole } from './actor';
import { found, invalidText } from './errors';
import { hookUrl } from './hooks';
import type { Windgap } from './windgap';

const PATIENCE = 10_000;

/** Posts `body` to the hook's own address, with what its guard asks for. Answers what the app would have been answered. */
export async function postTest(
  w: Windgap,
  actor: Actor,
  id: string,
  body: string,
): Promise<{ status: number; said: string }> {
  requireRole(actor, 'administrator');
  const hook = found(await w.store.hooks.one({ id }), 'send hook');
  const [secret] = hook.sealed_secret ? w.sealer.open<string[]>(hook.sealed_secret) : [];
  const headers: Record<string, string> = { 'content-type': 'application/json' };
  if (hook.guard === 'token' && secret) headers.authorization = `Bearer ${secret}`;
  if (hook.guard === 'signature' && secret) Object.assign(headers, signWebhook(newId('evt'), w.now(), body, [secret]));
  try {
    const answer = await fetch(hookUrl(w, hook), {
      method: 'POST',
      headers,
      body,
      redirect: 'manual',
      signal: AbortSignal.timeout(PATIENCE),
    });
    const told = (await answer.json().catch(() => ({}))) as { status?: unknown; detail?: unknown };
    return { status: answer.status, said: String(told.detail ?? told.status ?? 'something that is not ours') };
  } catch (error) {
    throw invalidText(
      'body',
      `Windgap could not reach its own address ${w.config.publicUrl} (${(error as Error).message}).`,
      'The app cannot either: check the public address of this installation.',
    );
  }
}
