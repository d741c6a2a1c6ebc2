/** An app's connections, looked after as an administrator would: keys, test events, an outage, a pause. */
import { expect } from '@playwright/test';
import { expectAccessible, expectReadableToast, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

test('keys with an end are made and replaced; a test event proves the way out; an outage is told, and its end', async ({
  page,
  request,
}) => {
  const fault = (on: boolean) =>
    request.patch(`http://127.0.0.1:${BENCH_PORT}/faults`, { data: { lockbook: { answers500: on } } });
  await signIn(page);
  await goTo(page, 'Apps');
  await page.getByRole('link', { name: 'Lockbook' }).click();

  await test.step('a key for one purpose, for 30 days, then another in its place', async () => {
    await page.getByRole('button', { name: 'Make an API key' }).click();
    await page.getByLabel('Name of the key').fill('Quay screens');
    await page.getByLabel(/read messages it sent/).uncheck();
    await page.getByLabel('The new key works').selectOption('30');
    await expectAccessible(page, 'making a key');
    await page.getByRole('button', { name: 'Make the key' }).click();
    await page.getByRole('button', { name: 'I have copied it' }).click();
    const row = page.getByRole('row', { name: /Quay screens/ });
    await expect(row).toContainText('messages:send');
    await expect(row).toContainText('Ends in 29 days');
    await row.getByRole('button', { name: 'Replace' }).click();
    await page.getByRole('button', { name: 'Make the new key' }).click();
    await page.getByRole('button', { name: 'I have copied it' }).click();
    await expect(page.getByRole('row', { name: /Quay screens/ })).toHaveCount(2);
    await expect(page.getByRole('row', { name: /Quay screens/ }).filter({ hasText: 'Active' })).toHaveCount(1);
  });

  await test.step('the API is read and called from its own page', async () => {
    await page.getByRole('button', { name: 'Make an API key' }).click();
    await page.getByLabel('Name of the key').fill('To try with');
    await page.getByRole('button', { name: 'Make the key' }).click();
    await page.getByRole('button', { name: 'Copy API key' }).click();
    const key = await page.evaluate(() => navigator.clipboard.readText());
    const app = page.url();
    await page.goto('/apps/api');
    const measure = page.locator('[data-operation=measureText]');
    await expect(measure).toHaveCount(1);
    await page.getByLabel('API key to try with').fill(key);
    await measure.locator('summary').click();
    await measure.getByRole('button', { name: 'Call it' }).click();
    await expect(measure.locator('[data-answer="200"]')).toContainText('"encoding": "UCS-2"');
    const one = page.locator('[data-operation=getMessage]');
    await one.locator('summary').click();
    await one.getByLabel('id').fill('msg_none');
    await one.getByRole('button', { name: 'Call it' }).click();
    await expect(one.locator('[data-answer="404"]')).toContainText('problems/not-found');
    await expectAccessible(page, 'the API');
    await page.goto(app);
  });

  // While a button works it has another name; the first of the page would then be another address's.
  const address = page.getByRole('article', { name: /^Events to/ }).first();
  const events = address.getByRole('region', { name: 'Latest deliveries' });
  await test.step('a test event arrives, and what was sent can be read', async () => {
    await address.getByRole('button', { name: 'Send a test event' }).click();
    const row = events.getByRole('row').nth(1);
    await expect(row).toContainText('test');
    await expect(row).toContainText('Accepted with 204');
    await row.getByRole('button', { name: '1 attempt' }).click();
    await expect(page.getByRole('dialog')).toContainText('webhook-signature');
    await expectAccessible(page, 'an attempt');
    await page.keyboard.press('Escape');
  });

  await test.step('the app stops taking events: it is told since when and when it is tried again', async () => {
    await fault(true);
    const tests = events.getByRole('row', { name: /\btest\b/ });
    const before = await tests.count();
    for (let n = 1; n <= 3; n++) {
      await address.getByRole('button', { name: 'Send a test event' }).click();
      await expect(tests).toHaveCount(before + n);
    }
    // The first is tried again while the others come, so the last may be kept back before it was ever tried.
    await expect(tests.nth(2)).toContainText('The app answered with an error');
    for (const newer of [0, 1])
      await expect(tests.nth(newer)).toContainText(/The app answered with an error|Waiting for its turn/);
    await expect(address.getByText(/Not accepted since .* 3 events wait; next attempt/)).toBeVisible();
    await expect(page.locator('#main [data-hop=call-out]').first()).toHaveAttribute('data-state', 'broken');
    await fault(false);
    await expect(address.getByText(/events accepted in 7 days/)).toBeVisible();
    await expect(page.locator('#main [data-hop=call-out]').first()).toHaveAttribute('data-state', 'proven');
  });

  await test.step('paused and resumed by hand', async () => {
    await address.getByRole('button', { name: 'Pause' }).click();
    await page.getByRole('button', { name: 'Pause it' }).click();
    await expectReadableToast(page, 'Events wait from now on');
    await expect(address.getByText('somebody here paused it')).toBeVisible();
    await address.getByRole('button', { name: 'Resume' }).click();
    await expect(address.getByText(/events accepted in 7 days/)).toBeVisible();
  });
});
