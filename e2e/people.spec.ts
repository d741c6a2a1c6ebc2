/** Who is in and who is out, as an owner does it: invited, in another browser, another role, switched off. */
import { expect } from '@playwright/test';
import { expectAccessible, signIn } from './helpers';
import { revealing, test } from './revealed';

const PASSWORD = 'heron under the bridge';

test('a colleague is invited, chooses a password, gets another role and is switched off, out each time with the next click', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page);
  await page.goto('/people');
  await page.getByRole('button', { name: 'Invite a person' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name', { exact: true }).fill('Hilde Brook');
  await dialog.getByLabel('E-mail').fill('hilde@mossgate.example');
  await dialog.getByLabel('Role').selectOption('viewer');
  await expectAccessible(page, 'an invitation');
  await page.getByRole('button', { name: 'Make the invitation' }).click();
  await page.getByRole('button', { name: 'Copy Invitation' }).click();
  const link = await page.evaluate(() => navigator.clipboard.readText());
  await page.getByRole('button', { name: 'I have copied it' }).click();
  const row = page.getByRole('row', { name: /Hilde Brook/ });
  await expect(row).toContainText('invited, no password yet');

  const hers = revealing(await (await browser.newContext({ baseURL })).newPage());
  await hers.goto(link);
  await hers.getByLabel('Password').fill('short');
  await hers.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(hers.locator('form [role=alert]')).toContainText('shorter than 15 characters');
  await expectAccessible(hers, 'choosing a password');
  await hers.getByLabel('Password').fill(PASSWORD);
  await hers.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(hers.getByRole('heading', { name: 'Overview' })).toBeVisible();
  await hers.goto('/you');
  await expect(hers.getByRole('table', { name: 'Sessions' }).getByRole('row')).toHaveCount(2);
  // Once is once.
  const again = revealing(await (await browser.newContext({ baseURL })).newPage());
  await again.goto(link);
  await again.getByLabel('Password').fill(PASSWORD);
  await again.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(again.locator('form [role=alert]')).toContainText('was used');

  await row.getByRole('button', { name: 'Role of Hilde Brook' }).click();
  await dialog.getByLabel('Role').selectOption('agent');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(row).toContainText('agent');
  await hers.goto('/watch/messages');
  await expect(hers.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await hers.getByLabel('E-mail').fill('hilde@mossgate.example');
  await hers.getByLabel('Password').fill(PASSWORD);
  await hers.getByRole('button', { name: 'Sign in', exact: true }).click();
  // On the page they were going to.
  await expect(hers.getByRole('heading', { name: 'Messages' })).toBeVisible();

  await row.getByRole('button', { name: 'Switch Hilde Brook off' }).click();
  await dialog.getByLabel('Their conversations and to-dos go to').selectOption({ label: 'Priya Lockhart' });
  await expectAccessible(page, 'switching somebody off');
  await dialog.getByRole('button', { name: 'Switch off' }).click();
  await expect(row).toContainText('switched off');
  await hers.goto('/route/conversations');
  await expect(hers.getByRole('heading', { name: 'Sign in' })).toBeVisible();
});
