/** A chat platform whose people have no telephone number, from nothing to four marks; then one person over several ways, each answer over the one that is chosen. */
import { expect, type Page } from '@playwright/test';
import { expectAccessible, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { test } from './revealed';

const CORVANE = `http://127.0.0.1:${BENCH_PORT + 85}`;

const textOf = async (page: Page, selector: string) => (await page.locator(selector).first().textContent()) ?? '';

test('connected by its profile, answered by an id, and the same person by text and in the chat', async ({
  page,
  context,
}) => {
  await signIn(page);
  const corvane = await context.newPage();
  await corvane.goto(CORVANE);
  await page.bringToFront();
  await page.goto('/connect/providers/new');
  await page.getByRole('link', { name: /^Corvane/ }).click();
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  const values = {
    'Connection name': 'Corvane',
    'API address': `${CORVANE}/v3`,
    Key: await textOf(corvane, '.key'),
    'Signing secret': await textOf(corvane, '.secret'),
  };
  for (const [label, value] of Object.entries(values)) await page.getByLabel(label, { exact: true }).fill(value);
  await page.getByRole('button', { name: 'Check and save' }).click();
  await page.getByRole('button', { name: 'Make @mossgate a channel' }).click();
  await page.getByLabel('Channel name').fill('Boat chat');
  await page.getByRole('button', { name: 'Make the channel' }).click();
  await page.getByRole('button', { name: 'Set it for me' }).click();
  const channel = page.url();
  await page.getByRole('button', { name: 'Prove inbound now' }).click();
  await page.getByRole('combobox', { name: 'Handset' }).selectOption({ label: 'Odile Marchand, +33 6 39 98 04 17' });
  await page.getByRole('button', { name: 'Write from it' }).click();
  await expect(page.locator('#main [data-hop=inbound]')).toHaveAttribute('data-state', 'proven');
  await page.goto('/route/conversations');
  await page.getByRole('link', { name: /Does this reach you/ }).click();
  await expect(page.locator('[data-way]')).toContainText('They wrote last over Boat chat.');
  await page.getByLabel(/^Reply to/).fill('It does.');
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(page.locator('[data-direction=out]').last()).toContainText('It does.');
  const conversation = page.url();
  const phone = `http://127.0.0.1:${BENCH_PORT}/handsets/${encodeURIComponent('+33639980417')}`;
  await fetch(`${phone}/texts`, { method: 'POST', body: JSON.stringify({ to: '@mossgate', text: '👍', way: 'talk' }) });
  await expect(page.locator('[data-reaction]')).toContainText('Odile Marchand put 👍 to it');
  await page.goto(channel);
  for (const hop of ['credential', 'outbound', 'receipt', 'inbound'])
    await expect(page.locator(`#main [data-hop=${hop}]`)).toHaveAttribute('data-state', 'proven');
  await expectAccessible(page, 'a chat platform as a channel');

  // She has a phone, too: the next answer may go there, and says over what.
  await page.goto(conversation);
  await page.getByRole('link', { name: 'what is known' }).click();
  await page.getByRole('link', { name: 'Merge with another contact' }).click();
  await page.getByLabel('Phone or e-mail of the other contact').fill('+33 6 39 98 04 17');
  await page.getByRole('button', { name: 'Show what moves' }).click();
  await page.getByLabel('How you know').fill('She told us her number.');
  await page.getByRole('button', { name: 'Merge the two' }).click();
  await expect(page.getByRole('table', { name: 'Contacts merged into this' })).toBeVisible();
  await page.getByRole('link', { name: 'Conversation', exact: true }).click();
  await expect(page.locator('[data-way]')).toContainText('They wrote last over Boat chat.');
  await page.getByLabel(/^Reply to/).fill('And now by text.');
  await page.getByLabel('Over', { exact: true }).selectOption({ label: 'Harbour desk' });
  await expect(page.locator('[data-way]')).toContainText('You chose Harbour desk.');
  await expect(page.getByLabel(/^Reply to/)).toHaveValue('And now by text.');
  await expectAccessible(page, 'an answer over a channel that was chosen');
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(page.locator('[data-direction=out]').last()).toContainText('over Harbour desk');
  await page.goto('/prove/bench');
  const handset = page.getByRole('article', { name: 'Handset of Odile Marchand' });
  await expect(handset.locator('[data-entry=received]').last()).toContainText('And now by text.');
});
