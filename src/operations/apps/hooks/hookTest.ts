/** A test post: what the app would post, from here, over the same wire. */
import { signWebhook } from '../../../core/signing/standardWebhooks';
import { newId } from '../../../store/ids';
import type { SendHookRow } from '../../../store/schema/rows';
import { type Actor, type AppContext, found, invalidText, requireReached, requireRole } from '../../context';
import { hookUrl } from './hooks';

const PATIENCE = 10_000;

/** The headers of a JSON post the guard of a hook lets in. */
export function postHeaders(ctx: AppContext, hook: SendHookRow, body: string): Record<string, string> {
  const [secret] = hook.sealed_secret ? ctx.sealer.open<string[]>(hook.sealed_secret) : [];
  return {
    'content-type': 'application/json',
    ...(hook.guard === 'token' && secret ? { authorization: `Bearer ${secret}` } : {}),
    ...(hook.guard === 'signature' && secret ? signWebhook(newId('evt', ctx.now()), ctx.now(), body, [secret]) : {}),
  };
}

/** Posts `body` to the hook's own address, with what its guard asks for. Returns what the app would have been answered. */
export async function postTest(
  ctx: AppContext,
  actor: Actor,
  id: string,
  body: string,
): Promise<{ status: number; said: string }> {
  requireRole(actor, 'administrator');
  const hook = found(await ctx.store.hooks.one({ id }), 'send hook');
  await requireReached(ctx.store, actor, 'app', hook.app_id);
  try {
    const answer = await fetch(hookUrl(ctx, hook), {
      method: 'POST',
      headers: postHeaders(ctx, hook, body),
      body,
      redirect: 'manual',
      signal: AbortSignal.timeout(PATIENCE),
    });
    const told = (await answer.json().catch(() => ({}))) as { status?: unknown; detail?: unknown };
    return { status: answer.status, said: String(told.detail ?? told.status ?? 'something that is not ours') };
  } catch (error) {
    throw invalidText(
      'body',
      `Windgap could not reach its own address ${ctx.config.publicUrl} (${(error as Error).message}).`,
      'The app cannot either: check the public address of this installation.',
    );
  }
}
