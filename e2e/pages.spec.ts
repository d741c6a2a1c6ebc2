/** Every page: accessible; roles; what faults look like; finding one's way. */
import { expect } from '@playwright/test';
import { expectAccessible, expectReadable, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const PAGES: [string, string][] = [
  ['/', 'Overview'],
  ['/connect/providers', 'Providers'],
  ['/connect/providers/new', 'Connect'],
  ['/connect/providers/new?connector=tarrow', 'Before you connect Tarrow'],
  ['/connect/providers/new?connector=ostrel&ready=1', 'Connect Ostrel'],
  ['/connect/providers/new?connector=web-chat&ready=1', 'Put a chat on a website'],
  ['/connect/numbers', 'Numbers'],
  ['/connect/numbers/search', 'Search for a number'],
  ['/connect/channels', 'Channels'],
  ['/connect/profiles', 'Connector profiles'],
  ['/connect/profiles/brackwater', 'Brackwater'],
  ['/apps', 'Apps'],
  ['/route/conversations', 'Conversations'],
  ['/prove/bench', 'Bench'],
  ['/watch/messages', 'Messages'],
  ['/watch/audit', 'Audit'],
  ['/people', 'People'],
  ['/you', 'Your account'],
  ['/mail', 'Mail'],
  ['/installation', 'Installation'],
  ['/apps/api', 'API'],
  ['/compose/templates', 'Templates'],
  ['/compose/contacts', 'Contacts'],
  ['/compose/contacts/imports', 'Imports'],
  ['/compose/contacts/duplicates', 'Duplicates'],
  ['/route/routes', 'Routes'],
  ['/send/broadcasts', 'Broadcasts'],
  ['/send/todos', 'To-dos'],
  ['/prove/readiness', 'Readiness'],
  ['/prove/diagnosis', 'Diagnosis'],
  ['/prove/diagnosis?symptom=nothing-arrives', 'Diagnosis'],
  ['/prove/tests', 'Delivery tests'],
  ['/prove/tests/new', 'Write a test'],
  ['/prove/drills', 'Drills'],
  ['/watch/flow', 'Traffic'],
  ['/watch/alerts', 'Alerts'],
  ['/watch/set-aside', 'Set aside'],
];

const FIRST_OF: [string, string][] = [
  ['/connect/providers', 'table a'],
  ['/connect/providers', 'table tr:last-child a'],
  ['/connect/channels', 'table a'],
  ['/apps', 'table a'],
  ['/compose/templates', 'table a'],
  ['/compose/templates', 'table tr:last-child a'],
  ['/compose/contacts', 'table a'],
  ['/route/conversations', 'ul[aria-label=Conversations] a'],
  ['/prove/tests', 'ul[aria-label=Tests] a'],
  ['/watch/messages?state=failed', 'tbody a'],
  ['/watch/messages?direction=out&state=delivered', 'tbody a'],
];

/** The dark theme differs in its colours only, and those are examined as what they are: `ui/contrast.test.ts`. */
const AT_ONCE = 8;
const inParts = <Each>(all: readonly Each[]) =>
  Array.from({ length: Math.ceil(all.length / AT_ONCE) }, (_, part) => all.slice(part * AT_ONCE, (part + 1) * AT_ONCE));

test('axe finds nothing serious where people sign in, nor on Overview in the dark', async ({ page }) => {
  await page.goto('/sign-in');
  await expectAccessible(page, 'sign-in');
  await signIn(page);
  await page.evaluate(() => {
    document.documentElement.dataset.theme = 'dark';
  });
  await expectReadable(page, 'Overview, dark');
});

for (const pages of inParts(PAGES))
  test(`axe finds nothing serious from ${pages[0]?.[1]} to ${pages.at(-1)?.[1]}`, async ({ page }) => {
    await signIn(page);
    for (const [path, heading] of pages) {
      await page.goto(path);
      await expect(page.getByRole('heading', { name: heading, exact: true }).first()).toBeVisible();
      await expectAccessible(page, path);
    }
  });

for (const [part, lists] of inParts(FIRST_OF).entries())
  test(`axe finds nothing serious on what lists lead to, ${part + 1}`, async ({ page }) => {
    await signIn(page);
    for (const [list, first] of lists) {
      await page.goto(list);
      await page.locator(first).first().click();
      await page.waitForURL((url) => !String(url).endsWith(list));
      await page.locator('main :is(h1, h2)').first().waitFor();
      await expectAccessible(page, page.url());
    }
  });

test('the document is named at every moment, and by the page that is read', async ({ page }) => {
  await signIn(page);
  const devtools = await page.context().newCDPSession(page);
  await devtools.send('Emulation.setCPUThrottlingRate', { rate: 4 });
  const nameless = await page.evaluateHandle(() => {
    const seen: string[] = [];
    new MutationObserver(() => {
      if (!document.title.endsWith(' · Windgap')) seen.push(`${location.pathname}: ${document.title}`);
    }).observe(document, { childList: true, subtree: true, characterData: true });
    return seen;
  });
  for (const name of ['Channels', 'Routes', 'Messages', 'Readiness', 'Conversations', 'Overview']) {
    await goTo(page, name);
    await expect(page).toHaveTitle(`${name} · Windgap`);
  }
  await page.goBack();
  await expect(page).toHaveTitle('Conversations · Windgap');
  expect(await nameless.jsonValue()).toEqual([]);

  await page.goto('/connect/channels');
  const channel = page.locator('table a').first();
  const named = await channel.textContent();
  await channel.click();
  await expect(page).toHaveTitle(`${named} · Windgap`);
  await page.goto('/connect/channels/none-such');
  await expect(page).toHaveTitle('There is nothing here · Windgap');
});

test('dialogs, the palette and the list of keys are accessible', async ({ page }) => {
  await signIn(page);
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('dialog')).toBeVisible();
  await expectAccessible(page, 'palette');
  await page.keyboard.type('Harbour desk');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Harbour desk' })).toBeVisible();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await expectAccessible(page, 'keys');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Replace the address' }).click();
  await expectAccessible(page, 'confirmation');
});

test('the failing hop of a failed message is open, with cause and fix', async ({ page }) => {
  await signIn(page);
  await page.goto('/watch/messages?state=failed&q=');
  await page.locator('tbody tr', { hasText: 'no credit left' }).first().getByRole('link').click();
  const open = page.locator('[data-cause=credit-gone]');
  await expect(open).toContainText('The account has no credit left');
  await expect(open).toContainText('How to fix it: Top up at the provider');
  await expect(page.getByText('Status 402')).toBeVisible();
});

test('conversations are stepped through, answered, noted and closed by the keyboard and beside it', async ({
  page,
}) => {
  await signIn(page);
  await goTo(page, 'Conversations');
  await page.keyboard.press('j');
  await page.waitForURL(/conversations\/cnv_/);
  const first = page.url();
  await page.keyboard.press('j');
  await page.waitForURL((url) => String(url) !== first);
  await page.keyboard.press('k');
  await page.waitForURL(first);
  await page.keyboard.press('r');
  const reply = page.getByRole('textbox', { name: /^Reply to/ });
  await expect(reply).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(reply).not.toBeFocused();

  await page.getByRole('button', { name: 'Note', exact: true }).click();
  await page.getByLabel('Note', { exact: true }).fill('Prefers the north lock.');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.locator('[data-note]')).toContainText('Prefers the north lock.');
  await page.getByRole('button', { name: 'Assign to me' }).click();
  await expect(page.locator('[data-turn]').last()).toContainText('assigned it to themselves');
  await expectAccessible(page, 'a conversation that is worked in');
  const name = (await page.getByRole('heading', { level: 2 }).textContent()) ?? '';
  await page.getByRole('button', { name: 'Close', exact: true }).click();
  await expect(page.locator('[data-conversation]')).toHaveAttribute('data-conversation', 'closed');
  // Looked for where it no longer is, it says where it lies.
  await page.getByLabel('Filter conversations').fill(name);
  await expect(page.locator('[data-elsewhere="closed"]')).toContainText('under “Closed”');
  await page.locator('[data-elsewhere="closed"] button').click();
  await expect(page.getByRole('list', { name: 'Conversations' }).getByRole('link', { name })).toBeVisible();
  await page.getByRole('button', { name: 'Reopen' }).click();
  await expect(page.locator('[data-conversation]')).toHaveAttribute('data-conversation', 'open');
});

test('filters of the log live in the address and survive a reload', async ({ page }) => {
  await signIn(page);
  await goTo(page, 'Messages');
  await page.getByRole('combobox', { name: 'Status' }).selectOption('failed');
  await page.waitForURL(/state=failed/);
  await page.getByLabel('Words, number or @name').fill('passage');
  await page.keyboard.press('Enter');
  await page.waitForURL(/q=passage/);
  await page.reload();
  // While it still streams in, the page holds its content a second time, hidden.
  await expect(page.locator('#main').getByRole('combobox', { name: 'Status' })).toHaveValue('failed');
  for (const row of await page.locator('tbody tr').all()) await expect(row).toContainText(/passage/i);
});

test('a provider that signs with another secret breaks the inbound mark, live, and a right post fixes it', async ({
  page,
  context,
  request,
}) => {
  await signIn(page);
  await page.goto('/connect/channels');
  await page.getByRole('link', { name: 'Harbour desk' }).click();
  const inbound = page.locator('#main [data-hop=inbound]');
  await expect(inbound).toHaveAttribute('data-state', 'proven');

  const bench = revealing(await context.newPage());
  await bench.goto('/prove/bench');
  const handset = bench.getByRole('article', { name: 'Handset of Ines Calder' });
  const sendText = async (text: string) => {
    await handset.getByLabel('Text to').selectOption('text +442079460114');
    await handset.getByLabel('Message', { exact: true }).fill(text);
    await handset.getByRole('button', { name: 'Send from this handset' }).click();
  };
  await bench.getByLabel('Signs with another secret').click();
  await expect(bench.getByLabel('Signs with another secret')).toBeChecked();
  await sendText('Signed wrongly');
  await expect(inbound).toHaveAttribute('data-state', 'broken');
  await expect(inbound).toContainText('signature does not match');
  await bench.getByLabel('Signs with another secret').click();
  await expect(bench.getByLabel('Signs with another secret')).not.toBeChecked();
  // The provider keeps posting the refused text, now signed rightly.
  await expect(inbound).toHaveAttribute('data-state', 'proven');
  await request.patch(`http://127.0.0.1:${BENCH_PORT}/faults`, {
    data: { brackwater: { signsWithAnotherSecret: false } },
  });
});

test('a handset that is switched off: the conversation says what became of the answer', async ({ page, context }) => {
  await signIn(page);
  const bench = revealing(await context.newPage());
  await bench.goto('/prove/bench');
  const handset = bench.getByRole('article', { name: 'Handset of Ines Calder' });
  await handset.getByRole('button', { name: 'Switch off' }).click();
  await expect(handset.getByRole('button', { name: 'Switch on' })).toBeVisible();
  await page.goto('/route/conversations');
  await page.getByRole('link', { name: /Ines Calder/ }).click();
  // Wherever she wrote last: this is about a text.
  await page.getByLabel('Over', { exact: true }).selectOption({ label: 'Harbour desk' });
  await expect(page.locator('[data-way]')).toContainText('Harbour desk.');
  await page.getByLabel(/Reply to/).fill('Please call the lock office.');
  await page.getByRole('button', { name: 'Send' }).click();
  const answer = page.locator('[data-direction=out]', { hasText: 'Please call the lock office.' });
  await expect(answer.locator('[data-message-state=failed]')).toBeVisible();
  await expect(answer).toContainText('The handset was switched off or out of coverage');
  await handset.getByRole('button', { name: 'Switch on' }).click();
  await expect(handset.getByRole('button', { name: 'Switch off' })).toBeVisible();
});

test('an agent answers but sets nothing up; a viewer only reads', async ({ page }) => {
  await signIn(page, 'jonas');
  await goTo(page, 'Messages');
  await expect(page.getByRole('link', { name: 'Audit' })).toHaveCount(0);
  await page.goto('/connect/channels');
  await page.getByRole('link', { name: 'Harbour desk' }).click();
  await expect(page.getByText('Administrators hand the address over.')).toBeVisible();
  await expect(page.getByText('/in/harbour-desk')).toHaveCount(0);
  await page.getByRole('button', { name: 'Sign out' }).click();
  await page.waitForURL(/sign-in/);

  await signIn(page, 'alder');
  await page.goto('/route/conversations');
  await page.locator('ul[aria-label=Conversations] a').first().click();
  await expect(page.getByText('Viewers read; agents answer.')).toBeVisible();
});

test('signing in is slowed down after many failures', async ({ page }) => {
  await page.goto('/sign-in');
  await page.getByLabel('E-mail').fill('nobody@mossgate.example');
  for (let attempt = 0; attempt < 9; attempt++) {
    await page.getByLabel('Password').fill(`wrong ${attempt}`);
    await page.getByRole('button', { name: 'Sign in', exact: true }).click();
    await expect(page.locator('form [role=alert]')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Sign in', exact: true })).toBeEnabled();
  }
  await expect(page.locator('form [role=alert]')).toContainText('Too many failed attempts');
});

test('pages carry the security headers, and nothing is fetched from elsewhere', async ({ page, baseURL }) => {
  const foreign: string[] = [];
  page.on('request', (request) => {
    const { url } = { url: request.url() };
    if (!url.startsWith(baseURL ?? '') && !url.startsWith('data:')) foreign.push(url);
  });
  const answer = await page.goto('/sign-in');
  expect(answer?.headers()['content-security-policy']).toMatch(/script-src 'self' 'nonce-[^']+' 'strict-dynamic'/);
  expect(answer?.headers()['x-content-type-options']).toBe('nosniff');
  expect(foreign).toEqual([]);
});

test('a list narrows as one types and is sorted by a column; Back takes each of it away, a kept view brings it again', async ({
  page,
}) => {
  await signIn(page);
  await goTo(page, 'Numbers');
  const rows = page.locator('#main tbody tr');
  const all = await rows.count();
  const prices = () => rows.locator('td:nth-child(7)').allInnerTexts();
  await page.getByRole('button', { name: 'Monthly price' }).click();
  await expect(page.getByRole('columnheader', { name: 'Monthly price' })).toHaveAttribute('aria-sort', 'ascending');
  const sums = (await prices()).flatMap((text) => (text === '—' ? [] : [Number(text.replace(/[^\d.]/g, ''))]));
  expect(sums).toEqual([...sums].sort((a, b) => a - b));
  await page.getByLabel('Find in Numbers').pressSequentially('ready');
  await expect.poll(() => rows.count()).toBeLessThan(all);
  const found = await rows.count();
  await page.getByRole('button', { name: 'Keep this view' }).click();
  await page.getByRole('dialog').getByLabel('Name').fill('Ready by price');
  await page.getByRole('dialog').getByRole('button', { name: 'Keep' }).click();
  const view = page.getByRole('navigation', { name: 'Kept views' }).getByRole('link', { name: 'Ready by price' });
  await expect(view).toHaveAttribute('aria-current', 'true');
  await page.goBack();
  await expect(rows).toHaveCount(all);
  await expect(page.getByLabel('Find in Numbers')).toHaveValue('');
  await view.click();
  await expect(rows).toHaveCount(found);
  await page.getByRole('button', { name: 'Forget' }).click();
  await expect(view).toBeHidden();
});
