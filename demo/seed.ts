/**
 * Fills an empty installation with Mossgate Waterways. Set-up is done by the same
 * operations an administrator uses, against the running stand-ins; only the past week
 * is written as rows, because it has passed.
 */

import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { connectProvider } from '../src/operations/accounts/accounts';
import { addTrunkNumbers } from '../src/operations/accounts/trunkNumbers';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { createApp } from '../src/operations/apps/apps';
import { changeHook, createHook } from '../src/operations/apps/hooks/hooks';
import { takeHookPost } from '../src/operations/apps/hooks/receiveHookPost';
import { subscribe } from '../src/operations/apps/webhooks/subscriptions';
import { handOverForMe, openChannel } from '../src/operations/channels/channels';
import { recordConsents } from '../src/operations/contacts/consent/consents';
import { SYSTEM } from '../src/operations/context/actor';
import { type AppContext, configFromEnvironment, openAppContext } from '../src/operations/context/appContext';
import { saveTest } from '../src/operations/deliveryTests/deliveryTests';
import { suggestedTests } from '../src/operations/deliveryTests/testSuggestions';
import { changeLimits } from '../src/operations/limits/settings';
import { saveOrganisation } from '../src/operations/organisation/organisation';
import { createFirstOwner, hasOwner } from '../src/operations/people/firstOwner';
import { addPerson } from '../src/operations/people/people';
import { recordFacts } from '../src/operations/proofs/proofs';
import { DEFAULT_ROUTE_NAME, routeToApp } from '../src/operations/routes/routes';
import { nameInstallation } from '../src/operations/shell/installation';
import { writeBroadcasts } from './broadcasts';
import { writeHistory } from './history';
import type { HistoryPlaces } from './pastRows';
import { setUpRoutes } from './routes';
import { setUpTemplates } from './templates';
import { type DemoWorld, demoWorld } from './world';

export const DEMO_PASSWORD = 'towpath at low water';
export const DEMO_OWNER = 'maren@mossgate.example';

const [command, worldFile, basePort] = process.argv.slice(2);
if (command === 'world' && worldFile) {
  writeFileSync(worldFile, JSON.stringify(worldOf(worldFile, Number(basePort ?? 4300)), null, 2));
} else if (command === 'seed' && worldFile) {
  const world = JSON.parse(readFileSync(worldFile, 'utf8')) as DemoWorld;
  const ctx = await openAppContext({ ...configFromEnvironment(process.env), logLevel: 'warn' }, 'seed');
  if (await hasOwner(ctx)) console.log('the demo data is there already');
  else await seed(ctx, world);
  await ctx.store.close();
}

/** The world of an earlier start as it was, with what has been added to the outside since. */
function worldOf(file: string, base: number): DemoWorld {
  const fresh = demoWorld(base);
  const { publicUrl } = configFromEnvironment(process.env);
  fresh.bollard.returns = [`${publicUrl}/sign-in/provider/back`];
  if (!existsSync(file)) return fresh;
  const kept = JSON.parse(readFileSync(file, 'utf8')) as Partial<DemoWorld>;
  return { ...fresh, ...kept, ports: { ...fresh.ports, ...kept.ports } };
}

async function seed(ctx: AppContext, world: DemoWorld): Promise<void> {
  await createFirstOwner(ctx, { name: 'Maren Thistlewood', email: DEMO_OWNER, password: DEMO_PASSWORD });
  await nameInstallation(ctx, SYSTEM, 'Mossgate, demonstration');
  await saveOrganisation(ctx, SYSTEM, {
    zone: 'Europe/London',
    countries: ['United Kingdom', 'France', 'Sweden'],
    language: 'en',
    help: 'Mossgate Waterways: help@mossgate.example or 020 7946 0114',
  });
  const agent = await addPerson(ctx, SYSTEM, {
    name: 'Jonas Wherry',
    email: 'jonas@mossgate.example',
    password: DEMO_PASSWORD,
    role: 'agent',
  });
  await addPerson(ctx, SYSTEM, {
    name: 'Priya Lockhart',
    email: 'priya@mossgate.example',
    password: DEMO_PASSWORD,
    role: 'administrator',
  });
  await addPerson(ctx, SYSTEM, {
    name: 'Alder Finch',
    email: 'alder@mossgate.example',
    password: DEMO_PASSWORD,
    role: 'viewer',
  });

  await setUpLimits(ctx);
  const places = await setUp(ctx, world, agent);
  await setUpTemplates(ctx, world);
  const now = ctx.now();
  const count = await writeHistory(ctx, places, now);
  await describeContacts(ctx, world, now);
  await writeBroadcasts(ctx, places, now);
  await setUpRoutes(ctx, places, now);
  await setUpTests(ctx);
  await noteStops(ctx, places, now);
  await proveFromHistory(ctx, places, now);
  console.log(`Mossgate Waterways is set up, with ${count} messages of the past week`);
}

async function setUp(ctx: AppContext, world: DemoWorld, agent: { id: string; name: string }): Promise<HistoryPlaces> {
  const remote = world.accounts[0] as DemoWorld['accounts'][number];
  const origin = (port: number) => `http://127.0.0.1:${port}`;
  const account = await connectProvider(ctx, SYSTEM, {
    connector: 'brackwater',
    name: 'Brackwater, main account',
    credentials: { apiAddress: `${origin(world.ports.brackwater)}/v2`, accountId: remote.id, secret: remote.secret },
  });
  const numbers = await ctx.store.numbers.all({ account_id: account.id });
  const channelOn = async (number: string, name: string) => {
    const row = numbers.find((entry) => entry.address === number);
    if (!row) throw new Error(`Brackwater has no ${number}`);
    const { id } = await openChannel(ctx, SYSTEM, { numberId: row.id, name });
    const channel = await ctx.store.channels.one({ id });
    if (!channel) throw new Error('The channel just opened is gone');
    return channel;
  };
  const harbour = await channelOn('+442079460114', 'Harbour desk');
  const locks = await channelOn('+447700900811', 'Lock passages');
  await handOverForMe(ctx, SYSTEM, harbour.id);
  await handOverForMe(ctx, SYSTEM, locks.id);

  await setUpTrunk(ctx, world);

  const app = await createApp(ctx, SYSTEM, { name: 'Lockbook', description: 'Passage bookings' });
  const url = `${origin(world.ports.lockbook)}/hooks/windgap`;
  const { id: subscriptionId, secret } = await subscribe(ctx, SYSTEM, { appId: app.id, url });
  const { key } = await createApiKey(ctx, SYSTEM, { appId: app.id, name: 'Booking server' });
  await routeToApp(ctx, SYSTEM, app.id, true);
  const bookingsTo = await setUpHook(ctx, app.id, locks.id);
  await fetch(`${origin(world.ports.bench)}/lockbook`, {
    method: 'PATCH',
    body: JSON.stringify({ secret, apiUrl: `${ctx.config.publicUrl}/api/v1`, apiKey: key, bookingsTo }),
  });
  return {
    harbour,
    locks,
    accountName: 'Brackwater, main account',
    secret: remote.secret,
    app: { id: app.id, name: 'Lockbook', subscriptionId, url },
    agent: { id: agent.id, name: agent.name },
    route: DEFAULT_ROUTE_NAME,
  };
}

/**
 * Mossgate texts people in France and Sweden, too. All its handsets have numbers of the same few ranges for fiction, so
 * that what is usual of a range is more here than among real numbers.
 */
async function setUpLimits(ctx: AppContext): Promise<void> {
  await ctx.store.write((unit) => unit.settings.put({ name: 'countries-before', value: ['FR', 'SE'] }));
  await changeLimits(ctx, SYSTEM, {
    'recipient-hour': 300,
    'recipient-day': 2000,
    'range-hour': 5000,
    'rise-range': 2000,
    'rise-country': 1000,
    'spend-day': 150_000_000,
  });
}

/** A reminder that went round in a circle on one evening of the week, until a limit ended it. */
async function noteStops(ctx: AppContext, { app }: HistoryPlaces, now: number): Promise<void> {
  const at = now - 3 * 86_400_000;
  await ctx.store.write((unit) =>
    unit.sendingStops.insert([
      {
        limit_name: 'recipient-hour',
        subject: '+33639980417',
        day: Math.floor(at / 86_400_000) * 86_400_000,
        orders: 27,
        held: 0,
        first_at: at - 1_140_000,
        last_at: at,
        origin_name: app.name,
      },
    ]),
  );
}

/** The paths that matter most, each with a test that nobody has run yet. */
async function setUpTests(ctx: AppContext): Promise<void> {
  for (const { name, content } of (await suggestedTests(ctx, SYSTEM)).slice(0, 4))
    await saveTest(ctx, SYSTEM, { name, content, guardsPublishing: content.stimulus.kind === 'text' });
}

/** Lockbook has posted once; the message is written, and the first booking of today will prove it. */
async function setUpHook(ctx: AppContext, appId: string, channel: string): Promise<string> {
  const { id, url } = await createHook(ctx, SYSTEM, { appId, name: 'Passage confirmed' });
  const record = {
    passage: { lock: 'Tern lock', time: '09:15' },
    skipper: { full_name: 'Odile Marchand', mobile: '+33 6 39 98 04 17' },
    boat: 'Sarcelle',
  };
  await takeHookPost(ctx, {
    address: new URL(url).pathname.slice('/hooks/'.length),
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: Buffer.from(JSON.stringify(record)),
    remoteAddress: '127.0.0.1',
  });
  await changeHook(ctx, SYSTEM, id, {
    name: 'Passage confirmed',
    text: 'Passage at {{ passage.lock }} at {{ passage.time }} is confirmed, {{ skipper.full_name }}. Show this text to the keeper.',
    phoneField: 'skipper.mobile',
    country: 'GB',
    sender: { by: 'channel', channel },
    tags: ['passage'],
  });
  return url;
}

/** The notices leave over a trunk, whose link the engine binds as soon as it runs. */
async function setUpTrunk(ctx: AppContext, world: DemoWorld): Promise<void> {
  const login = world.ostrel[0] as DemoWorld['ostrel'][number];
  const { id } = await connectProvider(ctx, SYSTEM, {
    connector: 'ostrel',
    name: 'Ostrel trunk',
    credentials: {
      host: '127.0.0.1',
      port: String(world.ports.ostrel),
      systemId: login.systemId,
      password: login.password,
    },
  });
  await addTrunkNumbers(ctx, SYSTEM, id, { text: '07700 900890', country: 'GB' });
  const number = await ctx.store.numbers.one({ account_id: id });
  await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Passage notices' });
}

/**
 * The latest message of each kind is the evidence for its hop. The locks' number got a
 * new inbound URL afterwards, which nobody has texted since: half of it is unproven.
 */
async function proveFromHistory(ctx: AppContext, places: HistoryPlaces, now: number): Promise<void> {
  await ctx.store.write(async (unit) => {
    // The marks began today; the evidence is older, so the set-up is dated back before the week.
    await unit.execute('UPDATE hop_proofs SET changed_at = :before, since = :before', { before: now - 9 * 86_400_000 });
    for (const channel of [places.harbour, places.locks]) {
      const [arrived] = await unit.messages.all(
        { channel_id: channel.id, direction: 'in' },
        { order: [['created_at', 'DESC']], limit: 1 },
      );
      const [delivered] = await unit.messages.all(
        { channel_id: channel.id, state: 'delivered' },
        { order: [['created_at', 'DESC']], limit: 1 },
      );
      if (!arrived || !delivered) continue;
      const began = arrived.created_at;
      await recordFacts(
        unit,
        [
          {
            subject: channel.id,
            fact: { kind: 'inbound-arrived', began, at: began, ref: arrived.inbound_request_id ?? arrived.id },
          },
          {
            subject: channel.id,
            fact: { kind: 'delivered', began: delivered.created_at, at: delivered.state_at, ref: delivered.id },
          },
        ],
        now,
      );
    }
    const [told] = await unit.deliveries.all(
      { subscription_id: places.app.subscriptionId },
      { order: [['id', 'DESC']], limit: 1 },
    );
    const at = told?.delivered_at ?? now;
    await unit.apiKeys.change({ app_id: places.app.id }, { last_used_at: at, last_used_from: '127.0.0.1' });
    await recordFacts(
      unit,
      [
        { subject: places.app.id, fact: { kind: 'called-out', began: at, at, ref: told?.id ?? '' } },
        { subject: places.app.id, fact: { kind: 'called-in', began: at, at, ref: places.app.id } },
        {
          subject: places.locks.id,
          fact: {
            kind: 'changed',
            touches: ['inbound', 'receipt'],
            at: now - 3 * 3_600_000,
            note: 'the inbound URL was handed over',
          },
        },
      ],
      now,
    );
  });
}

/** What is known of the people of the past week: when they wrote, and what some of them agreed to. */
async function describeContacts(ctx: AppContext, world: DemoWorld, now: number): Promise<void> {
  // Whoever holds a handset of the bench has said nothing yet.
  const held = await ctx.store.identities.allBy(
    'value',
    world.handsets.map(({ number }) => number),
  );
  const people = (await ctx.store.contacts.all(undefined, { order: [['id', 'ASC']] })).filter(
    ({ id }) => !held.some(({ contact_id }) => contact_id === id),
  );
  await ctx.store.write(async (unit) => {
    await unit.execute(
      `UPDATE contacts SET seen_at = (SELECT max(created_at) FROM messages m WHERE m.contact_id = contacts.id AND m.direction = 'in')`,
    );
    await unit.contactTags.insert(
      people.flatMap(({ id }, index) =>
        index % 3 === 0
          ? [{ contact_id: id, tag: 'moorings' }]
          : index % 3 === 1
            ? [{ contact_id: id, tag: 'day visitor' }]
            : [],
      ),
    );
    await recordConsents(
      unit,
      people.flatMap(({ id }, index) =>
        index % 4 === 3
          ? []
          : [
              {
                contact_id: id,
                way: 'text' as const,
                what: index % 7 === 5 ? ('withdrawn' as const) : ('given' as const),
                at: now - (30 + index) * 86_400_000,
                how: 'by-hand' as const,
                wording:
                  index % 7 === 5
                    ? 'Asked at the harbour office to be left out'
                    : 'Ticked “text me about my passages” on the mooring form',
                by: 'Priya Lockhart',
                ref: null,
              },
            ],
      ),
    );
  });
}
