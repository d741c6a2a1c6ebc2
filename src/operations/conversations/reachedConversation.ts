/** A conversation, for whoever reaches it. */
import type { ConversationRow } from '../../store/schema/rows';
import type { Store, Unit } from '../../store/store';
import { type Actor, found, requireReachedConversation } from '../context';

/** Throws `not-found` where there is none, and where it is for the members of a team alone. */
export async function reachedConversation(from: Store | Unit, actor: Actor, id: string): Promise<ConversationRow> {
  const row = found(await from.conversations.one({ id }), 'conversation');
  await requireReachedConversation(from, actor, id);
  return row;
}
