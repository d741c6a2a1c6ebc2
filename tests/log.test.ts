/** The log's filters against a plain reading of the same rows; its pages, its files, its kept views. */
import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { addIdentities, phone } from '../src/operations/identities';
import { logChoices } from '../src/operations/log/logChoices';
import { exportMessages, listMessages, type MessageFilter } from '../src/operations/log/messageLog';
import { getFlow } from '../src/operations/log/traffic';
import { keepListView, listViews, removeListView } from '../src/operations/shell/listViews';
import { newId, pastId, timeId } from '../src/store/ids';
import { connectMossgate, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';

interface Row {
  id: string;
  direction: 'in' | 'out';
  contact: string;
  name: string;
  country: string;
  text: string;
  state: string;
  cause: string | null;
  origin: string | null;
  route: string | null;
  outcome: 'routed' | 'unrouted' | 'held' | null;
  at: number;
}

let house: Installation;
let mossgate: Mossgate;
let rows: Row[];
const viewer: Actor = { kind: 'user', id: 'usr_x', name: 'Viewer', role: 'viewer' };
const HOUR = 3_600_000;

/** Repeatable. */
function random(seed: number): (most: number) => number {
  let state = seed;
  return (most) => {
    state = (Math.imul(state, 48271) + 11) & 0x7fffffff;
    return Math.floor((state / 0x80000000) * most);
  };
}

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  mossgate = await connectMossgate(house);
  const { ctx } = house;
  const next = random(17);
  const now = ctx.now();
  const people = ['Ines Calder', 'Tomas Lindqvist', 'Odile Marchand', 'Ada Fenn'].map((name, n) => ({
    id: newId('con', now - 100 * HOUR),
    conversation: newId('cnv', now - 100 * HOUR),
    name,
    country: ['GB', 'SE', 'FR', 'GB'][n] as string,
    phone: `+4477009001${n}1`,
  }));
  const words = ['Lock', 'écluse', 'passage', 'lockkeeper', '=cmd|calc', '“quoted”, comma', 'stoppage'];
  rows = Array.from({ length: 400 }, (_, n): Row & { person: (typeof people)[number] } => {
    const person = people[next(4)] as (typeof people)[number];
    const at = now - (400 - n) * 600_000;
    const inbound = next(3) === 0;
    const failed = !inbound && next(4) === 0;
    return {
      id: pastId('msg', at),
      person,
      direction: inbound ? 'in' : 'out',
      contact: person.id,
      name: person.name,
      country: person.country,
      text: `${words[next(7)]} ${words[next(7)]} ${n}`,
      state: inbound ? 'received' : failed ? 'failed' : (['sent', 'delivered', 'read'][next(3)] as string),
      cause: failed ? (['credit-gone', 'handset-unreachable'][next(2)] as string) : null,
      origin: inbound ? null : next(2) ? mossgate.appId : 'usr_1',
      route: inbound ? (['rte_a', 'rte_b', null][next(3)] ?? null) : null,
      outcome: inbound ? 'routed' : null,
      at,
    };
  }).map(({ person: _, ...row }) => ({
    ...row,
    outcome: row.direction === 'in' && row.route === null ? 'unrouted' : row.outcome,
  }));
  await ctx.store.write(async (unit) => {
    for (const person of people) {
      await unit.execute(
        'INSERT INTO contacts (id, name, country, created_at) VALUES (:id, :name, :country, 1)',
        person,
      );
      await addIdentities(unit, [{ ...phone(person.phone), contactId: person.id }], {
        at: 1,
        source: 'wrote',
        why: 'They wrote from it.',
        by: 'Windgap',
      });
      await unit.execute(
        `INSERT INTO conversations (id, contact_id, channel_id, last_message_at, last_text, last_direction) VALUES (:conversation, :id, :channel, 1, '', 'in')`,
        { ...person, channel: mossgate.channel.id },
      );
    }
    for (const row of rows) {
      const person = people.find(({ id }) => id === row.contact) as (typeof people)[number];
      await unit.execute(
        `INSERT INTO messages (id, direction, conversation_id, contact_id, channel_id, sender, recipient, text, encoding, parts, state, state_at, state_rank, cause, origin_kind, origin_id, created_at)
         VALUES (:id, :direction, :conversation, :contact, :channel, '+442079460114', :phone, :text, 'GSM-7', 1, :state, :at, 1, :cause, :kind, :origin, :at)`,
        {
          ...row,
          conversation: person.conversation,
          phone: person.phone,
          channel: mossgate.channel.id,
          kind: row.origin === mossgate.appId ? 'app' : 'user',
        },
      );
      if (row.outcome)
        await unit.execute(
          `INSERT INTO message_routings (message_id, revision, outcome, routes, facts, at) VALUES (:id, 1, :outcome, '[]', '{}', :at)`,
          { id: row.id, outcome: row.outcome, at: row.at },
        );
      if (row.route)
        await unit.execute('INSERT INTO message_routes (route_id, message_id) VALUES (:route, :id)', {
          id: row.id,
          route: row.route,
        });
    }
  });
});
afterAll(() => house.stop());

async function allPages(filter: MessageFilter): Promise<string[]> {
  const ids: string[] = [];
  let before: string | undefined;
  do {
    const page = await listMessages(house.ctx, SYSTEM, { ...filter, before, limit: 37 });
    ids.push(...page.messages.map(({ id }) => id));
    before = page.next;
  } while (before);
  return ids;
}

const has = (row: Row, word: string) =>
  row.text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .some((each) => each === word);

test('what comes late is found by its time, whatever its id says', async () => {
  const { ctx } = house;
  const at = (rows[50]?.at ?? 0) + 1;
  const id = newId('msg', at);
  await ctx.store.write((unit) =>
    unit.execute(
      `INSERT INTO messages (id, direction, conversation_id, contact_id, channel_id, sender, recipient, text, encoding, parts, state, state_at, state_rank, origin_kind, created_at)
       SELECT :id, 'in', conversation_id, contact_id, channel_id, sender, recipient, 'late', 'GSM-7', 1, 'received', :at, 1, 'provider', :at FROM messages LIMIT 1`,
      { id, at },
    ),
  );
  const found = async (since: number, until?: number) =>
    (await listMessages(ctx, SYSTEM, { since, until, search: 'late' })).messages.map((message) => message.id);
  expect(await found(at, at + 1)).toEqual([id]);
  expect((await listMessages(ctx, SYSTEM, { since: at, until: at + 1 })).messages.map((message) => message.id)).toEqual(
    [id],
  );
  expect(await found(at + 1)).toEqual([]);
  // The index of words follows what is changed and lets go of what is deleted.
  const counted = async (word: string) =>
    (await ctx.store.select(`SELECT rowid FROM message_words WHERE message_words MATCH :word`, { word })).length;
  await ctx.store.write((unit) => unit.execute(`UPDATE messages SET text = 'belated' WHERE id = :id`, { id }));
  expect([await counted('late'), await counted('belated')]).toEqual([0, 1]);
  await ctx.store.write((unit) => unit.execute('DELETE FROM messages WHERE id = :id', { id }));
  expect(await counted('belated')).toBe(0);
  expect(await ctx.store.select('SELECT n FROM message_numbers WHERE message_id = :id', { id })).toEqual([]);
});

describe('each filter, over all its pages, newest first', () => {
  const at = (n: number) => rows[n]?.at ?? 0;
  test.each<[string, () => MessageFilter, (row: Row) => boolean]>([
    ['none', () => ({}), () => true],
    ['direction', () => ({ direction: 'in' }), ({ direction }) => direction === 'in'],
    ['state', () => ({ state: 'read' }), ({ state }) => state === 'read'],
    ['cause', () => ({ cause: 'credit-gone' }), ({ cause }) => cause === 'credit-gone'],
    ['country', () => ({ country: 'SE' }), ({ country }) => country === 'SE'],
    ['app', () => ({ origin: mossgate.appId }), ({ origin }) => origin === mossgate.appId],
    ['somebody is no app', () => ({ origin: 'usr_1' }), () => false],
    ['route', () => ({ route: 'rte_a' }), ({ route }) => route === 'rte_a'],
    ['unrouted', () => ({ routing: 'unrouted' }), ({ outcome }) => outcome === 'unrouted'],
    ['a time', () => ({ since: at(100), until: at(200) }), (row) => row.at >= at(100) && row.at < at(200)],
    ['a word, whatever its case', () => ({ search: 'LOCK ' }), (row) => has(row, 'lock') || has(row, 'lockkeeper')],
    ['a word without its accent', () => ({ search: 'ecluse' }), (row) => has(row, 'ecluse')],
    ['two words', () => ({ search: 'stoppage passage' }), (row) => has(row, 'stoppage') && has(row, 'passage')],
    ['signs alone', () => ({ search: '“”' }), () => false],
    ['a number', () => ({ search: '+44 7700 900 121' }), ({ name }) => name === 'Odile Marchand'],
    ['a name', () => ({ search: '@tomas' }), ({ name }) => name === 'Tomas Lindqvist'],
    [
      'a word, a country and a state',
      () => ({ search: 'passage', country: 'GB', state: 'failed' }),
      (row) => has(row, 'passage') && row.country === 'GB' && row.state === 'failed',
    ],
    [
      'a word and a route',
      () => ({ search: 'passage', route: 'rte_b' }),
      (row) => has(row, 'passage') && row.route === 'rte_b',
    ],
    [
      'a route and a country',
      () => ({ route: 'rte_b', country: 'FR' }),
      (row) => row.route === 'rte_b' && row.country === 'FR',
    ],
    [
      'unrouted of a person',
      () => ({ routing: 'unrouted', search: '@ada' }),
      (row) => row.outcome === 'unrouted' && row.name === 'Ada Fenn',
    ],
  ])('%s', async (_, filter, holds) => {
    const expected = rows
      .filter(holds)
      .map(({ id }) => id)
      .reverse();
    expect(await allPages(filter())).toEqual(expected);
  });
});

test('as a file: every row once, formulas taken the edge off; and only for administrators', async () => {
  let csv = '';
  for await (const piece of exportMessages(house.ctx, SYSTEM, { format: 'csv', direction: 'out' })) csv += piece;
  const read = parse(csv, { columns: true, bom: true }) as Record<string, string>[];
  const outbound = rows.filter(({ direction }) => direction === 'out').reverse();
  expect(read.map(({ id }) => id)).toEqual(outbound.map(({ id }) => id));
  expect(read.filter(({ text }) => /^[=+@-]/.test(text ?? ''))).toEqual([]);
  expect(read.some(({ text }) => text?.includes('“quoted”, comma'))).toBe(true);
  let lines = '';
  for await (const piece of exportMessages(house.ctx, SYSTEM, { format: 'jsonl', country: 'FR' })) lines += piece;
  expect(
    lines
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { id: string }).id),
  ).toEqual(
    rows
      .filter(({ country }) => country === 'FR')
      .map(({ id }) => id)
      .reverse(),
  );
  await expect(exportMessages(house.ctx, viewer, { format: 'csv' }).next()).rejects.toThrow(/administrator/);
});

test('what it can be narrowed by is what occurs', async () => {
  const choices = await logChoices(house.ctx, SYSTEM);
  expect(choices.causes.map(([code]) => code).sort()).toEqual(['credit-gone', 'handset-unreachable']);
  expect(choices.countries.map(([code]) => code).sort()).toEqual(['FR', 'GB', 'SE']);
});

test('kept views are everybody’s; one of the same name is replaced', async () => {
  const { ctx } = house;
  const page = '/watch/messages';
  await keepListView(ctx, SYSTEM, { page, name: 'Failures', query: 'state=failed' });
  await keepListView(ctx, SYSTEM, { page, name: 'Failures', query: 'state=failed&country=SE' });
  await keepListView(ctx, SYSTEM, { page: '/connect/numbers', name: 'Failures', query: 'sort=Country' });
  const [view, ...others] = await listViews(ctx, viewer, page);
  expect([view?.query, others]).toEqual(['state=failed&country=SE', []]);
  await expect(keepListView(ctx, viewer, { page, name: 'Mine', query: '' })).rejects.toThrow(/agent/);
  await expect(keepListView(ctx, SYSTEM, { page: '//elsewhere.example', name: 'Mine', query: '' })).rejects.toThrow(
    /page/,
  );
  await removeListView(ctx, SYSTEM, view?.id ?? '');
  expect(await listViews(ctx, viewer, page)).toEqual([]);
  expect(await listViews(ctx, viewer, '/connect/numbers')).toHaveLength(1);
});

test('the figures add up to the rows', async () => {
  const flow = await getFlow(house.ctx, SYSTEM, 'week');
  const sum = (key: 'received' | 'delivered' | 'failed' | 'underWay') =>
    flow.buckets.reduce((total, bucket) => total + bucket[key], 0);
  const count = (holds: (row: Row) => boolean) => rows.filter(holds).length;
  expect([sum('received'), sum('delivered'), sum('failed'), sum('underWay')]).toEqual([
    count(({ direction }) => direction === 'in'),
    count(({ state }) => state === 'delivered' || state === 'read'),
    count(({ state }) => state === 'failed'),
    count(({ state }) => state === 'sent'),
  ]);
  expect(flow.causes.reduce((total, { messages }) => total + messages, 0)).toBe(sum('failed'));
  expect(flow.countries.find(({ key }) => key === 'SE')).toMatchObject({
    name: 'Sweden',
    sent: count((row) => row.country === 'SE' && row.direction === 'out'),
    read: count((row) => row.country === 'SE' && row.state === 'read'),
  });
  const day = await getFlow(house.ctx, SYSTEM, 'day');
  expect(day.buckets).toHaveLength(24);
});

test('an id of a time sorts before every id made then or after', () => {
  const at = 1_800_000_000_000;
  expect(timeId('msg', at) <= pastId('msg', at)).toBe(true);
  expect(timeId('msg', at + 1) > timeId('msg', at)).toBe(true);
});
