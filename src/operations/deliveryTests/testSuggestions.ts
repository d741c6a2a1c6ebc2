/** Tests for what no test covers, with the installation as it is now. */

import { channelKind } from '../../core/connect/channelKinds';
import {
  draftAgainst,
  type SuggestedTest,
  suggestTests,
  type TestableInstallation,
} from '../../core/deliveryTest/suggest';
import { orderFrom } from '../../core/hooks/order';
import { recordIn } from '../../core/hooks/postedRecord';
import type { RouteSet } from '../../core/routing/route';
import { definitionOf } from '../apps/hooks';
import { type Actor, type AppContext, requireRole } from '../context';
import { publishedSet } from '../routes';
import { namesInUse, testPhones } from './deliveryTests';

const MOST = 12;

export async function suggestedTests(ctx: AppContext, actor: Actor): Promise<SuggestedTest[]> {
  requireRole(actor, 'viewer');
  const existing = await ctx.store.deliveryTests.all({ archived_at: null });
  return suggestTests(
    await testableInstallation(ctx),
    existing.map(({ content }) => content),
  ).slice(0, MOST);
}

async function testableInstallation(ctx: AppContext): Promise<TestableInstallation> {
  const [channels, accounts, numbers, apps, systems, { set }, phones] = await Promise.all([
    ctx.store.channels.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.accounts.all(),
    ctx.store.numbers.all(),
    ctx.store.apps.all(),
    ctx.store.phoneSystems.all({ disabled_at: null }),
    publishedSet(ctx),
    testPhones(ctx),
  ]);
  const visible = phones.filter((phone) => phone.visible).map(({ number }) => number);
  return {
    now: ctx.now(),
    channels: channels
      .filter(
        ({ kind, account_id }) =>
          channelKind(kind).handset !== undefined &&
          accounts.some(({ id, disabled_at }) => id === account_id && disabled_at === null),
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
    hooks: await testableHooks(ctx, visible[0]),
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
async function testableHooks(
  ctx: AppContext,
  phone: string | undefined,
): Promise<TestableInstallation['hooks'][number][]> {
  if (!phone) return [];
  const found: TestableInstallation['hooks'][number][] = [];
  for (const hook of await ctx.store.hooks.all({ disabled_at: null })) {
    const definition = await definitionOf(ctx.store, hook);
    const [post] = await ctx.store.hookPosts.all(
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
  ctx: AppContext,
  actor: Actor,
  set: RouteSet,
): Promise<{ id: string; name: string; would: string }[]> {
  requireRole(actor, 'viewer');
  return draftAgainst(set, await ctx.store.deliveryTests.all({ archived_at: null, guards_publishing: 1 }), ctx.now());
}

type Named = [string, string][];

/** What a test can name, for whoever writes one. */
export async function testChoices(ctx: AppContext, actor: Actor) {
  requireRole(actor, 'viewer');
  const installation = await testableInstallation(ctx);
  const [phones, accounts, names] = await Promise.all([testPhones(ctx), ctx.store.appAccounts.all(), namesInUse(ctx)]);
  const named = (items: readonly { id: string; name: string }[]): Named => items.map(({ id, name }) => [id, name]);
  return {
    phones: phones.map(({ number, owner, visible }): [string, string] => [
      number,
      visible ? owner : `${owner} ${number}`,
    ]),
    channels: named(installation.channels),
    apps: named(installation.apps),
    routes: named(installation.set.routes.filter(({ off }) => !off)),
    hooks: named(await ctx.store.hooks.all({ disabled_at: null })),
    systems: named(installation.systems),
    feeds: named(await ctx.store.feeds.all({ disabled_at: null })),
    records: accounts.flatMap(
      ({ app_id, connector }): Named =>
        ctx.apps
          .get(connector)
          .records.filter(({ countable, findable }) => countable || findable)
          .map(({ id, label }) => [`${app_id} ${id}`, `${label.toLowerCase()} at ${names[app_id] ?? 'an app'}`]),
    ),
    samples: Object.fromEntries(installation.hooks.map(({ id, record }) => [id, record])),
  };
}
