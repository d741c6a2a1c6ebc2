/** Evidence of what apps asked for: posts, calls and the runs they set going. */
import { cause } from '../../core/delivery/causes';
import { examineHook } from '../../core/hooks/examineHook';
import { recordsIn } from '../../core/hooks/postedRecord';
import { definitionOf } from '../apps/hooks';
import type { AppContext } from '../context';
import { causeOf, type Found, nothing, type Scope, seen, told } from './complaintEvidence';

/** What apps posted, and what became of the runs it set going. */
export async function askedEvidence(ctx: AppContext, scope: Scope, since: number): Promise<Found> {
  const found = nothing();
  const hooks = await ctx.store.hooks.all(scope.app ? { app_id: scope.app } : undefined);
  for (const hook of hooks) {
    const posts = await ctx.store.hookPosts.all({ hook_id: hook.id }, { order: [['id', 'DESC']], limit: 10 });
    const [newest] = posts;
    if (!newest || newest.received_at < since) continue;
    found.traffic = true;
    if (scope.app) found.observed.push(seen('out-asked', newest.state === 'taken'));
    const href = `/apps/${hook.app_id}/hooks/${hook.id}`;
    if (newest.cause) {
      found.named.push(
        told(newest.cause, { said: newest.reason ?? cause(newest.cause).title, subject: hook.name, href }),
      );
      continue;
    }
    const definition = await definitionOf(ctx.store, hook);
    const doubt = definition && examineHook(definition, recordsIn(posts)).findings[0];
    if (doubt) found.named.push(told('values-missing', { saying: doubt.problem, subject: hook.name, href }));
  }
  if (scope.app && !found.traffic && !(await calledLately(ctx, scope.app, since)))
    found.observed.push(seen('out-asked', false, 'The app has not called, posted or brought anything for a day'));
  const calls = await ctx.store.select<{ reason: string | null; name: string; off: number | null; app_id: string }>(
    `SELECT c.reason, s.name, s.disabled_at AS off, s.app_id FROM phone_systems s
       JOIN phone_calls c ON c.id = (SELECT max(id) FROM phone_calls WHERE system_id = s.id)
      WHERE c.state = 'refused' AND c.received_at > :since ${scope.app ? 'AND s.app_id = :app' : ''}`,
    { since, app: scope.app ?? '' },
  );
  for (const { reason, name, off, app_id } of calls)
    if (off !== null)
      found.named.push(
        told('automation-off', { said: reason ?? `“${name}” is switched off.`, href: `/apps/${app_id}/calls` }),
      );
  const failed = await ctx.store.select<{ id: string }>(
    `SELECT id FROM runs WHERE state = 'failed' AND created_at > :since AND source <> 'route'
        ${scope.app ? 'AND app_id = :app' : ''}
        AND NOT EXISTS (SELECT 1 FROM runs later WHERE later.source_id = runs.source_id AND later.state = 'done' AND later.id > runs.id)
      ORDER BY id DESC LIMIT 20`,
    { since, app: scope.app ?? '' },
  );
  const ids = failed.map(({ id }) => id);
  for (const { results, app_id } of await ctx.store.runs.allBy('id', ids, ['results', 'app_id'])) {
    const last = results.at(-1);
    const code = causeOf(last);
    if (last && code) found.named.push(told(code, { said: last.said, href: `/apps/${app_id}` }));
    found.traffic = true;
  }
  return found;
}

/** Calls of the app that were refused since the last that was taken, and calls with keys nobody knows. */
export async function refusedCalls(ctx: AppContext, { app, channel }: Scope, since: number): Promise<Found> {
  const found = nothing();
  if (!app && channel) return found;
  const rows = await ctx.store.select<{
    app_id: string | null;
    app_name: string | null;
    key_hint: string | null;
    from_address: string | null;
    method: string;
    path: string;
    status: number;
    type: string;
    said: string;
    times: number;
    last_at: number;
    taken_at: number | null;
    named_by_order: number;
  }>(
    `SELECT c.*, (SELECT max(m.created_at) FROM messages m WHERE m.origin_kind = 'app' AND m.origin_id = coalesce(c.app_id, :app) AND m.created_at > :since) AS taken_at,
            EXISTS (SELECT 1 FROM refused_orders o WHERE o.origin_id = c.app_id AND o.at BETWEEN c.at - 2000 AND c.last_at + 2000) AS named_by_order
       FROM refused_calls c WHERE c.last_at > :since ${app ? 'AND (c.app_id = :app OR c.app_id IS NULL)' : ''}
      ORDER BY c.last_at DESC LIMIT 50`,
    { since, app: app ?? '' },
  );
  const standing = rows.filter(
    ({ last_at, taken_at, named_by_order }) => last_at > (taken_at ?? 0) && named_by_order === 0,
  );
  const own = standing.find(
    ({ app_id, type }) => app_id !== null && !type.startsWith('key-ex') && !type.startsWith('key-rev'),
  );
  if (own) {
    found.traffic = true;
    found.named.push(
      told('call-refused', {
        who: own.app_name ?? undefined,
        saying: `${own.status} to ${own.method} ${own.path}: “${own.said}”${own.times > 1 ? `, ${own.times} times` : ''}`,
        href: `/apps/${own.app_id}#refused-calls`,
        at: own.last_at,
        messages: own.times,
      }),
    );
  }
  // Whose key is known is surely meant; a stranger's only where nothing else is.
  const stranger = own ? undefined : standing.find(({ app_id }) => app_id === null);
  if (stranger)
    found.named.push(
      told('call-key-unknown', {
        saying: stranger.key_hint ? `the key begins ${stranger.key_hint.replace('…', '')}` : 'there was no key',
        about: stranger.from_address ?? undefined,
        at: stranger.last_at,
        messages: stranger.times,
      }),
    );
  if (own || stranger) found.observed.push(seen('out-asked', false, 'The latest calls were refused'));
  return found;
}

async function calledLately(ctx: AppContext, app: string, since: number): Promise<boolean> {
  const [row] = await ctx.store.select<{ n: number }>(
    `SELECT (SELECT count(*) FROM api_keys WHERE app_id = :app AND last_used_at > :since)
          + (SELECT count(*) FROM runs WHERE app_id = :app AND created_at > :since)
          + (SELECT count(*) FROM messages WHERE origin_kind = 'app' AND origin_id = :app AND created_at > :since) AS n`,
    { app, since },
  );
  return (row?.n ?? 0) > 0;
}
