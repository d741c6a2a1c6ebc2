/** Takes the pictures in docs/screenshots/ from a running demonstration. Usage: node scripts/screenshots.mjs [names…] */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM_FLAGS, CHROMIUM_PATH } from './chromium.mjs';
import { ROOT } from './lib.mjs';

const origin = process.env.WINDGAP_PUBLIC_URL ?? 'http://127.0.0.1:3000';
const folder = process.env.SHOTS ?? join(ROOT, 'docs', 'screenshots');
const dark = process.env.DARK === '1';
const wanted = process.argv.slice(2);

const first = (selector) => async (page) => {
  await page.locator(selector).first().click();
  await page.waitForLoadState('networkidle').catch(() => undefined);
};

const named = (name) => async (page) => {
  await page.getByRole('link', { name }).first().click();
  await page.waitForLoadState('networkidle').catch(() => undefined);
};

/** Lockbook books two passages, one for somebody without a phone, and the hook they go to is opened. */
async function bookings(page) {
  const lockbook = new URL(origin);
  lockbook.port = String(Number(process.env.WINDGAP_BENCH_PORT ?? 4300) + 20);
  for (const mobile of ['', '07700 900123'])
    await fetch(`${lockbook.origin}/book`, {
      method: 'POST',
      redirect: 'manual',
      body: new URLSearchParams({ lock: 'North lock', time: '14:30', skipper: 'Ines Calder', mobile, boat: 'Heron' }),
    });
  await first('table a')(page);
  await page.waitForURL(/\/apps\//);
  await page.getByRole('link', { name: 'Passage confirmed' }).click();
  await page.waitForURL(/\/hooks\//);
}

/** Weir Desk is connected from its own page, a ticket action is added, and a handset writes. */
async function records(page) {
  const at = (offset) => {
    const url = new URL(origin);
    url.port = String(Number(process.env.WINDGAP_BENCH_PORT ?? 4300) + offset);
    return url.origin;
  };
  const weir = await (await fetch(`${at(0)}/weir`)).json();
  await page.getByRole('button', { name: 'Add an app' }).click();
  await page.getByLabel('Name').fill('Weir Desk');
  await page.getByLabel('What it is').fill('Tickets of the duty desk');
  await page.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('link', { name: 'Records', exact: true }).click();
  await page.getByRole('radio', { name: 'Weir Desk' }).check();
  await page.getByLabel('Address', { exact: true }).fill(at(90));
  await page.getByLabel('Desk', { exact: true }).fill(weir.desk);
  await page.getByLabel('Desk key').fill(weir.key);
  await page.getByRole('button', { name: 'Check and save' }).click();
  await page.getByRole('button', { name: 'Add a record action' }).click();
  await page.getByLabel('Name', { exact: true }).fill('A ticket for who asks');
  await page.getByLabel('For each message that comes in').selectOption('ticket create-if-none');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.getByRole('heading', { name: 'A ticket for who asks' }).waitFor();
  for (const text of ['The north gate does not close.', 'It is still open.']) {
    await fetch(`${at(0)}/handsets/${encodeURIComponent('+46701740612')}/texts`, {
      method: 'POST',
      body: JSON.stringify({ to: '+442079460114', text }),
    });
    await page.waitForTimeout(1500);
  }
}

const VIEWS = {
  overview: ['/'],
  'provider-account': ['/connect/providers', first('table a')],
  connect: ['/connect/providers/new'],
  'before-connecting': ['/connect/providers/new?connector=tarrow'],
  trunk: ['/connect/providers', named('Ostrel trunk')],
  numbers: ['/connect/numbers'],
  profile: ['/connect/profiles/tarrow'],
  channels: ['/connect/channels'],
  template: ['/compose/templates', named('mooring-renewal')],
  contacts: ['/compose/contacts'],
  channel: ['/connect/channels', first('table a')],
  app: ['/apps', first('table a')],
  'send-hook': ['/apps', bookings],
  records: ['/apps', records],
  conversation: ['/route/conversations', first('ul[aria-label=Conversations] a')],
  bench: ['/prove/bench'],
  messages: ['/watch/messages'],
  trail: ['/watch/messages?direction=out&state=delivered', first('tbody a')],
  'trail-failed': ['/watch/messages?direction=out&state=failed', first('tbody a')],
};

mkdirSync(folder, { recursive: true });
const browser = await chromium.launch({ executablePath: CHROMIUM_PATH, args: CHROMIUM_FLAGS });
const context = await browser.newContext({ viewport: { width: Number(process.env.WIDTH ?? 1280), height: 800 } });
if (dark) await context.addCookies([{ name: 'theme', value: 'dark', url: origin }]);
const page = await context.newPage();
page.on('console', (message) => message.type() === 'error' && console.log('console:', message.text()));

async function shoot(name) {
  await page.waitForTimeout(900);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(name, page.url());
}

await page.goto(`${origin}/sign-in`);
await page.getByLabel('E-mail').fill('maren@mossgate.example');
await page.getByLabel('Password').fill('towpath at low water');
await page.getByRole('button', { name: 'Sign in' }).click();
await page.waitForURL(`${origin}/`);
for (const [name, [path, act]] of Object.entries(VIEWS)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  await page.goto(origin + path);
  if (act) {
    const before = page.url();
    await act(page);
    await page.waitForURL((url) => String(url) !== before).catch(() => undefined);
  }
  await shoot(name);
}
await browser.close();
