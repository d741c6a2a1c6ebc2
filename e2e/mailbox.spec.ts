/** E-mail from nothing to four marks, and a day with it: a conversation both ways with a file, a bounce, somebody who is away. */
import { expect } from '@playwright/test';
import { connectMailbox, outside } from './fennick';
import { expectAccessible, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

const BENCH = `http://127.0.0.1:${BENCH_PORT}`;
const WREN = 'wren.hollis@reed.example';

async function setMailbox(address: string, settings: object) {
  await fetch(`${BENCH}/handsets/${encodeURIComponent(address)}`, { method: 'PATCH', body: JSON.stringify(settings) });
}

test('a mailbox: four marks, a conversation with a file, a full mailbox, and nobody answers a machine', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await signIn(page);
  const fennick = await connectMailbox(page, context);
  await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
  await page.getByRole('button', { name: 'Send it' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.getByRole('button', { name: 'Prove inbound now' }).click();
  await page.getByRole('button', { name: 'Write from it' }).click();
  for (const hop of ['credential', 'outbound', 'receipt', 'inbound'])
    await expect(page.locator(`#main [data-hop=${hop}]`)).toHaveAttribute('data-state', 'proven');
  await expectAccessible(page, 'a mailbox as a channel');

  // Its mail is signed once the record of its key stands at the domain.
  const channel = page.url();
  await page.getByRole('link', { name: 'Post', exact: true }).first().click();
  await page.getByRole('button', { name: 'Make a key' }).click();
  const signing = page.locator('#signing');
  await expect(signing.locator('[data-record-state=missing]')).toBeVisible();
  await page.getByRole('button', { name: 'Look for it now' }).click();
  await expect(page.getByText('There is no record at that name')).toBeVisible();
  const carried = async (what: string) => {
    await page.getByRole('button', { name: `Copy ${what}`, exact: true }).click();
    return page.evaluate(() => navigator.clipboard.readText());
  };
  await fennick.getByLabel('Name', { exact: true }).fill(await carried('Name of the TXT record'));
  await fennick.getByLabel('Text', { exact: true }).fill(await carried('Text of the record'));
  await fennick.getByRole('button', { name: 'Publish' }).click();
  await page.bringToFront();
  await page.getByRole('button', { name: 'Look for it now' }).click();
  await expect(signing.locator('[data-record-state=published]')).toBeVisible();
  await expectAccessible(page, 'the key mail is signed with');
  await page.goto(channel);

  // She writes with a picture, and is answered under her subject.
  const bench = await outside(context, `${page.url().split('/connect')[0]}/prove/bench`);
  const mailbox = bench.getByRole('article', { name: 'Mailbox of Linnea Brook' });
  await mailbox.getByLabel('Message').fill('This is the boat. Does it fit?');
  await mailbox.getByLabel('With a picture').check();
  await mailbox.getByRole('button', { name: 'Send from this mailbox' }).click();
  await page.bringToFront();
  await page.goto('/route/conversations');
  await page.getByRole('link', { name: /This is the boat/ }).click();
  await expect(page.locator('[data-files]')).toContainText('lock-gate.png');
  await expect(page.locator('[data-way]')).toContainText('They wrote last over Post desk.');
  await expect(page.getByLabel('Subject')).toHaveValue(/^Re: /);
  await page.getByLabel('Subject').fill('Your boat');
  await page.getByLabel(/^Reply to/).fill('It fits.');
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(page.locator('[data-direction=out]').last()).toContainText('Your boat');
  await expectAccessible(page, 'a conversation by mail');
  await expect(mailbox.locator('[data-entry=received]').last()).toContainText('It fits.');

  // A mailbox that is full says so; one whose person is away is not answered by anybody.
  const write = async (words: string) => {
    await page.goto('/connect/channels');
    await page.getByRole('link', { name: 'Post desk' }).first().click();
    await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
    await page.getByLabel('E-mail').fill(WREN);
    await page.getByLabel('Text', { exact: true }).fill(words);
    await page.getByRole('button', { name: 'Send it' }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0);
  };
  await setMailbox(WREN, { power: 'off' });
  await write('Is the berth free?');
  await page.goto('/watch/messages');
  await page
    .getByRole('row', { name: /Is the berth free/ })
    .getByRole('link')
    .first()
    .click();
  await expect(page.getByText('The mailbox is full').first()).toBeVisible();
  await setMailbox(WREN, { power: 'on', away: 'I am away until Monday.' });
  await write('And on Tuesday?');
  await page.goto('/watch/messages');
  await page
    .getByRole('row', { name: /I am away until Monday/ })
    .getByRole('link')
    .first()
    .click();
  await expect(page.getByText('A program wrote it, so no route answers it')).toBeVisible();
});
