/** An empty installation asks for its first owner, once. */
import { expect } from '@playwright/test';
import { firstOwnerCode } from '../src/operations/people/firstOwner';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { expectAccessible } from './helpers';
import { test } from './revealed';

let installation: Installation;
let code: string;
test.beforeAll(async () => {
  installation = await startInstallation({ engine: false });
  // What the start printed went to nobody here; each call makes another code.
  code = (await firstOwnerCode(installation.ctx)) ?? '';
});
test.afterAll(() => installation.stop());

test('the first owner is made in the browser, then the way in is to sign in', async ({ page }) => {
  await page.goto(`${installation.origin}/`);
  await expect(page.getByRole('heading', { name: 'First owner' })).toBeVisible();
  await expectAccessible(page, 'welcome');
  await page.getByLabel('Your name').fill('Hilde Brook');
  await page.getByLabel('E-mail').fill('hilde@mossgate.example');
  await page.getByLabel('Code').fill('nothing-of-it');
  await page.getByLabel('Password').fill('a long enough password');
  await page.getByRole('button', { name: 'Make this account' }).click();
  await expect(page.locator('form [role=alert]')).toContainText('not the code of this start');
  await page.getByLabel('Code').fill(code);
  await page.getByLabel('Password').fill('short');
  await page.getByRole('button', { name: 'Make this account' }).click();
  await expect(page.locator('form [role=alert]')).toContainText('shorter than 15 characters');
  await page.getByLabel('Password').fill('a long enough password');
  await page.getByRole('button', { name: 'Make this account' }).click();
  await expect(page.getByText('Nothing is connected yet.')).toBeVisible();
  await expectAccessible(page, 'empty overview');
  await page.goto(`${installation.origin}/prove/bench`);
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
  await page.goto(`${installation.origin}/welcome`);
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
});
