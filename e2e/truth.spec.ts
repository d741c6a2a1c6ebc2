/** Diagnosis where no case was foreseen: where it is and whom to ask, what is over, what is well, and two at once. */
import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { expectAccessible, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

const BENCH = `http://127.0.0.1:${BENCH_PORT}`;
const INES = '+447700900123';
const TOMAS = '+46701740612';
const ODILE = '+33639980417';
const OWN_PHONE = '+447700900990';

async function bench(method: string, path: string, body?: object) {
  const answer = await fetch(BENCH + path, { method, ...(body ? { body: JSON.stringify(body) } : {}) });
  expect(answer.ok).toBe(true);
  return answer.json();
}

const brackwater = (faults: Record<string, boolean>) => bench('PATCH', '/faults', { brackwater: faults });

test.afterEach(async () => {
  await brackwater({ portal: false, refusesOddly: false, swallowsAbroad: false, regionsOff: false });
  await bench('PATCH', `/handsets/${encodeURIComponent(TOMAS)}`, { power: 'on' });
});

async function complain(page: Page, symptom: string, phone = '') {
  await page.goto('/prove/diagnosis');
  await page.getByLabel('On channel').filter({ visible: true }).selectOption({ label: 'Harbour desk' });
  await page.waitForURL(/channel=/);
  if (phone) {
    await page.getByLabel('For the phone').fill(phone);
    await page.getByLabel('For the phone').press('Enter');
    await page.waitForURL(/phone=/);
  }
  await page.getByRole('link', { name: symptom, exact: true }).click();
  await page.waitForURL(/symptom=/);
}

const verdict = (page: Page, which: string) => page.locator(`[data-verdict=${which}]`);

/** One message by the form, until its conversation shows what became of it. */
async function send(page: Page, to: string, text: string, becomes: RegExp) {
  await page.goto(`/send/message?to=${encodeURIComponent(to)}`);
  await page.getByLabel('Text', { exact: true }).fill(text);
  await page.getByRole('radio', { name: 'Harbour desk' }).check();
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await page.waitForURL(/\/route\/conversations\//);
  await expect(page.getByRole('listitem').filter({ hasText: text }).getByText(becomes).first()).toBeVisible();
}

/** Answers what is asked and lets test what can be, until there is a verdict. */
async function goOn(page: Page, which: 'latest' | 'none' = 'latest') {
  for (let turn = 0; turn < 8; turn++) {
    const open = verdict(page, 'open');
    await expect(page.locator('[data-verdict]')).toBeVisible();
    if (!(await open.isVisible())) return;
    const before = page.url();
    const testing = page.getByRole('button', { name: 'Test it' });
    const none = page.getByRole('button', { name: /None of these/ });
    if (await testing.isVisible()) await testing.click();
    else if (await none.isVisible())
      await (which === 'none' ? none : page.locator('[data-verdict=open] li button').first()).click();
    else await page.getByRole('button', { name: 'I don’t know' }).click();
    await page.waitForURL((url) => url.href !== before);
  }
}

test('a fault nobody listed: where it is, whom to ask, and the report for them', async ({ page }) => {
  await signIn(page);
  await brackwater({ portal: true });
  await send(page, INES, 'The gates are open', /Queued|Sending|Uncertain|Failed/);
  await complain(page, 'Nothing arrives', INES);
  // What the first attempt met is there in a moment.
  await expect(async () => {
    await page.reload();
    await goOn(page);
    await expect(verdict(page, 'between')).toBeVisible({ timeout: 1000 });
  }).toPass();
  await expect(page.getByText(/the fault is between the two/).first()).toBeVisible();
  await expect(page.locator('[data-place=provider]')).toHaveAttribute('data-has', 'false');
  await expectAccessible(page, 'a verdict that names a place');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save it as a file' }).click();
  const report = readFileSync(await (await download).path(), 'utf8');
  expect(report).toContain('Sign in to the guest network');
  expect(report).toMatch(/authorization: •+/i);
  expect(report).not.toMatch(/bws_[0-9A-Za-z]{8}/);
  expect(report).toMatch(/\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z/);
});

test('it was broken and is well: since when, what was lost, and that sent again', async ({ page }) => {
  await signIn(page);
  await brackwater({ refusesOddly: true });
  await send(page, INES, 'Tollgate closes at six', /Failed/);
  await brackwater({ refusesOddly: false });
  await send(page, TOMAS, 'Tollgate is open', /Delivered/);
  await complain(page, 'It worked yesterday');
  await goOn(page);
  await expect(verdict(page, 'healed')).toBeVisible();
  await page.getByRole('button', { name: /again/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: /again/ }).click();
  await expect(page.getByText(/done again/)).toBeVisible();
  await expect
    .poll(async () => {
      const all = (await bench('GET', `/received?numbers=${encodeURIComponent(INES)}`)) as Record<
        string,
        { text: string }[]
      >;
      return all[INES]?.filter(({ text }) => text === 'Tollgate closes at six').length;
    })
    .toBe(1);
});

test('a path that is well is called well, of the message that is meant', async ({ page }) => {
  await signIn(page);
  await send(page, OWN_PHONE, 'The slip is free', /Delivered/);
  await complain(page, 'Nothing arrives', OWN_PHONE);
  await goOn(page);
  await expect(verdict(page, 'well')).toBeVisible();
  await expect(page.getByText('Nothing is wrong on this path now')).toBeVisible();
  await expect(page.locator('[data-place=phone]')).toHaveAttribute('data-has', 'true');
  await page.getByLabel('Which message is it about?').selectOption({ label: 'None of these: it is not here' });
  await page.waitForURL(/message=none/);
  await goOn(page, 'none');
  await expect(page.locator('[data-place=windgap]')).toHaveAttribute('data-has', 'false');
});

test('two faults at once are both named', async ({ page }) => {
  await signIn(page);
  await bench('PATCH', `/handsets/${encodeURIComponent(TOMAS)}`, { power: 'off' });
  await send(page, TOMAS, 'The basin is drained', /Failed|Sent/);
  await brackwater({ refusesOddly: true });
  await send(page, ODILE, 'The basin is drained', /Failed/);
  await brackwater({ refusesOddly: false });
  await complain(page, 'Only some people receive it');
  await goOn(page);
  for (const cause of ['handset-unreachable', 'request-refused'])
    await expect(page.locator(`[data-cause=${cause}]`).first()).toBeVisible();
});
