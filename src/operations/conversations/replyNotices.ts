/** A mail to whoever has a conversation, when the person writes and nobody is at it. */
import { displayAddress } from '../../core/addresses/display';
import type { ConversationRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import type { AppContext } from '../context';
import { MAIL_SETTING } from '../people';
import { beginRuns, type RunInput } from '../runs';

/** `before`: conversations as they stood. One mail until it was read, however much more comes. */
export async function mailAssignees(
  ctx: AppContext,
  unit: Unit,
  messages: readonly MessageRow[],
  { before, at }: { before: ReadonlyMap<string, ConversationRow>; at: number },
): Promise<void> {
  const first = new Map<string, MessageRow>();
  for (const message of messages) {
    const conversation = before.get(message.conversation_id);
    if (conversation?.assigned_to && conversation.unread === 0 && !first.has(message.conversation_id))
      first.set(message.conversation_id, message);
  }
  if (first.size === 0 || !(await unit.settings.one({ name: MAIL_SETTING }))) return;
  const people = new Map((await unit.users.all({ mail_me: 1, disabled_at: null })).map((row) => [row.id, row]));
  const runs: RunInput[] = [];
  for (const [id, message] of first) {
    const person = people.get(before.get(id)?.assigned_to ?? '');
    if (!person) continue;
    const contact = await unit.contacts.one({ id: message.contact_id });
    const who = contact?.name ?? displayAddress(message.sender);
    const text = `${who} wrote:\n\n${message.text}\n\n${ctx.config.publicUrl}/route/conversations/${id}`;
    runs.push({
      appId: '',
      source: 'notice',
      sourceId: id,
      subjectId: message.id,
      steps: [{ kind: 'notify', to: [person.email], subject: `${who} wrote`, text }],
    });
  }
  await beginRuns(unit, runs, at);
}
