/** What a word of a provider's means, said once: the profile lists it from then on, and what waited for it is read again. */
import { parseDocument } from 'yaml';
import { type Actor, type AppContext, found, OperationError, requireRole } from '../context';
import { saveProfile } from '../profiles';
import { decideSetAside } from './decide';

/** Where a profile lists such words, and what they can mean. */
export const LISTED_WORDS = {
  receipt: { path: ['inbound', 'receipts', 'states'], means: ['sent', 'delivered', 'undelivered', 'read', 'nothing'] },
  word: { path: ['inbound', 'consents', 'words'], means: ['withdrawn', 'given'] },
} as const satisfies Record<string, { path: readonly string[]; means: readonly string[] }>;

const MOST = 500;

/** Returns how many posts are read again. Throws for a profile that ships with Windgap, which nobody changes here. */
export async function listWord(
  ctx: AppContext,
  actor: Actor,
  { requestId, what, word, means }: { requestId: string; what: string; word: string; means: string },
): Promise<number> {
  requireRole(actor, 'administrator');
  const list = Object.hasOwn(LISTED_WORDS, what) ? LISTED_WORDS[what as keyof typeof LISTED_WORDS] : undefined;
  if (!list || !(list.means as readonly string[]).includes(means))
    throw new OperationError('invalid', `“${word}” cannot mean that.`);
  const [request] = await ctx.store.select<{ connector: string; waits: number }>(
    `SELECT a.connector, EXISTS (SELECT 1 FROM json_each(r.outcome, '$.unlisted') u WHERE u.value->>'$.word' = :word) AS waits
       FROM inbound_requests r JOIN channels c ON c.id = r.channel_id
       JOIN provider_accounts a ON a.id = coalesce(r.account_id, c.account_id) WHERE r.id = :requestId`,
    { requestId, word },
  );
  const { connector, waits } = found(request, 'post');
  if (!waits) throw new OperationError('conflict', `This post does not wait for “${word}” any more.`);
  const profile = found(ctx.connectors.profileOf(connector), 'profile');
  if (profile.shipped)
    throw new OperationError(
      'invalid',
      'The profile of this provider ships with Windgap and is not changed here. Drop the post, or connect the provider through a profile of your own.',
    );
  const document = parseDocument(profile.text);
  document.setIn([...list.path, word], means);
  await saveProfile(ctx, actor, document.toString({ lineWidth: 0 }), connector);
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
