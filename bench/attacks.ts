/**
 * How soon a provider's post is answered while somebody else attacks: the median of posts made one after the other, beside
 * an attacker in a process of its own, in rounds that alternate with the same installation at rest.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { createInterface } from 'node:readline';
import { WEB_CHAT_START } from '../src/core/connect/webChat';
import { addFeed } from '../src/operations/apps/feeds/feeds';
import { createHook } from '../src/operations/apps/hooks/hooks';
import { openWebChat } from '../src/operations/channels/webChat';
import { SYSTEM } from '../src/operations/context/actor';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { connectMossgate, INES, type Mossgate, signedHeaders, textIn } from '../tests/harness/mossgate';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { median } from './load';

const POSTS = 300;
const ROUNDS = 3;
const WEBSITE = 'https://mossgate.example';
const OWNER = { name: 'Maren', email: 'maren@mossgate.example', password: 'towpath at low water' };
const ENDLESS = [
  'BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:20260101T090000Z',
  'RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31\r\nEND:VEVENT\r\nEND:VCALENDAR',
].join('\r\n');

interface Attack {
  what: string;
  atOnce: number;
  url: string;
  method?: string;
  headers?: Record<string, string>;
  body?: string;
  times?: number;
}

export async function attacks(): Promise<void> {
  const installation = await startInstallation();
  try {
    const mossgate = await connectMossgate(installation);
    let number = 0;
    let attackers = 1;
    const answers = async () => {
      const times: number[] = [];
      for (let post = 0; post < POSTS; post++) times.push(await answered(mossgate, number++));
      return median(times);
    };
    await answers();
    const only = process.env.BENCH_ATTACKS?.split(',');
    for (const attack of await attacksOn(installation, mossgate)) {
      if (only && !only.some((word) => attack.what.includes(word))) continue;
      const ratios: number[] = [];
      const said: string[] = [];
      for (let round = 0; round < ROUNDS; round++) {
        const idle = await answers();
        // Another each time: what one is owed for an earlier round slows no later one down.
        const from = `127.0.1.${++attackers}`;
        const { busy, done, statuses } = await beside({ ...attack, from }, answers);
        ratios.push(busy / idle);
        said.push(`${busy.toFixed(1)} ms against ${idle.toFixed(1)} (${done} times: ${statuses})`);
      }
      const worst = Math.max(...ratios);
      console.log(
        `Beside ${attack.what}, ${attack.atOnce} at once: ${ratios.map((each) => each.toFixed(2)).join(', ')} times the idle median${worst > 3 ? ' TOO SLOW' : ''}`,
      );
      for (const each of said) console.log(`  ${each}`);
    }
    if (!only) await endlessCalendar(installation, mossgate, answers);
    await until(
      'all texts are in',
      async () => (await installation.ctx.store.messages.count({ direction: 'in' })) === number,
    );
    console.log(`  all ${number} texts were in the conversation afterwards`);
  } finally {
    await installation.stop();
  }
}

async function attacksOn({ ctx, origin }: Installation, mossgate: Mossgate): Promise<Attack[]> {
  await createFirstOwner(ctx, OWNER);
  const hook = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name: 'Attacked' });
  const chat = await openWebChat(ctx, SYSTEM, {
    name: 'Website',
    settings: { ...WEB_CHAT_START, origins: [WEBSITE] },
  });
  const token = (await ctx.store.channels.one({ id: chat.id }))?.inbound_token;
  const signing = actionNamed('signInAction');
  const form = 'application/x-www-form-urlencoded';
  const wrong = new URLSearchParams({ email: OWNER.email, password: 'a wrong one' });
  const [boundary, fields] = ['----attack', [...wrong]];
  const signIn = `${fields.map(([name, value]) => `--${boundary}\r\nContent-Disposition: form-data; name="1_${name}"\r\n\r\n${value}\r\n`).join('')}--${boundary}\r\nContent-Disposition: form-data; name="0"\r\n\r\n["$K1"]\r\n--${boundary}--\r\n`;
  const unsigned = { 'content-type': 'application/json', 'x-brackwater-time': '1', 'x-brackwater-signature': 'h1=00' };
  return [
    {
      what: 'sign-in with a wrong password',
      atOnce: 80,
      url: `${origin}/sign-in`,
      headers: { 'next-action': signing, 'content-type': `multipart/form-data; boundary=${boundary}`, origin },
      body: signIn,
    },
    {
      what: 'forms of 160 kB to a send hook',
      atOnce: 4,
      url: hook.url,
      headers: { 'content-type': form },
      body: 'a&',
      times: 80_000,
    },
    { what: 'unsigned posts', atOnce: 16, url: mossgate.inboundUrl, headers: unsigned, body: '{"events":[]}' },
    {
      what: 'unsigned posts of 290 kB',
      atOnce: 4,
      url: mossgate.inboundUrl,
      headers: unsigned,
      body: 'x',
      times: 290_000,
    },
    {
      what: 'new visitors of the web chat',
      atOnce: 16,
      url: `${origin}/chat/${token}/begin`,
      headers: { origin: WEBSITE, 'content-type': 'application/json' },
      body: '{"consent":true}',
    },
    {
      what: 'invented origins at the web chat',
      atOnce: 16,
      method: 'GET',
      url: `${origin}/chat/${token}/face`,
      headers: { origin: 'https://elsewhere.example' },
    },
    {
      what: 'calls of the API with invented keys',
      atOnce: 16,
      method: 'GET',
      url: `${origin}/api/v1/messages`,
      headers: { authorization: 'Bearer wgk_invented' },
    },
    {
      what: 'files of 2 MB by nobody',
      atOnce: 2,
      url: `${origin}/media`,
      headers: { origin },
      body: 'x',
      times: 2_000_000,
    },
    { what: 'addresses that do not exist', atOnce: 8, method: 'GET', url: `${origin}/RANDOM` },
  ];
}

/** An action of the built pages by its name. */
function actionNamed(name: string): string {
  const { node } = JSON.parse(readFileSync('.next/server/server-reference-manifest.json', 'utf8')) as {
    node: Record<string, { exportedName?: string; workers: Record<string, unknown> }>;
  };
  const [id] = Object.entries(node).find(([, { exportedName }]) => exportedName === name) ?? [];
  if (!id) throw new Error(`There is no action ${name}`);
  return id;
}

/** What is measured while the attack is made over and over. */
async function beside(attack: Attack & { from: string }, measure: () => Promise<number>) {
  const child = spawn(process.execPath, ['dist/bench-attacker.mjs', JSON.stringify(attack)], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  const lines = createInterface({ input: child.stdout });
  await once(lines, 'line');
  const busy = await measure();
  const last = once(lines, 'line');
  child.stdin.end();
  const [line] = (await last) as [string];
  await once(child, 'exit');
  const { done, answers } = JSON.parse(line) as { done: number; answers: Record<string, number> };
  const statuses = Object.entries(answers)
    .map(([status, n]) => `${n} × ${status}`)
    .join(', ');
  return { busy, done, statuses };
}

/** A feed that costs far more than its size is read in a thread that is ended. */
async function endlessCalendar(
  { ctx }: Installation,
  mossgate: Mossgate,
  answers: () => Promise<number>,
): Promise<void> {
  const calendars = createServer((_, response) => response.end(ENDLESS));
  await new Promise<void>((resolve) => calendars.listen(0, '127.0.0.1', resolve));
  const { port } = calendars.address() as { port: number };
  const idle = await answers();
  await addFeed(ctx, SYSTEM, mossgate.appId, {
    name: 'Endless',
    url: `http://127.0.0.1:${port}/endless.ics`,
    periodMinutes: 15,
    zone: 'Europe/London',
    dayTime: '09:00',
    offsets: [60],
    text: '{{ event.title }}',
    sender: { by: 'channel', channel: mossgate.channel.id },
    notify: '',
  });
  const ratios = [];
  for (let round = 0; round < ROUNDS; round++) ratios.push((await answers()) / idle);
  console.log(
    `Beside a calendar that never ends: ${ratios.map((each) => each.toFixed(2)).join(', ')} times the idle median`,
  );
  calendars.close();
}

/** Milliseconds until a provider's post is answered. */
async function answered({ inboundUrl, secret, channel }: Mossgate, number: number): Promise<number> {
  const body = textIn(`bwt_a${number}`, INES, channel.address, 'Is Fallowfield lock open tomorrow?');
  const began = performance.now();
  const response = await fetch(inboundUrl, { method: 'POST', headers: signedHeaders(secret, body), body });
  await response.arrayBuffer();
  if (response.status !== 202) throw new Error(`The post was answered ${response.status}`);
  return performance.now() - began;
}
