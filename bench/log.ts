/** The log over a million messages: each filter and the words at the server, and its first page in a browser. */
import { chromium } from '@playwright/test';
import { CHROMIUM_FLAGS, CHROMIUM_PATH } from '../scripts/chromium.mjs';
import { SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { reachOf } from '../src/operations/context/reach';
import { listMessages, logQuery, type MessageFilter } from '../src/operations/log/messageLog';
import { addPerson } from '../src/operations/people/people';
import { newId, pastId } from '../src/store/ids';
import { connectMossgate } from '../tests/harness/mossgate';
import { startInstallation } from '../tests/harness/processes';
import { measure } from './contacts';
import { peakMiB } from './sheets';

const MESSAGES = Number(process.env.BENCH_MESSAGES ?? 1_000_000);
const CONTACTS = 20_000;
const SPAN = 60 * 86_400_000;

export async function log(): Promise<void> {
  const installation = await startInstallation();
  const { ctx, engine, web, origin } = installation;
  try {
    const mossgate = await connectMossgate(installation);
    const begun = performance.now();
    await fill(ctx, mossgate);
    console.log(
      `${(await ctx.store.messages.count()).toLocaleString('en')} messages written with their words in ${((performance.now() - begun) / 1000).toFixed(0)} s`,
    );
    const day = 86_400_000;
    const filters: [string, MessageFilter][] = [
      ['no filter', {}],
      ['direction', { direction: 'in' }],
      ['state failed', { state: 'failed' }],
      ['state read', { state: 'read' }],
      ['channel', { channel: mossgate.channel.id }],
      ['cause', { cause: 'handset-unreachable' }],
      ['a rare cause', { cause: 'country-off' }],
      ['country', { country: 'SE' }],
      ['a rare country', { country: 'AU' }],
      ['app', { origin: mossgate.appId }],
      ['route', { route: 'rte_rare' }],
      ['unrouted', { routing: 'unrouted' }],
      ['a day last month', { since: Date.now() - 31 * day, until: Date.now() - 30 * day }],
      ['a common word', { search: 'lock' }],
      ['two words', { search: 'heron stoppage' }],
      ['a rare word', { search: 'kingfisher' }],
      ['a word half typed', { search: 'king' }],
      ['no such word', { search: 'zzyzx' }],
      ['a number', { search: '+44 7700 900123' }],
      ['a name', { search: '@Skipper 1999' }],
      ['a word and a state', { search: 'lock', state: 'failed' }],
      ['a country, failed, in a day', { country: 'FR', state: 'failed', since: Date.now() - day }],
      [
        'page 200',
        {
          before: (
            await ctx.store.select<{ id: string }>('SELECT id FROM messages ORDER BY id DESC LIMIT 1 OFFSET 10000')
          )[0]?.id,
        },
      ],
    ];
    const slow: string[] = [];
    for (const [name, filter] of filters) {
      const ms = await measure(() => listMessages(ctx, SYSTEM, { ...filter, limit: 50 }));
      const { sql, values } = await logQuery(ctx, filter, await reachOf(ctx.store, SYSTEM));
      const plan = await ctx.store.select<{ detail: string }>(`EXPLAIN QUERY PLAN ${sql} LIMIT 51`, {
        ...values,
        limit: 51,
      });
      if (ms > 150) slow.push(name);
      console.log(`  by ${name}: p95 ${ms.toFixed(0)} ms (${plan.map(({ detail }) => detail).join('; ')})`);
    }
    console.log(slow.length === 0 ? '  all within 150 ms' : `  over 150 ms: ${slow.join(', ')}`);
    console.log(`First page painted in Chromium after ${(await painted(ctx, origin)).join(', ')} ms`);
    console.log(`Memory: web at most ${peakMiB(web?.pid)} MiB, engine at most ${peakMiB(engine?.pid)} MiB`);
  } finally {
    await installation.stop();
  }
}

/** From the navigation to the first contentful paint, as the browser itself reports it. */
async function painted(ctx: AppContext, origin: string): Promise<number[]> {
  const password = 'towpath at low water';
  await addPerson(ctx, SYSTEM, { name: 'Maren', email: 'maren@mossgate.example', password, role: 'owner' });
  const browser = await chromium.launch({ executablePath: CHROMIUM_PATH, args: CHROMIUM_FLAGS });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${origin}/sign-in`);
  await page.getByLabel('E-mail').fill('maren@mossgate.example');
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.waitForURL((url) => !url.pathname.includes('sign-in'));
  const times: number[] = [];
  for (let round = 0; round < 4; round += 1) {
    await page.goto(`${origin}/watch/messages`);
    await page.getByRole('row').nth(10).waitFor();
    times.push(
      await page.evaluate(() =>
        Math.round(performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? Number.NaN),
      ),
    );
  }
  await browser.close();
  // The first also warms the server up.
  return times.slice(1);
}

/** In the order in which they came, with their words, states, causes, countries and routes. */
export async function fill(
  ctx: AppContext,
  { channel, appId }: { channel: { id: string; address: string }; appId: string },
): Promise<void> {
  const now = Date.now();
  const people = Array.from({ length: CONTACTS }, (_, n) => ({
    id: newId('con', now - SPAN),
    conversation: newId('cnv', now - SPAN),
    name: `Skipper ${n}`,
    country: n % 997 === 0 ? 'AU' : (['GB', 'GB', 'GB', 'SE', 'FR'][n % 5] as string),
    phone: n === 0 ? '+447700900123' : `+447${100_000_000 + n}`,
  }));
  await ctx.store.write(async (unit) => {
    await unit.execute(
      `INSERT INTO contacts (id, name, country, created_at) SELECT value->>'id', value->>'name', value->>'country', :at FROM json_each(:people)`,
      { people: JSON.stringify(people), at: now - SPAN },
    );
    await unit.execute(
      `INSERT INTO contact_identities (kind, value, contact_id) SELECT 'phone', value->>'phone', value->>'id' FROM json_each(:people)`,
      { people: JSON.stringify(people) },
    );
    await unit.execute(
      `INSERT INTO conversations (id, contact_id, channel_id, last_message_at, last_text, last_direction) SELECT value->>'conversation', value->>'id', :channel, :at, '', 'in' FROM json_each(:people)`,
      { people: JSON.stringify(people), channel: channel.id, at: now - SPAN },
    );
  });
  const words = [
    'lock',
    'passage',
    'Heron',
    'staircase',
    'stoppage',
    'mooring',
    'tree',
    'bridge',
    'open',
    'tomorrow',
    'boat',
    'please',
  ];
  const SLICE = 10_000;
  for (let from = 0; from < MESSAGES; from += SLICE) {
    const rows = Array.from({ length: Math.min(SLICE, MESSAGES - from) }, (_, index) => {
      const n = from + index;
      const at = now - SPAN + Math.round((n / MESSAGES) * (SPAN - 60_000));
      const person = people[(n * 7919) % CONTACTS] as (typeof people)[number];
      const inbound = n % 3 === 0;
      const failed = !inbound && n % 41 === 0;
      const said = [0, 1, 2, 3].map((place) => words[(n * (place + 3) + place * 5) % words.length]).join(' ');
      return [
        pastId('msg', at),
        inbound ? 'in' : 'out',
        person.conversation,
        person.id,
        channel.id,
        inbound ? person.phone : channel.address,
        inbound ? channel.address : person.phone,
        n % 50_021 === 17 ? `${said} kingfisher ${n}` : `${said} ${n}`,
        inbound ? 'received' : failed ? 'failed' : n % 5 === 0 ? 'read' : 'delivered',
        at,
        failed ? (n % 5002 === 0 ? 'country-off' : 'handset-unreachable') : null,
        inbound ? 'provider' : n % 9 === 1 ? 'app' : 'user',
        inbound ? null : n % 9 === 1 ? appId : 'usr_1',
      ];
    });
    await ctx.store.write(async (unit) => {
      await unit.execute(
        `INSERT INTO messages (id, direction, conversation_id, contact_id, channel_id, sender, recipient, text, encoding, parts, state, state_at, state_rank, cause, origin_kind, origin_id, created_at)
         SELECT value->>0, value->>1, value->>2, value->>3, value->>4, value->>5, value->>6, value->>7, 'GSM-7', 1, value->>8, value->>9, 1, value->>10, value->>11, value->>12, value->>9 FROM json_each(:rows)`,
        { rows: JSON.stringify(rows) },
      );
      const routed = rows.filter(([, direction]) => direction === 'in');
      await unit.execute(
        `INSERT INTO message_routings (message_id, revision, outcome, routes, facts, at)
         SELECT value->>0, 1, value->>1, '[]', '{}', value->>2 FROM json_each(:rows)`,
        {
          rows: JSON.stringify(routed.map((row, index) => [row[0], index % 500 === 0 ? 'unrouted' : 'routed', row[9]])),
        },
      );
      await unit.execute(
        `INSERT INTO message_routes (route_id, message_id) SELECT value->>1, value->>0 FROM json_each(:rows)`,
        { rows: JSON.stringify(routed.map((row, index) => [row[0], index % 300 === 0 ? 'rte_rare' : 'rte_common'])) },
      );
    });
  }
  await ctx.store.write((unit) => unit.execute('ANALYZE'));
  await ctx.store.write((unit) => unit.execute('PRAGMA optimize'));
  await new Promise((resolve) => setTimeout(resolve, 5000));
}
