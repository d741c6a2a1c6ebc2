/**
 * Decides where messages go, in the unit that stores them: what decided, on which facts, is
 * kept with each. What a route does then is a run like any other. Where an app must be
 * asked first, the decision itself is a step of a run.
 */

import { languageOfCountry } from '../../core/addresses/display';
import type { Choices } from '../../core/delivery/choices';
import { groupBy } from '../../core/groupBy';
import { type Arrival, type ConversationState, prepare } from '../../core/routing/arrival';
import { decidePrepared } from '../../core/routing/decide';
import { plainWords } from '../../core/routing/keyword';
import { programOf } from '../../core/routing/program';
import { type Route, stepsOf } from '../../core/routing/route';
import { timeId } from '../../store/ids';
import type { ConversationRow, MessageRoutingRow, MessageRow, RunRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Unit } from '../../store/store';
import { emitMessageEvents } from '../apps/webhooks';
import { type AppContext, noteChanges } from '../context';
import { readOrganisation } from '../organisation';
import { type LiveRoutes, liveRoutes } from '../routes';
import { beginRuns, type RunInput } from '../runs';

/** So many runs of one route, or of all, for one person in ten minutes are no conversation but an echo. */
const ECHO_WINDOW = 10 * 60_000;
const ECHO_OF_ROUTE = 5;
const ECHO_OF_ALL = 12;
/** So many times as often from the handset of a delivery test. */
const ECHO_UNDER_TEST = 10;

export const DAY = 86_400_000;

/** `taken`: those that said a word about being written to. `before`: conversations as they stood. */
export async function routeMessages(
  ctx: AppContext,
  unit: Unit,
  messages: readonly MessageRow[],
  { taken, before, at }: { taken: ReadonlySet<string>; before: ReadonlyMap<string, ConversationRow>; at: number },
): Promise<void> {
  if (messages.length === 0) return;
  const live = await liveRoutes(ctx, unit);
  const answered = await answerAsked(
    unit,
    messages.filter(({ id, automatic }) => !taken.has(id) && automatic === null),
    at,
  );
  const facts = await arrivalsOf(unit, messages, before, at);
  const decided: Decided[] = [];
  const others: MessageRoutingRow[] = [];
  const asking: RunInput[] = [];
  for (const message of messages) {
    const arrival = facts.get(message.id);
    if (!arrival) continue;
    const row = { message_id: message.id, revision: live.number, routes: [], facts: arrival, cause: null, at };
    const asked = answered.get(message.id);
    if (message.automatic !== null) others.push({ ...row, outcome: 'automatic' });
    else if (taken.has(message.id)) others.push({ ...row, outcome: 'consent' });
    else if (asked) others.push({ ...row, outcome: 'answer', routes: [asked] });
    else {
      const decision = decidePrepared(live.compiled, prepare(arrival));
      if (decision.kind === 'decided') decided.push({ message, arrival, routes: decision.routes });
      else {
        others.push({ ...row, outcome: 'asking' });
        asking.push(decidingRun(message));
      }
    }
  }
  await unit.messageRoutings.insert(others);
  await beginRuns(unit, asking, at);
  await carryOut(unit, live, decided, at);
}

function decidingRun(message: MessageRow): RunInput {
  return {
    appId: '',
    source: 'route',
    sourceId: 'deciding',
    subjectId: message.id,
    contactId: message.contact_id,
    turn: message.sender,
    steps: [{ kind: 'route', do: 'decide' }],
  };
}

export interface Decided {
  message: MessageRow;
  arrival: Arrival;
  routes: readonly Route[];
}

/** Keeps what was decided and sets the steps going. Apps that are only told are told at once. */
export async function carryOut(
  unit: Unit,
  live: LiveRoutes,
  decided: readonly Decided[],
  at: number,
  { replace = false }: { replace?: boolean } = {},
): Promise<void> {
  if (decided.length === 0) return;
  const echoes = await echoesOf(unit, decided, at);
  const runs: RunInput[] = [];
  const told = new Map<string, MessageRow[]>();
  const rows = decided.map(({ message, arrival, routes }): MessageRoutingRow => {
    const held = routes.some((route) => acts(route) && echoes(message.contact_id, route.id));
    for (const route of routes) {
      const { apps, rest } = leadingApps(route);
      for (const app of apps) told.set(app, [...(told.get(app) ?? []), message]);
      if (rest.length > 0 && !held) runs.push(runOf(route, rest, message, live.number));
    }
    const silent = Object.values(arrival.open).includes('failed') ? 'look-up-failed' : null;
    const cause = held ? 'auto-reply-loop' : routes.length === 0 ? 'no-route' : silent;
    return {
      message_id: message.id,
      revision: live.number,
      outcome: held ? 'held' : routes.length === 0 ? 'unrouted' : 'routed',
      routes: routes.map(({ id, name }) => ({ id, name })),
      facts: arrival,
      cause,
      at,
    };
  });
  if (replace) for (const row of rows) await unit.messageRoutings.put(row);
  else await unit.messageRoutings.insert(rows);
  await countHits(unit, rows, at);
  await noteRoutes(unit, rows);
  for (const [app, messages] of told) await emitMessageEvents(unit, 'windgap.message.received', messages, at, [app]);
  await beginRuns(unit, runs, at);
  const unusual = rows.filter(({ outcome }) => outcome !== 'routed');
  await noteChanges(
    unit,
    at,
    unusual.map(({ message_id }) => ['routing', message_id] as const),
  );
}

function leadingApps({ steps }: Route): { apps: string[]; rest: Route['steps'] } {
  const end = steps.findIndex((step) => step.do !== 'tell');
  const leading = end < 0 ? steps : steps.slice(0, end);
  return {
    apps: leading.flatMap((step) => (step.do === 'tell' ? [step.app] : [])),
    rest: steps.slice(leading.length),
  };
}

function runOf(route: Route, steps: Route['steps'], message: MessageRow, revision: number): RunInput {
  return {
    appId: '',
    source: 'route',
    sourceId: route.id,
    subjectId: message.id,
    contactId: message.contact_id,
    turn: message.sender,
    stopsOnReply: route.stopsOnReply,
    steps: programOf(steps),
    memory: { revision: String(revision), route: route.name },
  };
}

/** Whether a route says anything to the person by itself. */
function acts({ steps }: Route): boolean {
  return stepsOf(steps).some((step) => step.do === 'reply' || step.do === 'ask');
}

/** Whether what a person sends comes so often that something on their side must be answering by itself. */
async function echoesOf(
  unit: Unit,
  decided: readonly Decided[],
  at: number,
): Promise<(contact: string, route: string) => boolean> {
  const contacts = [
    ...new Set(decided.flatMap(({ message, routes }) => (routes.some(acts) ? [message.contact_id] : []))),
  ];
  if (contacts.length === 0) return () => false;
  const rows = await unit.select<{ contact_id: string; source_id: string; n: number }>(
    `SELECT contact_id, source_id, count(*) AS n FROM runs WHERE contact_id IN (:contacts) AND source = 'route' AND created_at > :since
      AND source_id <> 'deciding' GROUP BY contact_id, source_id`,
    { contacts, since: at - ECHO_WINDOW },
  );
  if (rows.length === 0) return () => false;
  const tested = await contactsUnderTest(unit, decided, at - ECHO_WINDOW);
  return (contact, route) => {
    const own = rows.filter(({ contact_id }) => contact_id === contact);
    const ofRoute = own.find(({ source_id }) => source_id === route)?.n ?? 0;
    const allowance = tested.has(contact) ? ECHO_UNDER_TEST : 1;
    return ofRoute >= ECHO_OF_ROUTE * allowance || own.reduce((sum, { n }) => sum + n, 0) >= ECHO_OF_ALL * allowance;
  };
}

/** Delivery tests write the same again and again on purpose. */
async function contactsUnderTest(unit: Unit, decided: readonly Decided[], since: number): Promise<Set<string>> {
  const phones = await unit.select<{ phone: string | null }>(
    `SELECT DISTINCT content->>'$.stimulus.phone' AS phone FROM delivery_test_runs WHERE id > :since`,
    { since: timeId('dtr', since) },
  );
  const under = new Set(phones.map(({ phone }) => phone));
  return new Set(decided.flatMap(({ message }) => (under.has(message.sender) ? [message.contact_id] : [])));
}

/** So that the log can be asked for what a route took. */
async function noteRoutes(unit: Unit, rows: readonly MessageRoutingRow[]): Promise<void> {
  const pairs = rows.flatMap(({ message_id, routes }) => routes.map(({ id }) => [id, message_id]));
  if (pairs.length === 0) return;
  await unit.execute(
    'INSERT OR IGNORE INTO message_routes (route_id, message_id) SELECT value->>0, value->>1 FROM json_each(:pairs)',
    { pairs: JSON.stringify(pairs) },
  );
}

async function countHits(unit: Unit, rows: readonly MessageRoutingRow[], at: number): Promise<void> {
  const hits = new Map<string, number>();
  for (const { routes } of rows) for (const { id } of routes) hits.set(id, (hits.get(id) ?? 0) + 1);
  if (hits.size === 0) return;
  await unit.execute(
    `INSERT INTO route_hits (route_id, day, hits) SELECT value->>0, :day, value->>1 FROM json_each(:hits) WHERE true
       ON CONFLICT (route_id, day) DO UPDATE SET hits = hits + excluded.hits`,
    { day: Math.floor(at / DAY), hits: JSON.stringify([...hits]) },
  );
}

/** Whoever names another message than the question does not answer the question. */
function mayAnswer(run: RunRow, { in_reply_to: named }: MessageRow): boolean {
  const question = run.memory[`question.${run.next}`];
  return named === null || !question || named === question;
}

/**
 * Gives answers to the runs that wait for them, one message to one run, and gives up what
 * ends when the person writes. Returns by message which route had asked.
 */
async function answerAsked(
  unit: Unit,
  messages: readonly MessageRow[],
  at: number,
): Promise<Map<string, { id: string; name: string }>> {
  const answers = new Map<string, { id: string; name: string }>();
  if (messages.length === 0) return answers;
  const rows = unit.runs.read(
    await unit.select<RunRow>(
      `SELECT * FROM runs WHERE contact_id IN (SELECT value FROM json_each(:contacts)) AND (awaiting = 1 OR stops_on_reply = 1)
         AND state IN ('due', 'waiting') ORDER BY id DESC`,
      { contacts: JSON.stringify([...new Set(messages.map(({ contact_id }) => contact_id))]) },
    ),
  );
  const open = new Map(rows.map((row) => [row.id, row]));
  for (const message of messages) {
    const mine = [...open.values()].filter(({ contact_id }) => contact_id === message.contact_id);
    const asker = mine.find((run) => run.awaiting === 1 && mayAnswer(run, message));
    if (asker) {
      open.delete(asker.id);
      const memory = {
        ...asker.memory,
        [`answer.${asker.next}`]: message.text,
        [`answered by.${asker.next}`]: message.id,
      };
      await unit.runs.change({ id: asker.id }, { memory, awaiting: 0, due_at: at, state: 'due' });
      answers.set(message.id, { id: asker.source_id, name: asker.memory.route ?? '' });
    }
    for (const run of mine.filter((each) => each !== asker && each.stops_on_reply === 1 && each.state === 'waiting')) {
      open.delete(run.id);
      const said = 'The person wrote again, so the rest was given up';
      await unit.runs.change(
        { id: run.id },
        { state: 'cancelled', ended_at: at, results: [...run.results, { step: run.next, at, did: 'failed', said }] },
      );
    }
  }
  return answers;
}

/** What is known of each message, by its id. */
export async function arrivalsOf(
  unit: Tables & Pick<Unit, 'select'>,
  messages: readonly MessageRow[],
  before: ReadonlyMap<string, ConversationRow>,
  at: number,
): Promise<Map<string, Arrival>> {
  const contactIds = [...new Set(messages.map(({ contact_id }) => contact_id))];
  const [contacts, tags, attributes, outbound, organisation] = await Promise.all([
    unit.contacts.allBy('id', contactIds),
    unit.contactTags.allBy('contact_id', contactIds),
    unit.contactAttributes.allBy('contact_id', contactIds),
    answeredOffers(unit, messages),
    readOrganisation(unit),
  ]);
  const tagsOf = groupBy(tags, ({ contact_id }) => contact_id);
  const attributesOf = groupBy(attributes, ({ contact_id }) => contact_id);
  const contactOf = new Map(contacts.map((row) => [row.id, row]));
  const seen = new Set<string>();
  return new Map(
    messages.map((message) => {
      const contact = contactOf.get(message.contact_id);
      const first = contact?.created_at === at && !seen.has(message.contact_id);
      seen.add(message.contact_id);
      const template = outbound.get(message.id);
      return [
        message.id,
        {
          text: message.text,
          channel: message.channel_id,
          at: message.created_at,
          known: !first,
          tags: (tagsOf.get(message.contact_id) ?? []).map(({ tag }) => tag),
          attributes: Object.fromEntries(
            (attributesOf.get(message.contact_id) ?? []).map(({ name, value }) => [name, value]),
          ),
          language: contact?.language ?? languageOfCountry(contact?.country) ?? organisation.language,
          media: message.media !== null,
          conversation: stateFor(before.get(message.conversation_id)),
          answers: template?.id,
          button: template?.replies.find((label) => plainWords(label) === plainWords(message.text)),
          open: {},
        } satisfies Arrival,
      ];
    }),
  );
}

function stateFor(conversation: ConversationRow | undefined): ConversationState {
  return !conversation || conversation.state === 'quiet' ? 'new' : conversation.state;
}

/**
 * What each message answers: the template, where it is one, and the answers that could be pressed. Of the message it names,
 * or where it names none, of what went out last over the same channel.
 */
async function answeredOffers(
  unit: Tables & Pick<Unit, 'select'>,
  messages: readonly MessageRow[],
): Promise<Map<string, { id?: string; replies: string[] }>> {
  const rows = await unit.select<{ id: string; template: string | null; choices: string | null }>(
    `SELECT value->>0 AS id, m.template, m.choices
       FROM json_each(:messages) JOIN messages m ON m.id = coalesce(value->>3,
              (SELECT o.id FROM messages o WHERE o.conversation_id = value->>1 AND o.channel_id = value->>2
                  AND o.direction = 'out' ORDER BY o.id DESC LIMIT 1))`,
    {
      messages: JSON.stringify(
        messages.map(({ id, conversation_id, channel_id, in_reply_to }) => [
          id,
          conversation_id,
          channel_id,
          in_reply_to,
        ]),
      ),
    },
  );
  const used = new Map<string, { id: string; version: number; language: string }>();
  for (const { id, template } of rows)
    if (template) used.set(id, JSON.parse(template) as { id: string; version: number; language: string });
  const versions = await unit.templateVersions.allBy('template_id', [
    ...new Set([...used.values()].map(({ id }) => id)),
  ]);
  const offered = rows.flatMap(({ id, choices }) =>
    choices ? [[id, { replies: (JSON.parse(choices) as Choices).labels }] as const] : [],
  );
  return new Map<string, { id?: string; replies: string[] }>([
    ...offered,
    ...[...used].map(([message, { id, version, language }]) => {
      const content = versions.find((row) => row.template_id === id && row.number === version)?.content;
      const variant = content?.variants.find((each) => each.language === language);
      const replies = variant?.buttons.flatMap(({ kind, label }) => (kind === 'quick-reply' ? [label] : [])) ?? [];
      return [message, { id, replies }] as const;
    }),
  ]);
}
