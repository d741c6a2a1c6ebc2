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
import { testPhones } from '../bench';
import {
  type Actor,
  type AppContext,
  type Reach,
  reachesApp,
  reachesChannel,
  reachesContent,
  reachOf,
  requireRole,
} from '../context';
import { publishedSet } from '../routes';
import { namesInUse } from './deliveryTests';

const MOST = 12;

export async function suggestedTests(ctx: AppContext, actor: Actor): Promise<SuggestedTest[]> {
  requireRole(actor, 'viewer');
  const existing = await ctx.store.deliveryTests.all({ archived_at: null });
  return suggestTests(
    await testableInstallation(ctx, await reachOf(ctx.store, actor)),
    existing.map(({ content }) => content),
  ).slice(0, MOST);
}

async function testableInstallation(ctx: AppContext, reach: Reach): Promise<TestableInstallation> {
  const [channels, accounts, numbers, everyApp, everySystem, { set }, phones] = await Promise.all([
    ctx.store.channels.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.accounts.all(),
    ctx.store.numbers.all(),
    ctx.store.apps.all(),
    ctx.store.phoneSystems.all({ disabled_at: null }),
    publishedSet(ctx),
    testPhones(ctx),
  ]);
  const apps = everyApp.filter(({ id }) => reachesApp(reach, id));
  const systems = everySystem.filter(({ app_id }) => reachesApp(reach, app_id));
  const visible = phones.filter((phone) => phone.visible).map(({ number }) => number);
  return {
    now: ctx.now(),
    channels: channels
      .filter(
        ({ id: channelId, kind, account_id }) =>
          reachesChannel(reach, channelId) &&
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
    hooks: await testableHooks(ctx, reach, visible[0]),
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
  reach: Reach,
  phone: string | undefined,
): Promise<TestableInstallation['hooks'][number][]> {
  if (!phone) return [];
  const found: TestableInstallation['hooks'][number][] = [];
  for (const hook of await ctx.store.hooks.all({ disabled_at: null })) {
    if (!reachesApp(reach, hook.app_id)) continue;
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
  const reach = await reachOf(ctx.store, actor);
  const guarding = await ctx.store.deliveryTests.all({ archived_at: null, guards_publishing: 1 });
  return draftAgainst(
    set,
    guarding.filter(({ content }) => reachesContent(reach, content)),
    ctx.now(),
  );
}

type Named = [string, string][];

/** What a test can name, for whoever writes one. */
export async function testChoices(ctx: AppContext, actor: Actor) {
  requireRole(actor, 'viewer');
  const reach = await reachOf(ctx.store, actor);
  const ofReached = <Row extends { app_id: string }>(rows: Row[]) =>
    rows.filter(({ app_id }) => reachesApp(reach, app_id));
  const installation = await testableInstallation(ctx, reach);
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
    hooks: named(ofReached(await ctx.store.hooks.all({ disabled_at: null }))),
    systems: named(installation.systems),
    feeds: named(ofReached(await ctx.store.feeds.all({ disabled_at: null }))),
    records: ofReached(accounts).flatMap(
      ({ app_id, connector }): Named =>
        ctx.apps
          .get(connector)
          .records.filter(({ countable, findable }) => countable || findable)
          .map(({ id, label }) => [`${app_id} ${id}`, `${label.toLowerCase()} at ${names[app_id] ?? 'an app'}`]),
    ),
    samples: Object.fromEntries(installation.hooks.map(({ id, record }) => [id, record])),
  };
}
