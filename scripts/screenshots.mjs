/** Takes the pictures in docs/screenshots/ from a running demonstration. Usage: node scripts/screenshots.mjs [names…] */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { CHROMIUM_FLAGS, CHROMIUM_PATH } from './chromium.mjs';
import { ROOT } from './lib.mjs';

const origin = process.env.WINDGAP_PUBLIC_URL ?? 'http://localhost:3000';
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

const at = (offset) => {
  const url = new URL(origin);
  url.port = String(Number(process.env.WINDGAP_BENCH_PORT ?? 4300) + offset);
  return url.origin;
};

const faults = (wanted) => fetch(`${at(0)}/faults`, { method: 'PATCH', body: JSON.stringify(wanted) });

const says = (text) =>
  fetch(`${at(0)}/handsets/${encodeURIComponent('+447700900123')}/texts`, {
    method: 'POST',
    body: JSON.stringify({ to: '+442079460114', text }),
  });

/** The app's secret is an old one while somebody complains. */
async function complaint(page) {
  await faults({ lockbook: { anotherSecret: true } });
  await says('LOCK Heron 10:30');
  await page.waitForTimeout(2500);
  await page.getByLabel('With app').selectOption({ label: 'Lockbook' });
  await page.waitForURL(/app=/);
  await page.getByRole('link', { name: 'The app doesn’t get it' }).click();
  await page.waitForSelector('[data-verdict]');
  await faults({ lockbook: { anotherSecret: false } });
}

/** All tests are run once well and once with an app out of order; a failed run is opened. */
async function runs(page) {
  await page.getByRole('button', { name: 'Run all' }).click();
  await page.waitForTimeout(14_000);
  await faults({ lockbook: { answers500: true } });
  await page.reload();
  await page.locator('[data-test*="Lock passages"]').getByRole('button', { name: 'Run' }).click();
  await page.waitForSelector('[data-run=failed]', { timeout: 60_000 });
  await faults({ lockbook: { answers500: false } });
}

const VIEWS = {
  overview: ['/'],
  'trail-failed': ['/watch/messages?direction=out&state=failed', first('tbody a')],
  'provider-account': ['/connect/providers', first('table a')],
  numbers: ['/connect/numbers'],
  template: ['/compose/templates', named('mooring-renewal')],
  contacts: ['/compose/contacts'],
  broadcast: ['/send/broadcasts', named('Heron Staircase stoppage')],
  channel: ['/connect/channels', first('table a')],
  app: ['/apps', first('table a')],
  'send-hook': ['/apps', bookings],
  conversation: ['/route/conversations', first('ul[aria-label=Conversations] a')],
  readiness: ['/prove/readiness'],
  'test-run': ['/prove/tests', runs],
  'delivery-tests': ['/prove/tests'],
  diagnosis: ['/prove/diagnosis', complaint],
  bench: ['/prove/bench'],
  routes: ['/route/routes'],
  flow: ['/watch/flow?span=week'],
  messages: ['/watch/messages'],
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
await page.getByRole('button', { name: 'Sign in', exact: true }).click();
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
