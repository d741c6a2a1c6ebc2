/** What a word of a provider's means, said once: the profile lists it from then on, and what waited for it is read again. */
import { type Actor, type AppContext, found, OperationError, requireRole } from '../context';
import { addWord, readListedWord } from '../profiles';
import { decideSetAside } from './decide';

const MOST = 500;

/** Returns how many posts are read again. */
export async function listWord(
  ctx: AppContext,
  actor: Actor,
  { requestId, what, word, means }: { requestId: string; what: string; word: string; means: string },
): Promise<number> {
  requireRole(actor, 'administrator');
  const listed = readListedWord(what, word, means);
  if (!listed) throw new OperationError('invalid', `“${word}” cannot mean that.`);
  const [request] = await ctx.store.select<{ connector: string; waits: number }>(
    `SELECT a.connector, EXISTS (SELECT 1 FROM json_each(r.outcome, '$.unlisted') u WHERE u.value->>'$.word' = :word) AS waits
       FROM inbound_requests r JOIN channels c ON c.id = r.channel_id
       JOIN provider_accounts a ON a.id = coalesce(r.account_id, c.account_id) WHERE r.id = :requestId`,
    { requestId, word },
  );
  const { connector, waits } = found(request, 'post');
  if (!waits) throw new OperationError('conflict', `This post does not wait for “${word}” any more.`);
  await addWord(ctx, actor, connector, listed);
  const waiting = await ctx.store.select<{ id: string }>(
    `SELECT r.id FROM failed_work f JOIN inbound_requests r ON r.id = f.item_id JOIN channels c ON c.id = r.channel_id
       JOIN provider_accounts a ON a.id = coalesce(r.account_id, c.account_id)
      WHERE f.queue = 'inbound' AND f.aside_at IS NOT NULL AND f.ended_at IS NULL AND a.connector = :connector
        AND EXISTS (SELECT 1 FROM json_each(r.outcome, '$.unlisted') u WHERE u.value->>'$.word' = :word)
      ORDER BY r.id LIMIT ${MOST}`,
    { connector, word },
  );
  return decideSetAside(
    ctx,
    actor,
    waiting.map(({ id }) => `inbound:${id}`),
    'process again',
  );
}
