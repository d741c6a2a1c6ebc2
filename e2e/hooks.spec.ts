/** A send hook from nothing, by clicking: address, first post, message from its real fields, a text on a handset. */
import { expect } from '@playwright/test';
import { expectAccessible, goTo, LOCKBOOK, signIn } from './helpers';
import { revealing, test } from './revealed';

test('a booking in Lockbook becomes a text on the skipper’s handset; mistakes are named on the way', async ({
  page,
  context,
}) => {
  await signIn(page);
  const lockbook = revealing(await context.newPage());
  await lockbook.goto(LOCKBOOK);
  const book = async (mobile = '07700 900123') => {
    await lockbook.getByLabel('Mobile').fill(mobile);
    await lockbook.getByRole('button', { name: 'Book it' }).click();
  };

  await test.step('the address is made and put into Lockbook', async () => {
    await goTo(page, 'Apps');
    await page.locator('#main').getByRole('link', { name: 'Lockbook' }).click();
    await page.getByRole('button', { name: 'Add a send hook' }).click();
    await page.getByLabel('What it sends').fill('Passage booked');
    await page.getByRole('button', { name: 'Create the address' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Passage booked' })).toBeVisible();
    await expect(page.getByText('Waiting for the first post…')).toBeVisible();
    await page.getByRole('button', { name: 'Copy Send hook' }).click();
    const address = await page.evaluate(() => navigator.clipboard.readText());
    expect(address).toContain('/hooks/passage-booked-');
    await lockbook.getByLabel('Post booked passages to').fill(address);
    await lockbook.getByRole('button', { name: 'Save connection' }).click();
  });

  const fields = page.getByRole('table', { name: 'Fields of the latest posts' });
  await test.step('the first post brings its real field names, without reloading', async () => {
    await book();
    await expect(fields).toContainText('skipper.mobile');
    await expect(page.getByRole('table', { name: 'Requests', exact: true })).toContainText('Kept as a sample');
    await expectAccessible(page, 'a send hook with its first sample');
  });

  await test.step('the message, with the field’s label at first: said while typing', async () => {
    await page.getByLabel('Text', { exact: true }).fill('{{ Full name }}: passage ');
    await expect(page.locator('[data-preview=findings]')).toBeVisible();
    await page.getByLabel('Text', { exact: true }).fill('{{ skipper.FullName }}: passage ');
    await expect(page.locator('[data-preview=findings]')).toContainText('Use skipper.full_name.');
    await page.getByLabel('Text', { exact: true }).fill('Passage booked, {{ skipper.full_name }}: ');
    await page.getByLabel('Field to insert').selectOption('passage.lock');
    await page.getByLabel('Text', { exact: true }).press('End');
    await page.getByRole('button', { name: 'Insert the field' }).click();
    await expect(page.getByLabel('Text', { exact: true })).toHaveValue(
      'Passage booked, {{ skipper.full_name }}: {{ passage.lock }}',
    );
    await expect(page.locator('[data-preview=findings]')).toContainText(
      'a national number, and this hook has no country',
    );
    await page.getByLabel('Numbers without a country code').selectOption('GB');
    await expect(page.locator('[data-preview=message]')).toContainText('Passage booked, Ines Calder: North lock');
    await expect(page.locator('[data-preview=message]')).toContainText('+44 7700 900123');
    await page.getByRole('button', { name: 'Save the message' }).click();
    await expect(page.getByText('1 of the last 1 posts make one')).toBeVisible();
  });

  await test.step('the next booking is a text on the handset, and the hook is proven', async () => {
    await book();
    await expect(page.locator('#main [data-hop=call-in]')).toHaveAttribute('data-state', 'proven');
    const bench = revealing(await context.newPage());
    await bench.goto('/prove/bench');
    const handset = bench.getByRole('article', { name: 'Handset of Ines Calder' });
    await expect(handset.locator('[data-entry=received]').last()).toContainText(
      'Passage booked, Ines Calder: North lock',
    );
    await bench.close();
  });

  await test.step('a record without a phone is refused, with the reason on both sides', async () => {
    await book('');
    await expect(page.locator('#main [data-hop=call-in]')).toHaveAttribute('data-state', 'broken');
    await expect(page.getByText('this record has no phone number').first()).toBeVisible();
    await expect(lockbook.locator('#live')).toContainText('this record has no phone number');
    await page.getByRole('button', { name: 'Post', exact: true }).first().click();
    await expect(page.getByRole('dialog')).toContainText('full_name');
    await expectAccessible(page, 'a post');
    await page.keyboard.press('Escape');
  });

  await test.step('switched off with a reason that Lockbook is told; a test from here after it is on again', async () => {
    await page.getByRole('button', { name: 'Switch off' }).click();
    await page.getByLabel('Reason').fill('North lock is being rebuilt');
    await page.getByRole('button', { name: 'Switch it off' }).click();
    await expect(page.getByText('This hook is switched off: North lock is being rebuilt.')).toBeVisible();
    await book();
    await expect(lockbook.locator('#live')).toContainText('switched off: North lock is being rebuilt');
    await page.getByRole('button', { name: 'Switch on' }).click();
    await expect(page.getByRole('button', { name: 'Switch off' })).toBeVisible();
    await page.getByRole('button', { name: 'Post a test' }).click();
    await page.getByRole('button', { name: 'Send it' }).click();
    await expect(page.getByText('Answered 202')).toBeVisible();
    await expect(page.locator('#main [data-hop=call-in]')).toHaveAttribute('data-state', 'proven');
  });
});
