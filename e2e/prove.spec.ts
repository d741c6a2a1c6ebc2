/** Proving by clicking: three complaints from symptom to fixed, a test from red to green, and a drill. */
import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { BRACKWATER, expectAccessible, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

const BENCH = `http://127.0.0.1:${BENCH_PORT}`;
const INES = '+447700900123';

async function bench(method: string, path: string, body?: object) {
  const answer = await fetch(BENCH + path, { method, ...(body ? { body: JSON.stringify(body) } : {}) });
  expect(answer.ok).toBe(true);
  return answer.json();
}

const switchFault = (service: string, fault: string, on: boolean) =>
  bench('PATCH', '/faults', { [service]: { [fault]: on } });

const switches = async () => ((await bench('GET', '/')) as { faults: Record<string, Record<string, boolean>> }).faults;

// What a test leaves broken is not the next one's fault.
test.afterEach(() => bench('PATCH', '/faults', { lockbook: { answers500: false, anotherSecret: false } }));

/** Why Lockbook did not take what it was told last; nothing where it did. */
/** What the app had against the last event; nothing where it accepted it, for the second time too. */
async function lastRefusal() {
  const { events } = (await bench('GET', '/lockbook')) as { events: { problem?: string }[] };
  const problem = events.at(-1)?.problem;
  return problem === 'seen before, ignored' ? undefined : problem;
}

async function complain(page: Page, symptom: string, channel?: string, app?: string) {
  await page.goto('/prove/diagnosis');
  if (channel) {
    await page.getByLabel('On channel').filter({ visible: true }).selectOption({ label: channel });
    await page.waitForURL(/channel=/);
  }
  if (app) {
    await page.getByLabel('With app').filter({ visible: true }).selectOption({ label: app });
    await page.waitForURL(/app=/);
  }
  await page.getByRole('link', { name: symptom, exact: true }).click();
  await page.waitForURL(/symptom=/);
}

const verdict = (page: Page, cause: string) =>
  page.locator(`[data-verdict=determined] [data-cause="${cause}"]`).first();

test('replies don’t appear: the provider has no address; one button sets it', async ({ page }) => {
  await signIn(page);
  await page.goto(`${BRACKWATER}/console`);
  const id = (await page.getByRole('link').first().getAttribute('href'))?.split('/').at(-1) ?? '';
  const remote = (await bench('GET', `/brackwater/accounts/${id}`)) as {
    numbers: { number: string; inbound: object }[];
  };
  await bench('PATCH', `/brackwater/accounts/${id}`, {
    numbers: remote.numbers.map((each) =>
      each.number === '+442079460114' ? { ...each, inbound: { method: 'POST', primary: '', fallback: '' } } : each,
    ),
  });
  await page.goto('/connect/providers');
  await page.getByRole('link', { name: 'Brackwater, main account' }).click();
  await page.getByRole('button', { name: 'Check now' }).click();
  await expect(page.locator('[data-finding=address-missing]').first()).toBeVisible();

  await complain(page, 'Replies don’t appear', 'Harbour desk');
  await expectAccessible(page, 'the page of diagnosis');
  const testing = page.getByRole('button', { name: 'Test it' });
  await expect(verdict(page, 'address-missing').or(testing)).toBeVisible();
  if (await testing.isVisible()) await testing.click();
  await expect(verdict(page, 'address-missing')).toBeVisible();
  await expect(page.getByText('What speaks for it')).toBeVisible();
  await page.getByRole('button', { name: 'Set the address for me' }).click();
  await expect(verdict(page, 'address-missing')).toHaveCount(0);
});

test('nothing arrives: the account was switched off here; one button switches it on', async ({ page }) => {
  await signIn(page);
  await goTo(page, 'Providers');
  await page.getByRole('link', { name: 'Brackwater, main account' }).click();
  await page.getByRole('button', { name: 'Switch off' }).click();
  await page.getByRole('dialog').getByRole('button', { name: /off/i }).click();
  await expect(page.getByText('The account is switched off').first()).toBeVisible();
  await complain(page, 'Nothing arrives', 'Harbour desk');
  const testing = page.getByRole('button', { name: 'Test it' });
  await expect(verdict(page, 'account-disabled').or(testing)).toBeVisible();
  if (await testing.isVisible()) await testing.click();
  await expect(verdict(page, 'account-disabled')).toBeVisible();
  await page.getByRole('button', { name: 'Switch the account on' }).click();
  await expect(verdict(page, 'account-disabled')).toHaveCount(0);
});

test('the app doesn’t get it: its copy of the secret is old; fixed at the app, it is the cause no more', async ({
  page,
}) => {
  await signIn(page);
  await switchFault('lockbook', 'anotherSecret', true);
  await bench('POST', `/handsets/${encodeURIComponent(INES)}/texts`, {
    to: '+442079460114',
    text: 'LOCK Heron',
    way: 'text',
  });
  await expect.poll(lastRefusal).toBeDefined();
  await complain(page, 'The app doesn’t get it', 'Harbour desk', 'Lockbook');
  await expect(verdict(page, 'app-signature-refused')).toBeVisible();
  await page.getByRole('link', { name: /Open it/ }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Lockbook' })).toBeVisible();

  await goTo(page, 'Bench');
  await page.locator('summary', { hasText: 'Lockbook' }).waitFor();
  await page.getByLabel('Has another secret').click();
  await expect.poll(async () => (await switches()).lockbook?.anotherSecret).toBe(false);
  await complain(page, 'The app doesn’t get it', 'Harbour desk', 'Lockbook');
  await expect
    .poll(
      async () => {
        await page.reload();
        return verdict(page, 'app-signature-refused').count();
      },
      { intervals: [4000] },
    )
    .toBe(0);
});

test('a delivery test: written, failed by a fault switch, fixed, green, exported', async ({ page }) => {
  await signIn(page);
  await goTo(page, 'Delivery tests');
  await expectAccessible(page, 'the page of delivery tests');
  await page.getByRole('link', { name: 'Write a test' }).click();
  await page.getByLabel('Name of the test').fill('Nothing is lost on Harbour desk');
  await page.getByLabel('Sender handset').selectOption({ label: 'Ines Calder' });
  await page.getByLabel('Text of the message').fill('LOCK Tern {{ run }}');
  await page.getByLabel('Channel written to').selectOption({ label: 'Harbour desk' });
  await page.getByRole('button', { name: 'Remove expectation 1' }).click();
  await page.getByLabel('And then').selectOption({ label: 'an app accepts the event' });
  await page.getByLabel('App that is notified').selectOption({ label: 'Lockbook' });
  await page.getByLabel('Within seconds').fill('8');
  await page.getByLabel('And then').selectOption({ label: 'a text arrives at a handset' });
  await page.getByLabel('Text awaited').fill('Passage booked');
  await page.getByLabel('Within seconds').nth(1).fill('8');
  await expect(page.locator('[data-sentence]')).toHaveText(
    'When Ines Calder’s handset writes “LOCK Tern {{ run }}” to Harbour desk, then Lockbook accepts the event within 8 s, and a text containing “Passage booked” arrives at Ines Calder’s handset within 8 s.',
  );
  await expectAccessible(page, 'the editor of tests');
  await page.getByRole('button', { name: 'Save the test' }).click();
  await page.waitForURL(/tests\/dtt_/);

  await test.step('red, with the cause', async () => {
    await switchFault('lockbook', 'answers500', true);
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.waitForURL(/runs\/dtr_/);
    await expect(page.locator('[data-run=failed]').first()).toBeVisible();
    await expect(page.locator('[data-holds=false]').first()).toContainText('The app answered with an error');
    await expect(page.getByText('The way in')).toBeVisible();
    await expectAccessible(page, 'a failed run');
  });

  await test.step('fixed on the bench, green', async () => {
    await page.goto('/prove/bench');
    await page.getByLabel('Answers 500').first().waitFor();
    await page.getByRole('group', { name: 'Its webhook address' }).getByRole('switch', { name: 'Answers 500' }).click();
    await goTo(page, 'Apps');
    await page.getByRole('link', { name: 'Lockbook', exact: true }).first().click();
    await page.getByRole('row').getByRole('button', { name: 'Send again' }).first().click();
    await goTo(page, 'Delivery tests');
    const row = page.locator('[data-test="Nothing is lost on Harbour desk"]');
    // A run before that would wait behind what the app refused, until it is called again by itself.
    await expect.poll(lastRefusal).toBeUndefined();
    await row.getByRole('button', { name: 'Run' }).click();
    await page.waitForURL(/runs\/dtr_/);
    await expect(page.locator('[data-run=passed]').first()).toBeVisible();
    await expect(page.locator('[data-holds=true]')).toHaveCount(2);
  });

  await test.step('exported as JUnit', async () => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'JUnit XML' }).click(),
    ]);
    const xml = readFileSync(await download.path(), 'utf8');
    expect(xml).toContain('<testcase name="Nothing is lost on Harbour desk"');
    expect(xml).toMatch(/tests="1" failures="0"/);
  });
});

test('a drill: something is wrong, the switches are out of sight, a wrong answer costs, the right one ends it', async ({
  page,
}) => {
  await signIn(page);
  await goTo(page, 'Drills');
  await page.getByRole('button', { name: 'Begin a drill: easy' }).click();
  const complaint = page.getByText('The fault switches are out of sight meanwhile');
  await expect(complaint).toBeVisible();
  await expectAccessible(page, 'a running drill');
  await page.getByRole('button', { name: /A hint/ }).click();
  await expect(page.getByRole('list', { name: 'Hints' }).getByRole('listitem')).toHaveCount(1);

  await goTo(page, 'Bench');
  await expect(page.getByText('a drill is running')).toBeVisible();
  await expect(page.getByLabel('Credit is gone')).toHaveCount(0);
  // The stand-ins themselves know; an administrator would ask Diagnosis.
  const setNow = async () =>
    Object.values(await switches()).flatMap((ofOne) => Object.entries(ofOne).filter(([, on]) => on === true));
  const [set] = await setNow();
  const answers: Record<string, string> = {
    creditGone: 'The account has no credit left',
    signsWithAnotherSecret: 'A request’s signature does not match',
    down: 'The app could not be reached',
  };
  await goTo(page, 'Drills');
  const cause = page.getByLabel('The cause');
  await cause.selectOption({ label: 'The reply window is closed' });
  await page.getByRole('button', { name: 'That is the cause' }).click();
  await expect(page.getByText('It is not: The reply window is closed.')).toBeVisible();
  await cause.selectOption({ label: answers[set?.[0] ?? ''] ?? '' });
  await page.getByRole('button', { name: 'That is the cause' }).click();
  await expect(page.getByRole('heading', { name: 'Finished drills' })).toBeVisible();
  const points = Number(await page.locator('table td').first().textContent());
  expect(points).toBeGreaterThan(50);
  expect(points).toBeLessThan(80);
  expect(await setNow()).toEqual([]);
});

test('a failed message beside the last that worked, and its trail as a file', async ({ page }) => {
  await signIn(page);
  await page.goto('/watch/messages?direction=out&state=failed');
  await page.locator('tbody a').first().click();
  await expect(page.getByRole('heading', { level: 1, name: 'Trail' })).toBeVisible();
  const strip = page.getByRole('region', { name: /Hops of/ }).first();
  await strip.locator('button[data-hop]').first().focus();
  await page.keyboard.press('ArrowRight');
  await expect(strip.locator('button[data-hop]').nth(1)).toBeFocused();
  await page.keyboard.press('End');
  await expect(strip.locator('button[data-hop]').last()).toBeFocused();

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Share as a file' }).click(),
  ]);
  const file = JSON.parse(readFileSync(await download.path(), 'utf8')) as {
    windgap: string;
    legs: { hops: object[] }[];
  };
  expect(file.windgap).toBe('trail');
  expect(file.legs[0]?.hops.length).toBeGreaterThan(3);

  await page.getByRole('link', { name: 'Compare with the last success' }).click();
  await expect(page.getByRole('heading', { name: 'Compare with the last success' })).toBeVisible();
  await expect(page.locator('[data-differs=true]').first()).toBeVisible();
  await expectAccessible(page, 'a trail beside another');
});
