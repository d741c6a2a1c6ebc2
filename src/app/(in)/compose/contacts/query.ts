/** What the address of the list says is looked for. */
import 'server-only';
import type { Group } from '../../../../core/contacts/audience';
import type { Actor } from '../../../../operations/actor';
import { listAudiences, readGroup } from '../../../../operations/audiences';
import type { Windgap } from '../../../../operations/windgap';

export interface ListQuery {
  search: string;
  /** A saved audience, or conditions of one's own. */
  audience?: { id?: string; name?: string; conditions: Group };
}

export async function readListQuery(
  w: Windgap,
  actor: Actor,
  given: Record<string, string | undefined>,
): Promise<ListQuery> {
  const search = given.q ?? '';
  const saved = given.audience ? (await listAudiences(w, actor)).find(({ id }) => id === given.audience) : undefined;
  if (saved) return { search, audience: saved };
  if (!given.who) return { search };
  try {
    return { search, audience: { conditions: readGroup(JSON.parse(given.who)) } };
  } catch {
    return { search };
  }
}
