/** Tests for what no test covers, with the house as it is now. */

import { draftAgainst, type SuggestedTest, suggestTests, type TestableHouse } from '../core/deliveryTest/suggest';
import { orderFrom } from '../core/hooks/order';
import type { RouteSet } from '../core/routing/route';
import { type Actor, requireRole } from './actor';
import { namesOfHouse, testPhones } from './deliveryTests';
import { definitionOf } from './hooks';
import { recordIn } from './postedRecords';
import { publishedSet } from './routes';
import type { Windgap } from './windgap';

const MOST = 12;

export async function suggestedTests(w: Windgap, actor: Actor): Promise<SuggestedTest[]> {
  requireRole(actor, 'viewer');
  const existing = await w.store.deliveryTests.all({ archived_at: null });
  return suggestTests(
    await testableHouse(w),
    existing.map(({ content }) => content),
  ).slice(0, MOST);
}

async function testableHouse(w: Windgap): Promise<TestableHouse> {
  const [channels, accounts, numbers, apps, systems, { set }, phones] = await Promise.all([
    w.store.channels.all(undefined, { order: [['name', 'ASC']] }),
    w.store.accounts.all(),
    w.store.numbers.all(),
    w.store.apps.all(),
    w.store.phoneSystems.all({ disabled_at: null }),
    publishedSet(w),
    testPhones(w),
  ]);
  const visible = phones.filter((phone) => phone.visible).map(({ number }) => number);
  return {
    now: w.now(),
    channels: channels
      .filter(
        ({ kind, account_id }) =>
          kind !== 'web-chat' && accounts.some(({ id, disabled_at }) => id === account_id && disabled_at === null),
      )
      .map(({ id, name, kind, number_id }) => {
        const number = numbers.find((row) => row.id === number_id);
        return {
          id,
          name,
          kind,
          hears: (number?.abilities.includes('text-in') ?? false) && !number?.facts.shared,
          speaks: number?.abilities.includes('text-out') ?? false,
        };
      }),
    apps: apps.map(({ id, name }) => ({ id, name })),
    hooks: await testableHooks(w, visible[0]),
    systems: systems.map(({ id, name, answer, events }) => ({
      id,
      name,
      answers: answer !== '',
      event: events.includes('missed') ? 'missed' : (events[0] ?? 'missed'),
    })),
    set,
    phones: visible,
  };
}

/** The latest good post of each hook, with a test phone in the place of the person’s. */
async function testableHooks(w: Windgap, phone: string | undefined): Promise<TestableHouse['hooks'][number][]> {
  if (!phone) return [];
  const found: TestableHouse['hooks'][number][] = [];
  for (const hook of await w.store.hooks.all({ disabled_at: null })) {
    const definition = await definitionOf(w.store, hook);
    const [post] = await w.store.hookPosts.all(
      { hook_id: hook.id, state: ['taken', 'sample'] },
      { order: [['id', 'DESC']], limit: 1 },
    );
    const posted = post && recordIn(post);
    if (!definition || !posted) continue;
    const record = withPhone(posted, hook.phone_field, phone);
    const order = orderFrom(definition, record);
    if (order.ok && order.order.to === phone)
      found.push({ id: hook.id, name: hook.name, phone, record: JSON.stringify(record, null, 2) });
  }
  return found;
}

function withPhone<Record extends object>(record: Record, path: string, phone: string): Record {
  if (Object.hasOwn(record, path)) return { ...record, [path]: phone };
  const [head = '', ...rest] = path.split('.');
  const inner = (record as { [key: string]: unknown })[head];
  if (rest.length === 0 || inner === null || typeof inner !== 'object') return record;
  return { ...record, [head]: withPhone(inner, rest.join('.'), phone) };
}

/** Tests that guard publishing and that a draft would break. */
export async function testsAgainstDraft(
  w: Windgap,
  set: RouteSet,
): Promise<{ id: string; name: string; would: string }[]> {
  return draftAgainst(set, await w.store.deliveryTests.all({ archived_at: null, guards_publishing: 1 }), w.now());
}

type Named = [string, string][];

/** What a test can name, for whoever writes one. */
export async function testChoices(w: Windgap, actor: Actor) {
  requireRole(actor, 'viewer');
  const house = await testableHouse(w);
  const [phones, accounts, names] = await Promise.all([testPhones(w), w.store.appAccounts.all(), namesOfHouse(w)]);
  const named = (items: readonly { id: string; name: string }[]): Named => items.map(({ id, name }) => [id, name]);
  return {
    phones: phones.map(({ number, owner, visible }): [string, string] => [
      number,
      visible ? owner : `${owner} ${number}`,
    ]),
    channels: named(house.channels),
    apps: named(house.apps),
    routes: named(house.set.routes.filter(({ off }) => !off)),
    hooks: named(await w.store.hooks.all({ disabled_at: null })),
    systems: named(house.systems),
    feeds: named(await w.store.feeds.all({ disabled_at: null })),
    records: accounts.flatMap(
      ({ app_id, connector }): Named =>
        w.apps
          .get(connector)
          .records.filter(({ countable, findable }) => countable || findable)
          .map(({ id, label }) => [`${app_id} ${id}`, `${label.toLowerCase()} at ${names[app_id] ?? 'an app'}`]),
    ),
    samples: Object.fromEntries(house.hooks.map(({ id, record }) => [id, record])),
  };
}
