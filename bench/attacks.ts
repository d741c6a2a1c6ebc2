/** How soon a provider's post is answered while somebody posts what once stopped the web process or the engine. */
import { createServer } from 'node:http';
import { addFeed } from '../src/operations/apps/feeds/feeds';
import { getHook } from '../src/operations/apps/hooks/hookPages';
import { createHook } from '../src/operations/apps/hooks/hooks';
import { SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, type Mossgate, signedHeaders, textIn } from '../tests/harness/mossgate';
import { startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { median } from './load';

const POSTS = 200;
/** One field eighty thousand times: 160 kB. */
const FORM = 'a&'.repeat(80_000);
const ENDLESS = [
  'BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:20260101T090000Z',
  'RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31\r\nEND:VEVENT\r\nEND:VCALENDAR',
].join('\r\n');

export async function attacks(): Promise<void> {
  const installation = await startInstallation();
  const calendars = createServer((_, response) => response.end(ENDLESS));
  await new Promise<void>((resolve) => calendars.listen(0, '127.0.0.1', resolve));
  try {
    const mossgate = await connectMossgate(installation);
    const { ctx } = installation;
    let number = 0;
    const answers = async (posts: number) => {
      const times: number[] = [];
      for (let post = 0; post < posts; post++) times.push(await answered(mossgate, number++));
      return median(times);
    };
    await answers(POSTS);
    const idle = await answers(POSTS);

    const hook = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name: 'Attacked' });
    const form = await beside(
      () => post(hook.url, FORM),
      () => answers(POSTS),
    );
    const began = performance.now();
    await getHook(ctx, SYSTEM, hook.id);
    const page = performance.now() - began;
    report('posts of 160 kB to a send hook', idle, form);
    console.log(`  the page of that hook, over its latest posts: ${page.toFixed(0)} ms in the operation`);

    const { port } = calendars.address() as { port: number };
    const { id } = await addFeed(ctx, SYSTEM, mossgate.appId, {
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
    report('a calendar that never ends', idle, { median: await answers(POSTS), times: 1 });
    await until('it is read', async () => (await ctx.store.feeds.one({ id }))?.synced_at);
    await until('all texts are in', async () => (await ctx.store.messages.count({ direction: 'in' })) === number);
    console.log(`  all ${number} texts were in the conversation afterwards`);
  } finally {
    calendars.close();
    await installation.stop();
  }
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

async function post(url: string, body: string): Promise<void> {
  const headers = { 'content-type': 'application/x-www-form-urlencoded' };
  await (await fetch(url, { method: 'POST', headers, body })).arrayBuffer();
}

/** What is measured while the attack is made over and over, one after the other. */
async function beside(attack: () => Promise<void>, measure: () => Promise<number>) {
  let over = false;
  let times = 0;
  const attacking = (async () => {
    for (; !over; times++) await attack();
  })();
  const measured = await measure();
  over = true;
  await attacking;
  return { median: measured, times };
}

function report(what: string, idle: number, { median: busy, times }: { median: number; times: number }): void {
  console.log(
    `Beside ${what} (${times} times): a post is answered in ${busy.toFixed(1)} ms at the median, idle ${idle.toFixed(1)} ms: ${(busy / idle).toFixed(2)} times as long`,
  );
}
