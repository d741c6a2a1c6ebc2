/** Each kind of channel connected from nothing to its proofs, clicked as an administrator would, consoles side by side. */
import { type BrowserContext, expect, type Page } from '@playwright/test';
import { BRACKWATER, expectAccessible, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const at = (above: number) => `http://127.0.0.1:${BENCH_PORT + above}`;
const [OSTREL, TARROW, FENNICK, WEBSITE] = [at(30), at(50), at(60), at(70)];

async function outside(context: BrowserContext, url: string): Promise<Page> {
  const page = revealing(await context.newPage());
  await page.goto(url);
  return page;
}

const textOf = async (page: Page, selector: string) => (await page.locator(selector).first().textContent()) ?? '';

async function beginConnecting(page: Page, name: RegExp) {
  await page.goto('/connect/providers/new');
  await page.getByRole('link', { name }).click();
  await expect(page.getByRole('heading', { name: 'Have ready before you start' })).toBeVisible();
}

async function fill(page: Page, values: Record<string, string>) {
  for (const [label, value] of Object.entries(values)) await page.getByLabel(label, { exact: true }).fill(value);
}

async function expectMarks(page: Page, marks: Record<string, string>) {
  for (const [hop, state] of Object.entries(marks))
    await expect(page.locator(`#main [data-hop=${hop}]`)).toHaveAttribute('data-state', state);
}

const PROVEN = { credential: 'proven', outbound: 'proven', receipt: 'proven', inbound: 'proven' };

async function proveBothWays(page: Page) {
  await page.getByRole('button', { name: 'Prove inbound now' }).click();
  await page.getByRole('button', { name: 'Write from it' }).click();
  await expectMarks(page, { inbound: 'proven' });
  await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
  await page.getByRole('button', { name: 'Send it' }).click();
}

test('SMS over HTTP, the address before the credentials; a trial account and a wrong method are named on the way', async ({
  page,
  context,
}) => {
  await signIn(page);
  await beginConnecting(page, /^Brackwater/);
  await page.getByRole('button', { name: 'Reserve an inbound URL' }).click();
  await page.getByRole('button', { name: 'Copy Inbound URL', exact: true }).click();
  const url = await page.evaluate(() => navigator.clipboard.readText());

  const provider = await outside(context, `${BRACKWATER}/console`);
  await provider.getByRole('link', { name: 'Mossgate trial' }).click();
  await provider.getByLabel('Method').selectOption('GET');
  await provider.getByLabel('Primary address').fill(url);
  await provider.getByLabel('Fallback address').fill(`${url}/fallback`);
  await provider.getByRole('button', { name: 'Save address' }).click();

  await page.bringToFront();
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  await fill(page, {
    'Connection name': 'Trial account',
    'API address': `${BRACKWATER}/v2`,
    'Account id': await textOf(provider, '#account-id'),
    'API secret': await textOf(provider, '#account-secret'),
  });
  await page.getByRole('button', { name: 'Check and save' }).click();
  await expect(page.locator('[data-finding=account-on-trial]')).toContainText('it reaches nobody');
  const accountPage = page.url();
  await page.getByLabel('Phone', { exact: true }).fill('+44 7700 900123');
  await page.getByRole('button', { name: 'Send a code' }).click();
  const bench = await outside(context, `${page.url().split('/connect')[0]}/prove/bench`);
  const texted = bench.getByRole('article', { name: 'Handset of Ines Calder' }).locator('[data-entry=received]').last();
  await expect(texted).toContainText('is your Brackwater code');
  const code = /(\d{6}) is your/.exec((await texted.textContent()) ?? '')?.[1] ?? '';
  await page.bringToFront();
  await page.getByLabel(/Code that came/).fill(code);
  await page.getByRole('button', { name: 'Confirm' }).click();
  await expect(page.locator('#trial-title').locator('../..')).toContainText('+44 7700 900123');

  await page.getByRole('button', { name: 'Make +44 7700 900855 a channel' }).click();
  await page.getByLabel('Channel name').fill('Trial desk');
  await page.getByRole('button', { name: 'Make the channel' }).click();
  await expect(page.getByText('Brackwater has this address')).toBeVisible();
  await expect(page.locator('[data-finding=inbound-method]')).toContainText('with GET; it takes POST');
  await expect(page.locator('[data-waiting]')).toContainText('Waiting for the first real message');
  await provider.getByLabel('Method').selectOption('POST');
  await provider.getByRole('button', { name: 'Save address' }).click();
  await page.getByRole('button', { name: 'Prove now', exact: true }).click();
  await expect(page.locator('[data-finding=inbound-method]')).toHaveCount(0);
  await proveBothWays(page);
  await expectMarks(page, PROVEN);
  await page.goto(accountPage);
  await expectAccessible(page, 'trial account');
});

test('an SMS trunk: bound as the carrier wants it, its habits set, a pace above the limit refused', async ({
  page,
  context,
}) => {
  await signIn(page);
  const carrier = await outside(context, OSTREL);
  const password = await textOf(carrier, '[data-password=mossgate2]');
  await page.bringToFront();
  await beginConnecting(page, /^Ostrel/);
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  await fill(page, {
    'Connection name': 'Second trunk',
    Port: String(BENCH_PORT + 40),
    'System id': 'mossgate2',
    Password: password,
  });
  await page.getByRole('button', { name: 'Check and save' }).click();
  await expect(page.locator('[data-trunk-state=bound]')).toBeVisible();

  await page.getByRole('button', { name: 'Trunk settings' }).click();
  await expect(page.getByLabel('Bind', { exact: true })).toHaveValue('transmitter and receiver');
  await page.getByLabel('data_coding 0 means').selectOption('latin-1');
  await page.getByLabel('Parts of long texts are marked by').selectOption('sar');
  await page.getByLabel('Ids in receipts are').selectOption('decimal-in-receipts');
  await page.getByLabel('Messages a second').fill('500');
  await page.getByRole('button', { name: 'Save and bind again' }).click();
  await expect(page.locator('form [role=alert]')).toContainText('takes at most 100 messages a second');
  await page.getByLabel('Messages a second').fill('15');
  await page.getByRole('button', { name: 'Save and bind again' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);

  await page.getByRole('button', { name: 'Add numbers' }).click();
  await page.getByLabel('Numbers', { exact: true }).fill('07700 900895\nlock office');
  await page.getByLabel('Country of national numbers').selectOption('GB');
  await page.getByRole('button', { name: 'Add them' }).click();
  await expect(page.locator('form [role=alert]')).toContainText('1 added; 1 line needs another look');
  await expect(page.locator('form [role=alert]')).toContainText('Line 2, “lock office”');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Make +44 7700 900895 a channel' }).click();
  await page.getByLabel('Channel name').fill('Lock keepers');
  await page.getByRole('button', { name: 'Make the channel' }).click();
  await expectMarks(page, { credential: 'proven' });
  await proveBothWays(page);
  await expectMarks(page, PROVEN);
  await page.getByRole('link', { name: 'Second trunk' }).first().click();
  await expect(page.getByRole('region', { name: 'What went over the trunk' })).toContainText('submit_sm_resp');
  await expectAccessible(page, 'trunk');
});

test('business chat, set by hand on the other side first, then set from here', async ({ page, context }) => {
  await signIn(page);
  const platform = await outside(context, `${TARROW}/console`);
  await platform.getByRole('link', { name: 'Mossgate Waterways' }).click();
  await page.bringToFront();
  await beginConnecting(page, /^Tarrow/);
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  await fill(page, {
    'Connection name': 'Harbour chat account',
    'API address': `${TARROW}/api/7`,
    'Business id': await textOf(platform, '#business-id'),
    'Number id': await textOf(platform, '[data-line]'),
    Token: await textOf(platform, '#token'),
    'Signing key': await textOf(platform, '#signing-key'),
  });
  await page.getByRole('button', { name: 'Check and save' }).click();
  await expect(page.locator('[data-finding=events-not-subscribed]')).toBeVisible();
  await page.getByRole('button', { name: 'Make +44 7700 900860 a channel' }).click();
  await page.getByLabel('Channel name').fill('Harbour chat');
  await page.getByRole('button', { name: 'Make the channel' }).click();

  await test.step('by hand, with the wrong word first', async () => {
    const carried = async (what: string) => {
      await page.getByRole('button', { name: `Copy ${what}`, exact: true }).click();
      return page.evaluate(() => navigator.clipboard.readText());
    };
    const url = await carried('Inbound URL');
    const word = await carried('Verification word');
    await platform.getByLabel('Callback address').fill(url);
    await platform.getByLabel('Verification word').fill('something else');
    await platform.getByRole('button', { name: 'Verify and save' }).click();
    await expect(platform.locator('#callback-state')).toHaveText('not confirmed');
    await expect(page.locator('#main [data-hop=inbound]')).toContainText('The platform used another verification word');
    await platform.getByLabel('Verification word').fill(word);
    await platform.getByRole('button', { name: 'Verify and save' }).click();
    await expect(platform.locator('#callback-state')).toHaveText('confirmed');
    await page.bringToFront();
    await page.getByRole('button', { name: 'I have set it by hand' }).click();
    await expect(page.getByText('Tarrow has this address')).toBeVisible();
    await expect(page.locator('[data-finding=events-not-subscribed]')).toContainText('The address is verified, but');
    await page.getByRole('button', { name: 'Subscribe to the events' }).click();
    await expect(page.locator('[data-finding=events-not-subscribed]')).toHaveCount(0);
    await proveBothWays(page);
    await expectMarks(page, PROVEN);
  });

  await test.step('a new address, set from here: hollow until it is proven again', async () => {
    await page.getByRole('button', { name: 'Replace the address' }).click();
    await page.getByRole('button', { name: 'Replace it' }).click();
    await expectMarks(page, { inbound: 'unproven', receipt: 'unproven' });
    await page.getByRole('button', { name: 'Set it for me' }).click();
    await expect(page.getByText(/Tarrow has this address, verified/)).toBeVisible();
    await proveBothWays(page);
    await expectMarks(page, PROVEN);
    await expectAccessible(page, 'chat channel');
  });

  await test.step('free text to somebody who never wrote is refused before it is sent', async () => {
    await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
    await page.getByLabel('Phone').fill('+46 70 174 06 12');
    await page.getByRole('button', { name: 'Send it' }).click();
    await expect(page.locator('form [role=alert]')).toContainText('this contact has never written here');
    await expect(page.locator('form [role=alert]')).toContainText('is allowed now');
  });
});

test('web chat on another origin: away where it is not allowed, live both ways where it is, axe clean', async ({
  page,
  browser,
}) => {
  await signIn(page);
  await beginConnecting(page, /^Web chat/);
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  await page.getByLabel('Channel name').fill('Website');
  await page.getByLabel('Allowed websites').fill('https://www.mossgate.example');
  await page.getByRole('button', { name: 'Make the chat' }).click();
  await page.getByRole('button', { name: 'Copy Snippet' }).click();
  const snippet = await page.evaluate(() => navigator.clipboard.readText());

  // A visitor's browser has nothing of the administrator's.
  const visitor = await browser.newContext();
  const site = await outside(visitor, `${WEBSITE}/snippet`);
  await site.getByLabel(/Snippet/).fill(snippet);
  const refused = site.waitForResponse((answer) => answer.url().endsWith('/face'));
  await site.getByRole('button', { name: 'Publish' }).click();
  expect((await refused).status()).toBe(403);
  await expect(site.locator('#windgap-chat')).toHaveCount(0);

  await page.bringToFront();
  await page.getByRole('button', { name: 'Change the chat' }).click();
  await page.getByLabel('Allowed websites').fill(WEBSITE);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);

  await site.bringToFront();
  await site.goto(WEBSITE);
  await site.getByRole('button', { name: 'Ask us' }).click();
  await expectAccessible(site, 'website with the chat');
  await site.getByLabel('Your message').fill('When does the harbour office open?');
  await site.getByRole('button', { name: 'Send' }).click();
  await expect(site.getByRole('status')).toContainText('Tick the box first');
  await site.getByLabel('Your name (optional)').fill('Wilma');
  await site.getByLabel(/I agree/).check();
  await site.getByRole('button', { name: 'Send' }).click();
  await expect(site.getByRole('status')).toContainText('Somebody will answer here shortly');
  await expect(site.getByRole('log')).toContainText('When does the harbour office open?');

  await page.bringToFront();
  await goTo(page, 'Conversations');
  await page.getByRole('link', { name: /Wilma.*harbour office/ }).click();
  await page.getByLabel(/Reply to/).fill('At eight, every day.');
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(site.getByRole('log')).toContainText('At eight, every day.');
  await site.bringToFront();
  const answer = page.locator('[data-direction=out]', { hasText: 'At eight, every day.' });
  await expect(answer.locator('[data-message-state=read]')).toBeVisible();

  await test.step('a visitor who returns is greeted as such and still has the conversation', async () => {
    await site.reload();
    await site.getByRole('button', { name: 'Ask us' }).click();
    await expect(site.getByRole('log')).toContainText('Good to see you again');
    await expect(site.getByRole('log')).toContainText('At eight, every day.');
    expect(await visitor.cookies()).toEqual([]);
    await expectAccessible(site, 'website with a conversation in the chat');
  });

  await page.goto('/connect/channels');
  await page.getByRole('link', { name: 'Website', exact: true }).click();
  await expectMarks(page, PROVEN);

  await test.step('answered later, by text to the phone the visitor left', async () => {
    await page.getByRole('button', { name: 'Change the chat' }).click();
    await page.getByLabel('Ask for the phone number').check();
    await page.getByLabel('Later, by text').check();
    await page.getByLabel('Text channel of the answers').selectOption({ label: 'Harbour desk' });
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0);
    await site.evaluate(() => localStorage.clear());
    await site.goto(WEBSITE);
    await site.getByRole('button', { name: 'Ask us' }).click();
    await site.getByLabel('Your phone number').fill('+46 70 174 06 12');
    await site.getByLabel('Your message').fill('Kan jag få plats i hamnen?');
    await site.getByLabel(/I agree/).check();
    await site.getByRole('button', { name: 'Send' }).click();
    await expect(site.getByRole('status')).toContainText('Type the code');
    await expectAccessible(site, 'website that asks for a code');
    await page.bringToFront();
    await page.goto('/prove/bench');
    const phone = page.getByRole('article', { name: 'Handset of Tomas Lindqvist' });
    const text = phone.locator('[data-entry=received]', { hasText: 'your code is' }).last();
    const code = /code is (\d{6})/.exec((await text.textContent()) ?? '')?.[1] ?? '';
    await site.bringToFront();
    await site.getByLabel('The code we texted to your phone').fill('12');
    await site.getByRole('button', { name: 'Confirm' }).click();
    await expect(site.getByRole('status')).toContainText('4 tries are left');
    await site.getByLabel('The code we texted to your phone').fill(code);
    await site.getByRole('button', { name: 'Confirm' }).click();
    await expect(site.getByRole('status')).toContainText('Your phone is confirmed');
    await page.bringToFront();
    await goTo(page, 'Conversations');
    await page.getByRole('link', { name: /Tomas Lindqvist.*Kan jag få plats/ }).click();
    await page.getByLabel(/Reply to/).fill('Ja, plats B7.');
    await page.getByRole('button', { name: 'Send' }).click();
    await expect(page.locator('[data-direction=out]', { hasText: 'Ja, plats B7.' })).toBeVisible();
    await page.goto('/prove/bench');
    const handset = page.getByRole('article', { name: 'Handset of Tomas Lindqvist' });
    await expect(handset.locator('[data-entry=received]').last()).toContainText('Ja, plats B7.');
  });
});

test('an e-mail gateway: carriers as data, no receipts and it says so', async ({ page, context }) => {
  await signIn(page);
  const mail = await outside(context, FENNICK);
  await page.bringToFront();
  await beginConnecting(page, /^Fennick (?!mailbox)/);
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  await fill(page, {
    'Connection name': 'Mail',
    Port: await textOf(mail, '#smtp-port'),
    User: await textOf(mail, '#user'),
    Password: await textOf(mail, '#password'),
    Address: await textOf(mail, '#address'),
    'Look-up address': FENNICK,
    'Look-up key': await textOf(mail, '#lookup-key'),
    'Word of incoming posts': 'heron-and-otter',
  });
  await page.getByRole('button', { name: 'Check and save' }).click();
  await expect(page.getByText('Fennick accepts the credentials')).toBeVisible();
  await page.getByRole('button', { name: 'Make desk@mossgate.example a channel' }).click();
  await page.getByLabel('Channel name').fill('Mail desk');
  await page.getByRole('button', { name: 'Make the channel' }).click();
  await expectMarks(page, { credential: 'proven', receipt: 'not-applicable' });
  await expect(page.locator('#main [data-hop=receipt]')).toContainText('no receipts');
  await page.getByRole('button', { name: 'Copy Inbound URL', exact: true }).click();
  const url = await page.evaluate(() => navigator.clipboard.readText());
  await mail
    .getByLabel(/Post incoming mail/)
    .first()
    .fill(url);
  await mail.getByLabel('Word that goes with it').first().fill('heron-and-otter');
  await mail.getByRole('button', { name: 'Save post address' }).first().click();
  await page.bringToFront();
  await page.getByRole('button', { name: 'I have set it by hand' }).click();
  await page.getByRole('button', { name: 'Add a carrier' }).click();
  await page.getByLabel('Carrier', { exact: true }).fill('Otterline');
  await page.getByLabel('Mail domain').fill('text.otterline.example');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('table', { name: 'Gateways of carriers' })).toContainText('text.otterline.example');
  await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
  await page.getByRole('button', { name: 'Send it' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.getByRole('button', { name: 'Prove inbound now' }).click();
  await page.getByRole('button', { name: 'Write from it' }).click();
  await expectMarks(page, { inbound: 'proven', outbound: 'proven', receipt: 'not-applicable' });
  await expectAccessible(page, 'mail channel');
});
