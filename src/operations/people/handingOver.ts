/** What somebody leaves behind who is switched off, and who gets it. */
import { newId } from '../../store/ids';
import type { UserRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { ANY, noteChanges } from '../context';

export interface HandedOver {
  conversations: number;
  todos: number;
  /** What they set up that goes on by itself. */
  automations: string[];
}

const NAMED = 20;

/**
 * Gives their open conversations and to-dos to an heir, or to nobody in particular. What they set up and still works goes
 * on; a to-do names it, so that somebody knows it is theirs to see to.
 */
export async function handOver(
  unit: Unit,
  user: UserRow,
  heir: Pick<UserRow, 'id'> | undefined,
  at: number,
): Promise<HandedOver> {
  const values = { heir: heir?.id ?? null, id: user.id };
  const conversations = await unit.execute(
    'UPDATE conversations SET assigned_to = :heir WHERE assigned_to = :id',
    values,
  );
  const todos = await unit.execute(
    'UPDATE todos SET assigned_to = :heir WHERE assigned_to = :id AND done_at IS NULL',
    values,
  );
  await unit.execute('DELETE FROM conversation_presence WHERE user_id = :id', values);
  const automations = await automationsOf(unit, user.id);
  if (automations.length > 0)
    await unit.todos.insert([
      {
        id: newId('tdo', at),
        contact_id: null,
        title: `See to what ${user.name} set up: ${automations.slice(0, NAMED).join(', ')}`,
        why: 'They were switched off. This goes on by itself, and nobody else may know of it.',
        ref: null,
        created_at: at,
        by: 'Windgap',
        done_at: null,
        done_by: null,
        assigned_to: heir?.id ?? null,
      },
    ]);
  await noteChanges(unit, at, [
    ['conversation', ANY],
    ['todo', 'open'],
  ]);
  return { conversations, todos, automations };
}

/** Send hooks, sheets, feeds, record actions, telephone systems and delivery tests that somebody touched last and that are on. */
async function automationsOf(unit: Unit, userId: string): Promise<string[]> {
  const rows = await unit.select<{ name: string }>(
    `SELECT x.name FROM (
        SELECT id, name FROM send_hooks WHERE disabled_at IS NULL
        UNION ALL SELECT id, name FROM sheets WHERE disabled_at IS NULL
        UNION ALL SELECT id, name FROM feeds WHERE disabled_at IS NULL
        UNION ALL SELECT id, name FROM record_actions WHERE disabled_at IS NULL
        UNION ALL SELECT id, name FROM phone_systems WHERE disabled_at IS NULL
        UNION ALL SELECT id, name FROM delivery_tests WHERE archived_at IS NULL) x
      WHERE (SELECT a.actor_id FROM audit_entries a WHERE a.subject_id = x.id AND a.actor_kind = 'user'
              ORDER BY a.id DESC LIMIT 1) = :userId
      ORDER BY x.name`,
    { userId },
  );
  return rows.map(({ name }) => name);
}
