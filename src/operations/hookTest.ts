/** A test post: what the app would post, from here, over the same wire. */
import { signWebhook } from '../core/signing/standardWebhooks';
import { newId } from '../store/ids';
import type { SendHookRow } from '../store/rows';
import { type Actor, requireRole } from './actor';
import { found, invalidText } from './errors';
import { hookUrl } from './hooks';
import type { Windgap } from './windgap';

const PATIENCE = 10_000;

/** The headers of a JSON post the guard of a hook lets in. */
export function postHeaders(w: Windgap, hook: SendHookRow, body: string): Record<string, string> {
  const [secret] = hook.sealed_secret ? w.sealer.open<string[]>(hook.sealed_secret) : [];
  return {
    'content-type': 'application/json',
    ...(hook.guard === 'token' && secret ? { authorization: `Bearer ${secret}` } : {}),
    ...(hook.guard === 'signature' && secret ? signWebhook(newId('evt'), w.now(), body, [secret]) : {}),
  };
}

/** Posts `body` to the hook's own address, with what its guard asks for. Answers what the app would have been answered. */
export async function postTest(
  w: Windgap,
  actor: Actor,
  id: string,
  body: string,
): Promise<{ status: number; said: string }> {
  requireRole(actor, 'administrator');
  const hook = found(await w.store.hooks.one({ id }), 'send hook');
  try {
    const answer = await fetch(hookUrl(w, hook), {
      method: 'POST',
      headers: postHeaders(w, hook, body),
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
