/** A chat platform whose people have no telephone number, from nothing to four marks; then one person over several ways, each answer over the one that is chosen. */
import { type Browser, expect, type Page } from '@playwright/test';
import { connectMailbox, outside } from './fennick';
import { expectAccessible, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const WEBSITE = `http://127.0.0.1:${BENCH_PORT + 70}`;
const CORVANE = `http://127.0.0.1:${BENCH_PORT + 85}`;

const textOf = async (page: Page, selector: string) => (await page.locator(selector).first().textContent()) ?? '';

/** Somebody writes from their handset or mailbox. */
const type = (from: string, what: { to: string; text: string; way: string }) =>
  fetch(`http://127.0.0.1:${BENCH_PORT}/handsets/${encodeURIComponent(from)}/texts`, {
    method: 'POST',
    body: JSON.stringify(what),
  });

test('connected by its profile, answered by an id, and the same person by text and in the chat', async ({
  page,
  context,
  browser,
}) => {
  await signIn(page);
  const corvane = revealing(await context.newPage());
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
  await type('+33639980417', { to: '@mossgate', text: '👍', way: 'talk' });
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

  // She writes by mail and from the website, too: one conversation, and each answer over the way that is chosen.
  await page.goto('/connect/channels');
  if ((await page.getByRole('link', { name: 'Post desk' }).count()) === 0) await connectMailbox(page, context);
  await type('wren.hollis@reed.example', { to: 'post@mossgate.example', text: 'And by mail.', way: 'mail' });
  const site = await openWebChat(page, browser);
  await site.getByLabel('Your message').fill('And on the website.');
  await site.getByLabel(/I agree/).check();
  await site.getByRole('button', { name: 'Send' }).click();
  await expect(site.getByRole('log')).toContainText('And on the website.');
  await page.bringToFront();
  await page.goto('/route/conversations');
  await page.getByRole('link', { name: /And on the website/ }).click();
  await page.getByRole('link', { name: 'what is known' }).click();
  for (const address of ['+33 6 39 98 04 17', 'wren.hollis@reed.example']) {
    await page.getByRole('link', { name: 'Merge with another contact' }).click();
    await page.getByLabel('Phone or e-mail of the other contact').fill(address);
    await page.getByRole('button', { name: 'Show what moves' }).click();
    await page.getByLabel('How you know').fill('She said so.');
    await page.getByRole('button', { name: 'Merge the two' }).click();
    await expect(page.getByRole('table', { name: 'Contacts merged into this' })).toContainText('She said so.');
  }
  await page.getByRole('link', { name: 'Conversation', exact: true }).click();
  for (const channel of ['Boat chat', 'Harbour desk', 'Post desk', 'Lock website']) {
    await page.getByLabel('Over', { exact: true }).selectOption({ label: channel });
    await expect(page.locator('[data-way]')).toContainText(channel);
    await page.getByLabel(/^Reply to/).fill(`Answered over ${channel}.`);
    await page.getByRole('button', { name: 'Send', exact: true }).click();
    const answer = page.locator('[data-direction=out]', { hasText: `Answered over ${channel}.` });
    await expect(answer).toContainText(`over ${channel}`);
  }
  await expectAccessible(page, 'one conversation over four ways');
  await expect(site.getByRole('log')).toContainText('Answered over Lock website.');
  await page.goto('/prove/bench');
  for (const channel of ['Boat chat', 'Harbour desk'])
    await expect(handset.locator('[data-entry=received]', { hasText: `Answered over ${channel}.` })).toBeVisible();
  const mailbox = page.getByRole('article', { name: 'Mailbox of Wren Hollis' });
  await expect(mailbox.locator('[data-entry=received]', { hasText: 'Answered over Post desk.' })).toBeVisible();
});

/** A chat of its own on the simulated website; returns the visitor's page with the chat open. */
async function openWebChat(page: Page, browser: Browser): Promise<Page> {
  await page.goto('/connect/providers/new');
  await page.getByRole('link', { name: /^Web chat/ }).click();
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  await page.getByLabel('Channel name').fill('Lock website');
  await page.getByLabel('Allowed websites').fill(WEBSITE);
  await page.getByRole('button', { name: 'Make the chat' }).click();
  await page.getByRole('button', { name: 'Copy Snippet' }).click();
  const snippet = await page.evaluate(() => navigator.clipboard.readText());
  const site = await outside(await browser.newContext(), `${WEBSITE}/snippet`);
  await site.getByLabel(/Snippet/).fill(snippet);
  await site.getByRole('button', { name: 'Publish' }).click();
  await site.goto(WEBSITE);
  await site.getByRole('button', { name: 'Ask us' }).click();
  return site;
}
