/** The change table: what the browser is told has changed, whichever process changed it. */
import type { MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import type { AppContext } from './appContext';

export type Topic =
  | 'routes'
  | 'routing'
  | 'replay'
  | 'todo'
  | 'readiness'
  | 'message'
  | 'conversation'
  | 'account'
  | 'channel'
  | 'app'
  | 'delivery'
  | 'inbound'
  | 'trunk'
  | 'run'
  | 'template'
  | 'contact'
  | 'import'
  | 'test'
  | 'drill'
  | 'queue'
  | 'broadcast'
  | 'limits'
  | 'door'
  | 'trial';

export interface Change {
  id: number;
  topic: Topic;
  subject: string;
}

/** Stands for every subject of a topic: who shows any of them looks again. */
export const ANY = '*';
/** More subjects of one topic than this in one unit are noted as any. */
const MOST_NAMED = 20;

/** Notes changes inside the unit that makes them; repeats inside one unit count once. */
export async function noteChanges(unit: Unit, at: number, changes: Iterable<readonly [Topic, string]>): Promise<void> {
  const subjects = new Map<Topic, Set<string>>();
  for (const [topic, subject] of changes) {
    const known = subjects.get(topic);
    if (known) known.add(subject);
    else subjects.set(topic, new Set([subject]));
  }
  await unit.changes.insert(
    [...subjects].flatMap(([topic, named]) =>
      (named.size > MOST_NAMED ? [ANY] : [...named]).map((subject_id) => ({ at, topic, subject_id })),
    ),
  );
}

/** Messages that changed, each with the conversation it stands in. */
export function noteMessages(
  unit: Unit,
  at: number,
  messages: readonly Pick<MessageRow, 'id' | 'conversation_id'>[],
): Promise<void> {
  return noteChanges(
    unit,
    at,
    messages.flatMap(({ id, conversation_id }) => [
      ['message', id] as const,
      ['conversation', conversation_id] as const,
    ]),
  );
}

export async function latestChangeId(ctx: AppContext): Promise<number> {
  const [row] = await ctx.store.select<{ id: number | null }>('SELECT max(id) AS id FROM changes');
  return row?.id ?? 0;
}

export function changesAfter(ctx: AppContext, id: number): Promise<Change[]> {
  return ctx.store.select<Change>(
    'SELECT id, topic, subject_id AS subject FROM changes WHERE id > :id ORDER BY id LIMIT 500',
    { id },
  );
}

/** Nobody reads a change after it has been passed on; a few minutes are kept for browsers that reconnect. */
export async function pruneChanges(ctx: AppContext): Promise<void> {
  await ctx.store.write((unit) =>
    unit.execute('DELETE FROM changes WHERE at < :before', { before: ctx.now() - 10 * 60_000 }),
  );
}
