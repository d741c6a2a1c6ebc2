/** What is not delivered goes a second way; a sender name waits for its registration; a number moves to another provider and back. */
import { expect, type Page } from '@playwright/test';
import { expectAccessible, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

const BENCH = `http://127.0.0.1:${BENCH_PORT}`;

async function faults(settings: object) {
  await fetch(`${BENCH}/faults`, { method: 'PATCH', body: JSON.stringify({ brackwater: settings }) });
}

async function openChannel(page: Page, name: string) {
  await page.goto('/connect/channels');
  await page.getByRole('link', { name, exact: true }).first().click();
  await expect(page.getByRole('heading', { name, level: 1 })).toBeVisible();
}

test('what Harbour desk does not deliver goes over the carrier, and the thread tells both', async ({ page }) => {
  await signIn(page);
  await openChannel(page, 'Harbour desk');
  await page.getByRole('button', { name: 'Add a second way' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('It goes over').selectOption({ label: 'Passage notices' });
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('#second-way')).toContainText('Passage notices');
  await expectAccessible(page, 'a channel with a second way');
  await faults({ creditGone: true });
  try {
    await page.goto('/prove/bench');
    const handset = page.getByRole('article', { name: 'Handset of Odile Marchand' });
    await handset.getByLabel('Text to').selectOption('text +442079460114');
    await handset.getByLabel('Message').fill('Is the harbour open?');
    await handset.getByRole('button', { name: 'Send from this handset' }).click();
    await page.goto('/route/conversations');
    await page.getByRole('link', { name: /Is the harbour open/ }).click();
    await page.getByLabel(/^Reply to/).fill('It is open until ten.');
    await page.getByRole('button', { name: 'Send', exact: true }).click();
    await expect(page.getByText('It went another way, below.')).toBeVisible();
    await expect(page.getByText('second way of the one above')).toBeVisible();
    await page.getByRole('link', { name: 'Trail' }).last().click();
    await expect(page.getByText('Went over Passage notices').first()).toBeVisible();
  } finally {
    await faults({ creditGone: false });
  }
  await openChannel(page, 'Harbour desk');
  await page.locator('#second-way').getByRole('button', { name: 'Remove' }).click();
  await expect(page.locator('#second-way')).toContainText('Nothing is sent another way.');
});

test('nothing leaves under a name before it is registered where names have to be', async ({ page }) => {
  await signIn(page);
  await page.goto('/connect/providers');
  await page.getByRole('link', { name: 'Ostrel trunk' }).first().click();
  await page.getByRole('button', { name: 'Add numbers' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Sender names').fill('Mossgate');
  await dialog.getByRole('button', { name: /^Add/ }).click();
  await expect(page.getByRole('button', { name: 'Make Mossgate a channel' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Make Mossgate a channel' }).click();
  await page.getByLabel('Channel name').fill('By name');
  await page.getByRole('button', { name: 'Make the channel' }).click();
  await expect(page.getByRole('heading', { name: 'By name', level: 1 })).toBeVisible();
  const note = async (state: string) => {
    await page.getByRole('button', { name: 'Note where it stands' }).click();
    await dialog.getByLabel('Country').selectOption({ label: 'Australia' });
    await dialog.getByLabel('It is').selectOption({ label: state });
    await dialog.getByRole('button', { name: 'Save' }).click();
    await expect(dialog).toHaveCount(0);
  };
  const prove = async () => {
    await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
    await dialog.getByLabel('Phone').fill('+61 491 570 006');
    await dialog.getByRole('button', { name: 'Send it' }).click();
  };
  await note('handed in, not decided yet');
  await expect(page.locator('#name-registration')).toContainText('handed in, not decided yet');
  await prove();
  await expect(dialog).toContainText('is handed in and not decided yet');
  await page.keyboard.press('Escape');
  await note('registered');
  await expect(page.locator('[data-name-registration="AU approved"]')).toBeVisible();
  await expectAccessible(page, 'a sender name as a channel');
});

test('a number moves to another provider and comes back with one click', async ({ page }) => {
  await signIn(page);
  await openChannel(page, 'Harbour desk');
  await page.getByRole('button', { name: 'Move the number' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Begin' }).click();
  const move = page.locator('#move');
  await expect(move).toContainText('On its way to another provider');
  await expect(move).toContainText('Ostrel trunk is listened to');
  await expectAccessible(page, 'a number on its way');
  const press = async (name: string, confirm: string) => {
    await move.getByRole('button', { name, exact: true }).click();
    await dialog.getByRole('button', { name: confirm }).click();
    await expect(dialog).toHaveCount(0);
  };
  await press('Cut over now', 'Cut over');
  await expect(move).toContainText('Ostrel trunk sends and is listened to');
  await press('Move back', 'Move back');
  await expect(move).toContainText('Ostrel trunk is listened to');
  await press('Call it off', 'Call it off');
  await expect(move).toContainText('The number can move to another account');
});
