/** What happens to conversations: each turn is noted where people read them. */
import { newId } from '../../store/ids';
import type { Unit } from '../../store/store';
import { noteChanges } from '../context';

/** A line between the messages: who did what. */
export async function noteTurn(
  unit: Unit,
  conversation_id: string,
  by: string,
  at: number,
  text: string,
): Promise<void> {
  await unit.conversationNotes.insert([{ id: newId('not', at), conversation_id, at, by, kind: 'turn', text }]);
  await noteChanges(unit, at, [['conversation', conversation_id]]);
}

/** Closing twice changes nothing. */
export async function closeConversation(unit: Unit, id: string, by: string, at: number, why = ''): Promise<void> {
  const conversation = await unit.conversations.one({ id });
  if (!conversation || conversation.state === 'closed') return;
  await unit.conversations.change({ id }, { state: 'closed', closed_at: at, unread: 0, idle_noticed_at: null });
  await noteTurn(unit, id, by, at, why ? `closed it: ${why}` : 'closed it');
}
