/** The routes of the demonstration, and what they decided of the messages of the past week. */

import { compileSet, decide } from '../src/core/routing/decide';
import type { OfficeHours } from '../src/core/routing/hours';
import type { Route, RouteSet } from '../src/core/routing/route';
import { SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { putIntoTeams } from '../src/operations/people/teams';
import { DEFAULT_ROUTE_NAME, newRoute, publishDraft, saveDraft } from '../src/operations/routes/routes';
import { arrivalsOf, DAY } from '../src/operations/routing/routing';

const OFFICE: OfficeHours = {
  id: 'hrs_harbour',
  name: 'the harbour office',
  zone: 'Europe/London',
  week: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '08:00', to: '18:00' }],
  exceptions: [
    { date: '2026-12-25', name: 'Christmas Day', openings: [] },
    { date: '2026-12-26', name: 'Boxing Day', openings: [{ from: '10:00', to: '14:00' }] },
  ],
};

function routesFor(appId: string, passagesOn: string): RouteSet {
  const passages: Route = {
    ...newRoute('rte_passages', 'Lock passages'),
    when: { match: 'all', of: [{ on: 'keyword', way: 'begins', words: ['lock', 'sluss', 'écluse'] }] },
    steps: [{ do: 'tell', app: appId }],
  };
  const incidents: Route = {
    ...newRoute('rte_incidents', 'Something is in the way'),
    when: {
      match: 'any',
      of: [{ on: 'keyword', way: 'contains', words: ['incident', 'tree', 'stuck', 'aground', 'adrift'] }],
    },
    steps: [
      { do: 'tag', tag: 'incident', remove: false },
      { do: 'assign', whom: { to: 'team', name: 'Keepers' } },
      { do: 'tell', app: appId },
    ],
  };
  const night: Route = {
    ...newRoute('rte_night', 'First word out of hours'),
    when: {
      match: 'all',
      of: [
        { on: 'channel', ids: [passagesOn] },
        { on: 'hours', id: OFFICE.id, open: false },
        { on: 'conversation', states: ['new', 'closed'] },
        { on: 'sender', known: false },
      ],
    },
    steps: [
      {
        do: 'reply',
        text: 'Thank you. The harbour office answers from 8 in the morning. If a boat or a person is in danger, ring the duty keeper at +44 20 7946 0188.',
      },
    ],
  };
  const rest: Route = { ...newRoute('rte_rest', DEFAULT_ROUTE_NAME), steps: [{ do: 'tell', app: appId }] };
  return { routes: [passages, incidents, night, rest], hours: [OFFICE] };
}

/** Published a week ago, so that the week's messages were decided by them. */
export async function setUpRoutes(
  ctx: AppContext,
  { app, locks }: { app: { id: string }; locks: { id: string } },
  now: number,
): Promise<void> {
  const { changedAt } = await saveDraft(ctx, SYSTEM, routesFor(app.id, locks.id), undefined);
  const { number } = await publishDraft(ctx, SYSTEM, {
    note: 'Passages, incidents, and a word at night',
    seen: changedAt,
  });
  await ctx.store.write(async (unit) => {
    await unit.execute('UPDATE route_revisions SET published_at = :at - 86400000 * (:newest - number)', {
      at: now - 8 * DAY,
      newest: number,
    });
    await unit.execute(
      `UPDATE conversations SET last_inbound_at = (SELECT max(created_at) FROM messages m WHERE m.conversation_id = conversations.id AND m.direction = 'in')`,
    );
    await unit.execute(
      `UPDATE conversations SET state = CASE WHEN last_message_at < :before THEN 'closed' WHEN last_direction = 'in' THEN 'open' ELSE 'waiting' END,
         closed_at = CASE WHEN last_message_at < :before THEN last_message_at + 86400000 END WHERE last_inbound_at IS NOT NULL`,
      { before: now - 3 * DAY },
    );
    for (const { id, role } of await unit.users.all())
      await putIntoTeams(unit, id, [role === 'agent' ? 'Keepers' : 'Office'], now);
    const row = await unit.routeRevisions.one({ number });
    const compiled = compileSet(row?.content as RouteSet);
    const messages = await unit.messages.all({ direction: 'in' }, { order: [['id', 'ASC']] });
    const facts = await arrivalsOf(unit, messages, new Map(), 0);
    const hits = new Map<string, number>();
    await unit.messageRoutings.insert(
      messages.flatMap((message) => {
        const arrival = facts.get(message.id);
        if (!arrival) return [];
        const decision = decide(compiled, { ...arrival, conversation: 'open' });
        const routes = decision.kind === 'decided' ? decision.routes.map(({ id, name }) => ({ id, name })) : [];
        for (const { id } of routes) {
          const key = `${id} ${Math.floor(message.created_at / DAY)}`;
          hits.set(key, (hits.get(key) ?? 0) + 1);
        }
        return [
          {
            message_id: message.id,
            revision: number,
            outcome: 'routed' as const,
            routes,
            facts: { ...arrival, conversation: 'open' as const },
            cause: null,
            at: message.created_at,
          },
        ];
      }),
    );
    await unit.execute(
      `INSERT OR IGNORE INTO message_routes (route_id, message_id)
        SELECT value->>'$.id', message_id FROM message_routings, json_each(message_routings.routes)`,
    );
    for (const [key, n] of hits) {
      const [route, day] = key.split(' ');
      await unit.execute('INSERT INTO route_hits (route_id, day, hits) VALUES (:route, :day, :n)', {
        route,
        day: Number(day),
        n,
      });
    }
  });
}
