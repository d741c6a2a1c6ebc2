/**
 * What a test sets going in the installation ends with it: nobody finds a test among the
 * conversations to see to, and no question of a test takes the next text for its answer.
 */

import { cancel } from '../../core/steps/run';
import { timeId } from '../../store/ids';
import { type AppContext, SYSTEM } from '../context';
import { holdersOf, phone } from '../identities';
import { columnsOf, runOf } from '../runs';
import { closeConversation } from '../threads';

const OPEN = ['open', 'waiting'] as const;

/** Ids of the conversations with these phones that are open. */
export async function openWith(ctx: AppContext, phones: Iterable<string>): Promise<ReadonlySet<string>> {
  const people = [...(await holdersOf(ctx.store, [...phones].map(phone))).values()];
  const conversations = await ctx.store.conversations.allBy(
    'contact_id',
    people.map(({ contact_id }) => contact_id),
    ['id', 'state'],
  );
  return new Set(conversations.flatMap(({ id, state }) => (OPEN.some((each) => each === state) ? [id] : [])));
}

/**
 * Closes the conversations that the messages of a test opened and gives up what routes still
 * have to do for them. `test`: such as `the delivery test “Echo”`, begun at `since`. `before`:
 * those that were open already, which are somebody's work.
 */
export async function tidyAfter(
  ctx: AppContext,
  { test, since }: { test: string; since: number },
  messages: readonly string[],
  before: ReadonlySet<string>,
): Promise<void> {
  const own = await ctx.store.messages.allBy('id', messages, ['conversation_id']);
  const touched = [...new Set(own.map(({ conversation_id }) => conversation_id))].filter((id) => !before.has(id));
  const opened: string[] = [];
  for (const id of touched) if (!(await othersWrote(ctx, id, since, messages))) opened.push(id);
  const runs = await ctx.store.runs.allBy('subject_id', messages);
  const unfinished = runs.filter(({ source, state }) => source === 'route' && state === 'waiting');
  if (opened.length + unfinished.length === 0) return;
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    for (const run of unfinished)
      await unit.runs.change(
        { id: run.id, state: 'waiting' },
        {
          ...columnsOf(cancel(runOf(run), at, `${test.charAt(0).toUpperCase()}${test.slice(1)} has ended`)),
          awaiting: 0,
          ended_at: at,
        },
      );
    for (const id of opened)
      if ((await unit.conversations.count({ id, state: [...OPEN] })) > 0)
        await closeConversation(unit, id, SYSTEM.name, at, `${test} is over`);
  });
}

/** Whether something came into a conversation since then that is not among `own`. */
async function othersWrote(ctx: AppContext, id: string, since: number, own: readonly string[]): Promise<boolean> {
  // The plus keeps SQLite from looking through everything that came in since.
  const came = await ctx.store.select<{ id: string }>(
    `SELECT id FROM messages WHERE conversation_id = :id AND id >= :from AND +direction = 'in'`,
    { id, from: timeId('msg', since) },
  );
  return came.some((message) => !own.includes(message.id));
}
