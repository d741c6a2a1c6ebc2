/** The step of a route that assigns a conversation: to a person, a team, its people in turn, or the owner of a record. */
import type { Assignee } from '../../core/routing/route';
import type { Outcome } from '../../core/steps/run';
import type { MessageRow, RunRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import type { AppContext } from '../context';
import { noteTurn } from '../threads';
import { refused } from './routeStepContext';

export async function assign(ctx: AppContext, whom: Assignee, run: RunRow, message: MessageRow): Promise<Outcome> {
  // The app is asked before the unit begins, which would make all writes wait for its answer.
  const owner = whom.to === 'owner' ? await recordOwner(ctx, whom, message.sender) : undefined;
  const at = ctx.now();
  return ctx.store.write(async (unit): Promise<Outcome> => {
    const to = await assigneeOf(unit, whom, owner);
    if ('problem' in to) return refused('nobody-to-assign', to.problem, 'Choose somebody else in the route.');
    await unit.conversations.change(
      { id: message.conversation_id },
      { assigned_to: to.person ?? null, team: to.team ?? null },
    );
    await noteTurn(unit, message.conversation_id, run.memory.route ?? 'A route', at, `assigned it to ${to.words}`);
    return { kind: 'done', said: `Assigned to ${to.words}` };
  });
}

type Chosen = { person?: string; team?: string; words: string } | { problem: string };

/** `owner`: of the person's record, as the app calls them. */
async function assigneeOf(unit: Unit, whom: Assignee, owner: string | undefined): Promise<Chosen> {
  if (whom.to === 'team') return { team: whom.name, words: `the team ${whom.name}` };
  const people = await unit.users.all({ disabled_at: null });
  if (whom.to === 'person') {
    const person = people.find(({ id }) => id === whom.id);
    return person ? { person: person.id, words: person.name } : { problem: 'The person it is to be given to is gone.' };
  }
  if (whom.to === 'turn') {
    const members = new Set((await unit.teamMembers.all({ team: whom.name })).map(({ user_id }) => user_id));
    const team = people.filter(({ id }) => members.has(id));
    if (team.length === 0) return { problem: `Nobody is in the team ${whom.name}.` };
    // Whoever has the fewest open ones is next; among equals, whoever was given one longest ago.
    const loads = await unit.select<{ id: string; n: number; last: number }>(
      `SELECT assigned_to AS id, sum(state IN ('open', 'waiting')) AS n, max(last_message_at) AS last FROM conversations
        WHERE assigned_to IN (:ids) GROUP BY assigned_to`,
      { ids: team.map(({ id }) => id) },
    );
    const load = (id: string) => loads.find((row) => row.id === id) ?? { n: 0, last: 0 };
    const [next] = team.sort((a, b) => load(a.id).n - load(b.id).n || load(a.id).last - load(b.id).last);
    return next ? { person: next.id, team: whom.name, words: next.name } : { problem: 'Nobody is in the team.' };
  }
  return ownerAmong(people, owner);
}

function ownerAmong(people: readonly { id: string; name: string; email: string }[], owner: string | undefined): Chosen {
  if (owner === undefined) return { problem: 'The app does not say who owns the record of this person.' };
  const same = (text: string) => text.trim().toLowerCase() === owner.trim().toLowerCase();
  const person = people.find(({ email, name }) => same(email) || same(name));
  return person
    ? { person: person.id, words: `${person.name}, who owns the record` }
    : { problem: `${owner} owns the record and is not one of the people here.` };
}

async function recordOwner(
  ctx: AppContext,
  { app, record }: { app: string; record: string },
  phone: string,
): Promise<string | undefined> {
  const account = await ctx.store.appAccounts.one({ app_id: app });
  if (!account) return undefined;
  const answer = await ctx.apps.get(account.connector).find(ctx.sealer.open(account.sealed_credentials), record, phone);
  return answer.ok ? answer.value?.owner : undefined;
}
