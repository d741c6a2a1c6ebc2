/** Records in two apps, connected by clicking: a text from a handset becomes a person and a ticket. */
import { expect, type Page } from '@playwright/test';
import { expectAccessible, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const TOWPATH = `http://127.0.0.1:${BENCH_PORT + 80}`;
const WEIR = `http://127.0.0.1:${BENCH_PORT + 90}`;

async function addApp(page: Page, name: string, what: string) {
  await goTo(page, 'Apps');
  await page.getByRole('button', { name: 'Add an app' }).click();
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('What it is').fill(what);
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
  await page.getByRole('link', { name: 'Records', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: `Records in ${name}` })).toBeVisible();
}

test('a text becomes a person in Towpath Records and a ticket at Weir Desk', async ({ page, context }) => {
  await signIn(page);
  const outside = revealing(await context.newPage());

  await test.step('Towpath: credentials from its page, a wrong one told, then what is kept', async () => {
    await outside.goto(TOWPATH);
    const address = (await outside.locator('#address').textContent()) ?? '';
    const token = (await outside.locator('.token').first().textContent()) ?? '';
    await addApp(page, 'Towpath Records', 'Customer records');
    await page.getByLabel('Towpath Records').check();
    await page.getByLabel('Address', { exact: true }).fill(address);
    await page.getByLabel('Access token').fill(`${token.slice(0, -1)}_`);
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(
      page.getByText('This does not look like the access token.').or(page.getByText('cut short')).first(),
    ).toBeVisible();
    await page.getByLabel('Access token').fill(token);
    await expectAccessible(page, 'connecting records');
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(page.getByText('Towpath Records accepts the credentials (Mossgate customer records)')).toBeVisible();
    await page.getByRole('button', { name: 'Add a record action' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Everybody who texts');
    await page.getByLabel('Last message').fill('{{ Message.text }}');
    await page.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('dialog')).toContainText('Use message.text.');
    await page.getByLabel('Last message').fill('{{ message.text }}');
    await page.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('heading', { name: 'Everybody who texts' })).toBeVisible();
  });
  const towpathRecords = page.url();

  await test.step('Weir Desk: a ticket unless one is open', async () => {
    await outside.goto(WEIR);
    const read = async (id: string) => (await outside.locator(`#${id}`).textContent()) ?? '';
    const [address, desk, key] = [await read('address'), await read('desk'), await read('key')];
    await addApp(page, 'Weir Desk', 'Tickets');
    await page.getByLabel('Weir Desk').check();
    await page.getByLabel('Address', { exact: true }).fill(address);
    await page.getByLabel('Desk', { exact: true }).fill(desk);
    await page.getByLabel('Desk key').fill(key);
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(page.getByText('Weir Desk accepts the credentials (Mossgate duty desk)')).toBeVisible();
    await page.getByRole('button', { name: 'Add a record action' }).click();
    await page.getByLabel('Name', { exact: true }).fill('A ticket for who asks');
    await page
      .getByLabel('For each message that comes in')
      .selectOption({ label: 'Make a ticket, unless the sender has an open one' });
    await page.getByRole('button', { name: 'Save' }).click();
    await expect(page.getByRole('heading', { name: 'A ticket for who asks' })).toBeVisible();
  });

  await test.step('a text from a handset arrives in both, and the marks are proven', async () => {
    const bench = revealing(await context.newPage());
    await bench.goto('/prove/bench');
    const handset = bench.getByRole('article', { name: 'Handset of Odile Marchand' });
    await handset.getByLabel('Text to').selectOption('text +442079460114');
    await handset.getByLabel('Message', { exact: true }).fill('Une amarre est rompue au quai nord.');
    await handset.getByRole('button', { name: 'Send from this handset' }).click();
    const latest = page.getByRole('table', { name: 'Latest of A ticket for who asks' });
    await expect(latest).toContainText('Made a ticket 41');
    await expect(page.getByRole('button', { name: 'Call out: proven' })).toBeVisible();
    await expect(outside.locator('#live')).toContainText('Une amarre est rompue au quai nord.');
    await latest
      .getByRole('button', { name: /attempt/ })
      .first()
      .click();
    await expect(page.getByRole('dialog')).toContainText('/tickets');
    await page.keyboard.press('Escape');
    await expectAccessible(page, 'what is kept');
    await page.goto(towpathRecords);
    await expect(page.getByRole('table', { name: 'Latest of Everybody who texts' })).toContainText('Made a person');
    await outside.goto(TOWPATH);
    await expect(outside.getByRole('row', { name: /33639980417.*Une amarre est rompue/ })).toBeVisible();
  });

  await test.step('the conversation says what both know of her', async () => {
    await goTo(page, 'Conversations');
    await page.getByRole('link', { name: /Odile Marchand.*Une amarre/ }).click();
    await expect(page.locator('[data-in-apps]')).toContainText('Weir Desk: 1 open ticket');
    await expect(page.locator('[data-in-apps]')).toContainText('Towpath Records: Odile Marchand');
  });
});
