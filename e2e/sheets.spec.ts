/** A sheet from nothing, by clicking: a new row is a text on a handset and has its mark; a text is a row. */
import { appendFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from '@playwright/test';
import { expectAccessible, goTo, signIn } from './helpers';
import { revealing, test } from './revealed';

const FOLDER = join(process.env.WINDGAP_E2E_DATA ?? '', 'sheets');

test('a row of the stoppage sheet reaches the skipper; a text from her becomes a row of another', async ({
  page,
  context,
}) => {
  mkdirSync(FOLDER, { recursive: true });
  const sheet = join(FOLDER, 'stoppages.csv');
  writeFileSync(sheet, 'Skipper,Mobile,Lock\nOld entry,07700 900123,East lock\n');
  await signIn(page);
  await goTo(page, 'Apps');
  await page.getByRole('button', { name: 'Add an app' }).click();
  await page.getByLabel('Name').fill('Stoppage sheet');
  await page.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('link', { name: 'Sheets', exact: true }).click();

  await test.step('watched, its real columns offered, the message seen before it is sent', async () => {
    await page.getByRole('button', { name: 'Watch a sheet' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Stoppages');
    await expect(page.getByLabel('File or address')).toHaveValue('stoppages.csv');
    await page.getByRole('button', { name: 'Add it' }).click();
    await expect(page.getByText('1 row, read')).toBeVisible();
    await page.getByLabel('Text', { exact: true }).fill('{{ Lock }} is closed, {{ Skipper }}.');
    await page.getByLabel('Numbers without a country code').selectOption('GB');
    await expect(page.locator('[data-preview=message]')).toContainText('East lock is closed, Old entry.');
    await expectAccessible(page, 'a watched sheet');
    await page.getByRole('button', { name: 'Save the message' }).click();
    await expect(page.getByText('Saved; rows become this message')).toBeVisible();
  });

  await test.step('a new row arrives on the handset; the sheet has its mark; reading it again sends nothing', async () => {
    appendFileSync(sheet, 'Ines Calder,07700 900123,North lock\nNobody,,South lock\n');
    const latest = page.getByRole('table', { name: 'Latest of Stoppages' });
    await expect(latest).toContainText('Message to +447700900123');
    await expect(latest).toContainText('this record has no phone number');
    const bench = revealing(await context.newPage());
    await bench.goto('/prove/bench');
    const got = bench
      .getByRole('article', { name: 'Handset of Ines Calder' })
      .locator('[data-entry=received]', { hasText: 'North lock is closed, Ines Calder.' });
    await expect(got).toHaveCount(1);
    await expect
      .poll(() => readFileSync(sheet, 'utf8'))
      .toMatch(/North lock,\d{4}-\d\d-\d\dT[^,]*,Message to \+447700900123/);
    writeFileSync(
      sheet,
      readFileSync(sheet, 'utf8').replace('East lock', 'East lock, reopened').replace('Old entry', '"Old entry"'),
    );
    // A row of somebody else's shows that all of it was read again.
    appendFileSync(sheet, 'Tomas Lindqvist,+46 70 174 06 12,West lock\n');
    await expect(latest).toContainText('Message to +46701740612');
    await expect(got).toHaveCount(1);
    await expect(page.getByRole('button', { name: 'Call in: proven' })).toBeVisible();
    await bench.close();
  });

  await test.step('a text becomes a row', async () => {
    await page.getByRole('button', { name: 'Append messages to a sheet' }).click();
    await page.getByRole('dialog').getByLabel('Name', { exact: true }).fill('All texts');
    await expectAccessible(page, 'appending to a sheet');
    await page.getByRole('button', { name: 'Add it' }).click();
    await expect(page.getByRole('heading', { name: 'All texts' })).toBeVisible();
    const bench = revealing(await context.newPage());
    await bench.goto('/prove/bench');
    const handset = bench.getByRole('article', { name: 'Handset of Tomas Lindqvist' });
    await handset.getByLabel('Text to').selectOption('text +442079460114');
    await handset.getByLabel('Message', { exact: true }).fill('Finns det plats vid kajen?');
    await handset.getByRole('button', { name: 'Send from this handset' }).click();
    await expect(page.getByRole('table', { name: 'Latest of All texts' })).toContainText('A row in texts.csv');
    const log = join(FOLDER, 'texts.csv');
    expect(existsSync(log) && readFileSync(log, 'utf8')).toContain(
      '+46701740612,Tomas Lindqvist,Finns det plats vid kajen?,msg_',
    );
  });
});
