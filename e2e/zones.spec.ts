/** A stoppage at nine in the morning where each of them is, over three zones, on the clock of the Bench. */
import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

const BENCH = `http://127.0.0.1:${BENCH_PORT}`;
const PEOPLE = [
  ['+447700900641', 'Ada', 'Europe/London'],
  ['+447700900642', 'Bo', 'Europe/Paris'],
  ['+447700900643', 'Cleo', 'America/New_York'],
  ['+447700900644', 'Dan', 'America/New_York'],
] as const;

async function bench(method: string, path: string, body?: object): Promise<Response> {
  return fetch(BENCH + path, { method, body: body && JSON.stringify(body) });
}

const now = async () => ((await (await bench('GET', '/')).json()) as { clock: { now: number } }).clock.now;

/** To a moment, by the clock that the installation and its outside share. */
async function moveTo(moment: number) {
  await bench('POST', '/clock', { by: Math.max(1, moment - (await now())) });
}

/** Epoch milliseconds of nine o'clock there, by the offset the zone has on that day. */
function nineAt(day: string, zone: string): number {
  const guess = Date.parse(`${day}T09:00:00Z`);
  const there = new Intl.DateTimeFormat('en-GB', { timeZone: zone, hour: '2-digit', hourCycle: 'h23' }).format(guess);
  return guess - (Number(there) - 9) * 3_600_000;
}

const progress = (page: Page) => page.locator('#progress');

test('each gets it at nine where they are', async ({ page }) => {
  for (const [number, owner] of PEOPLE) await bench('POST', '/handsets', { number, owner, country: 'GB' });
  const day = new Date((await now()) + 36 * 3_600_000).toISOString().slice(0, 10);
  await signIn(page);
  await goTo(page, 'Broadcasts');
  await page.getByRole('button', { name: 'Write a broadcast' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name').fill('At nine');
  await dialog.getByRole('button', { name: 'Begin' }).click();
  await page.getByRole('button', { name: 'Give it a list' }).click();
  await dialog.getByLabel('Or lines').fill(['phone,name,zone', ...PEOPLE.map((person) => person.join(','))].join('\n'));
  await dialog.getByRole('button', { name: 'Take it' }).click();
  await expect(dialog).toHaveCount(0);
  await page.getByLabel('People: add').selectOption({ label: `the list (${PEOPLE.length})` });
  await page.getByLabel('Text', { exact: true }).fill('Good morning {{ name }}, the lock is closed today.');
  await page.getByLabel('Channel', { exact: true }).selectOption({ label: 'Harbour desk' });
  await page.getByLabel('So many go out alone first').fill('0');
  await page.getByLabel('Send time').selectOption({ label: 'at a time of day where each of them is' });
  await page.getByLabel('Day', { exact: true }).fill(day);
  await page.getByLabel('Time there').fill('09:00');
  await page.getByRole('button', { name: 'Save and plan it' }).click();
  await expect(page.locator('#plan')).toContainText(`${PEOPLE.length} of ${PEOPLE.length} people get it`);
  await expect(page.locator('#plan')).toContainText(`${PEOPLE.length} by the zone of the contact`);
  // Plans are good for an hour.
  await page.getByRole('button', { name: 'Start it' }).click();
  const reason = dialog.getByLabel('Reason');
  if (await reason.isVisible()) await reason.fill('The demonstration is young');
  await dialog.getByRole('button', { name: 'Start', exact: true }).click();
  await expect(dialog).toHaveCount(0);
  await expect(progress(page)).toContainText('Nothing is due at the moment; the next leaves at');

  let arrived = 0;
  for (const zone of ['Europe/Paris', 'Europe/London', 'America/New_York']) {
    const moment = nineAt(day, zone);
    await moveTo(moment - 60_000);
    await expect(progress(page)).toContainText(arrived === 0 ? `${PEOPLE.length} not yet` : `${arrived} delivered`);
    await moveTo(moment + 1000);
    arrived += PEOPLE.filter(([, , theirs]) => theirs === zone).length;
    await expect(progress(page)).toContainText(`${arrived} delivered`);
  }
  await expect(page.getByRole('main').locator('[data-broadcast]').first()).toHaveText(/Finished/);

  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name: 'JSON Lines' }).click();
  const rows = readFileSync(await (await coming).path(), 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { address: string; due: string });
  expect(rows.map(({ address, due }) => [address, Date.parse(due)])).toEqual(
    PEOPLE.map(([number, , zone]) => [number, nineAt(day, zone)]),
  );
});
