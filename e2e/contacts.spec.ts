/** Contacts by clicking: a file in, an audience, opting out on a handset, and what then cannot be sent. */
import { expect } from '@playwright/test';
import { expectAccessible, goTo, signIn } from './helpers';
import { revealing, test } from './revealed';

const FILE = [
  'Full name,Mobile,Boat,Groups',
  'Ines Calder,07700 900123,Heron,Winter 2026',
  'Ada Fenn,07700 900151,Teal,Winter 2026',
  'Nobody,,Grebe,',
  'Wordy,O7700 900124,Swan,',
].join('\n');

test('a file is examined, imported, found as an audience, exported, and undone', async ({ page }) => {
  await signIn(page);
  await goTo(page, 'Contacts');
  await expectAccessible(page, 'contacts');
  await page.getByRole('link', { name: 'Import', exact: true }).click();
  await page.getByRole('button', { name: 'Choose a file' }).click();
  await page
    .getByLabel('File', { exact: true })
    .setInputFiles({ name: 'winter.csv', mimeType: 'text/csv', buffer: Buffer.from(FILE) });
  await page.getByRole('button', { name: 'Examine it' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'winter.csv' })).toBeVisible();
  await expect(page.getByText('This is what would happen')).toBeVisible();
  await expect(page.locator('[data-import=refused]')).toHaveText('4');
  await expect(page.getByRole('table', { name: 'Refused lines' })).toContainText('is a national number');

  await page.getByLabel('Numbers without a country code').selectOption('GB');
  await page.getByLabel('texts').check();
  await page.getByRole('button', { name: 'Examine again' }).click();
  await expect(page.locator('form [role=alert]')).toContainText('where these people agreed');
  await page.getByLabel('Evidence of the opt-in').fill('Winter mooring forms, signed');
  await page.getByRole('button', { name: 'Examine again' }).click();
  await expect(page.locator('[data-import=refused]')).toHaveText('2');
  await expectAccessible(page, 'an examined import');
  await page.getByRole('button', { name: 'Import 2 contacts' }).click();
  await expect(page.getByText('Imported.', { exact: true })).toBeVisible();

  await goTo(page, 'Contacts');
  await page.getByRole('button', { name: 'By conditions' }).click();
  await page.getByRole('button', { name: 'Add a condition' }).click();
  await page.getByLabel('tag', { exact: true }).fill('Winter 2026');
  await page.getByRole('button', { name: 'Add a group' }).click();
  const inner = page.locator('fieldset fieldset');
  await inner.getByLabel('What it is about').selectOption('the country');
  await inner.getByLabel('GB, SE').fill('gb');
  await expect(page.locator('[data-counted]')).toHaveText('2 people fit.');
  await expectAccessible(page, 'an audience being written');
  await page.getByRole('button', { name: 'Keep as an audience' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Winter moorings');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByRole('table', { name: 'Contacts' }).getByRole('row')).toHaveCount(3);
  await expect(page.getByText('Where: has the tag “winter 2026” and (country is GB).')).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV', exact: true }).click();
  const stream = await (await download).createReadStream();
  let text = '';
  for await (const piece of stream) text += piece;
  expect(text).toContain('Ada Fenn,+447700900151,,GB,en,Europe/London,winter 2026,given,,,Teal');

  await page.getByRole('link', { name: 'Ada Fenn' }).click();
  await expect(page.getByRole('table', { name: 'Consent ledger' })).toContainText('Winter mooring forms, signed');
  await expect(page.getByText('English, as the number suggests')).toBeVisible();
  await page.getByLabel('Language', { exact: true }).fill('sv');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Swedish, said by Maren Thistlewood')).toBeVisible();
  await expectAccessible(page, 'a contact');

  await page.goto('/compose/contacts/imports');
  await expectAccessible(page, 'imports');
  await page.getByRole('link', { name: 'winter.csv' }).click();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('button', { name: 'Undo it' }).click();
  await expect(page.getByText('Undone.', { exact: true })).toBeVisible();
});

test('STOP on a handset: shown in the thread, refused in the reply, entered in the ledger, open again by hand', async ({
  page,
  context,
}) => {
  await signIn(page);
  const bench = revealing(await context.newPage());
  await bench.goto('/prove/bench');
  const handset = bench.getByRole('article', { name: 'Handset of Odile Marchand' });
  await handset.getByLabel('Text to').selectOption('text +442079460114');
  await handset.getByLabel('Message', { exact: true }).fill('Arrêt');
  await handset.getByRole('button', { name: 'Send from this handset' }).click();
  await expect(handset.locator('[data-entry=received]').last()).toContainText('Vous ne recevrez plus de messages');

  await goTo(page, 'Contacts');
  await page.getByLabel('Name or number').fill('39980417');
  // The whole list stands there until those who were looked for do.
  await expect(page.getByRole('table', { name: 'Contacts' }).getByRole('row')).toHaveCount(2);
  await page.locator('#main').getByRole('table').getByRole('link').first().click();
  const ledger = page.getByRole('table', { name: 'Consent ledger' });
  await expect(ledger).toContainText('opted out of texts');
  await expect(ledger).toContainText('“Arrêt”');
  await page.getByRole('link', { name: 'Conversation', exact: true }).click();
  await expect(page.locator('[data-consent=withdrawn]').last()).toContainText('Opted out with this');
  await expect(page.locator('[data-reply=refused]')).toContainText('declined messages of this kind');
  await page.getByLabel('Reply to').fill('Just one thing');
  await expect(page.getByRole('button', { name: 'Send', exact: true })).toBeDisabled();

  await page.goBack();
  await page.getByRole('button', { name: 'Record consent' }).click();
  await page
    .getByLabel('Evidence: where and in which words')
    .fill('Rang the office on 25 November and asked for texts again');
  await page.getByRole('button', { name: 'Record it' }).click();
  await expect(ledger).toContainText('Rang the office');
  await expect(page.locator('header [data-consent="text given"]')).toBeVisible();

  await page.getByRole('link', { name: 'Conversation', exact: true }).click();
  await page.getByLabel('Saved replies').selectOption('Office hours');
  await expect(page.getByLabel('Reply to')).toHaveValue(/^The harbour office is open every day/);
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(handset.locator('[data-entry=received]').last()).toContainText('The harbour office is open every day');
});

test('an address is added, moved with a preview and put back; two contacts are merged and taken apart', async ({
  page,
}) => {
  await signIn(page);
  const add = async (name: string, address: string) => {
    await goTo(page, 'Contacts');
    await page.getByRole('button', { name: 'Add a contact' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name', { exact: true }).fill(name);
    await dialog.getByLabel('Phone or e-mail').fill(address);
    await dialog.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(page.getByRole('heading', { name, level: 1 })).toBeVisible();
  };
  await add('Edda Quill', '+44 7700 900161');
  await page.getByRole('button', { name: 'Add an address' }).click();
  await page.getByRole('dialog').getByLabel('Phone or e-mail').fill('edda@heron.example');
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.locator('[data-address="edda@heron.example"]')).toContainText('entered by hand');
  await expectAccessible(page, 'addresses of a contact');

  await page.getByRole('link', { name: 'Move edda@heron.example' }).click();
  await page.getByRole('button', { name: 'Show what moves' }).click();
  await expect(page.locator('[data-preview]')).toContainText('0 messages over it go to a new contact.');
  await expectAccessible(page, 'moving an address');
  await page.getByLabel('How you know').fill('It is her sister’s.');
  await page.getByRole('button', { name: 'Split it off' }).click();
  await expect(page.getByRole('table', { name: 'Moved addresses' })).toContainText('It is her sister’s.');
  await expect(page.locator('[data-address="edda@heron.example"]')).toHaveCount(0);
  await page.getByRole('table', { name: 'Moved addresses' }).getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('[data-address="edda@heron.example"]')).toBeVisible();

  await add('E. Quill', '+44 7700 900162');
  await page.getByRole('link', { name: 'Merge with another contact' }).click();
  await page.getByLabel('Phone or e-mail of the other contact').fill('nobody@heron.example');
  await page.getByRole('button', { name: 'Show what moves' }).click();
  await expect(page.getByText('There is no such contact')).toBeVisible();
  await page.getByLabel('Phone or e-mail of the other contact').fill('edda@heron.example');
  await page.getByRole('button', { name: 'Show what moves' }).click();
  await expect(page.locator('[data-preview]')).toContainText('E-mail edda@heron.example');
  await expectAccessible(page, 'merging two contacts');
  await page.getByLabel('How you know').fill('She said so.');
  await page.getByRole('button', { name: 'Merge the two' }).click();
  await expect(page.locator('[data-address="edda@heron.example"]')).toBeVisible();
  await page.getByRole('table', { name: 'Contacts merged into this' }).getByRole('button', { name: 'Undo' }).click();
  // It leads to the one that is a contact of its own again.
  await expect(page.getByRole('heading', { name: 'Edda Quill', level: 1 })).toBeVisible();
});
