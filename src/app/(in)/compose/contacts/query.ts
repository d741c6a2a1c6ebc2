/** What the address of the list says is looked for. */
import 'server-only';
import type { Group } from '../../../../core/contacts/audience';
import { listAudiences, readGroup } from '../../../../operations/contacts';
import type { Actor, AppContext } from '../../../../operations/context';

export interface ListQuery {
  search: string;
  /** A saved audience, or conditions of one's own. */
  audience?: { id?: string; name?: string; conditions: Group };
}

export async function readListQuery(
  ctx: AppContext,
  actor: Actor,
  given: Record<string, string | undefined>,
): Promise<ListQuery> {
  const search = given.q ?? '';
  const saved = given.audience ? (await listAudiences(ctx, actor)).find(({ id }) => id === given.audience) : undefined;
  if (saved) return { search, audience: saved };
  if (!given.who) return { search };
  try {
    return { search, audience: { conditions: readGroup(JSON.parse(given.who)) } };
  } catch {
    return { search };
  }
}
