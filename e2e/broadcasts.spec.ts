/** One message to many by clicking: written, read as a plan, shown first, held, resumed, answered, exported; one that holds itself; one that needs a second person. */
import { readFileSync } from 'node:fs';
import { expect, type Page } from '@playwright/test';
import { parse } from 'csv-parse/sync';
import { expectAccessible, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const BENCH = `http://127.0.0.1:${BENCH_PORT}`;
const MOORED = Array.from({ length: 60 }, (_, index) => `+4477009007${String(index).padStart(2, '0')}`);
const INES = '+447700900123';

type Row = Record<'message' | 'address' | 'state', string>;
type Logged = Record<'id' | 'to' | 'state', string>;

async function bench(method: string, path: string, body: object) {
  await fetch(BENCH + path, { method, body: JSON.stringify(body) });
}

async function write(page: Page, name: string, text: string, lines: readonly string[], first = '0') {
  await goTo(page, 'Broadcasts');
  await page.getByRole('button', { name: 'Write a broadcast' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name').fill(name);
  await dialog.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByRole('heading', { name, level: 1 })).toBeVisible();
  await page.getByRole('button', { name: 'Give it a list' }).click();
  await dialog.getByLabel('Or lines').fill(['phone,name', ...lines].join('\n'));
  await dialog.getByRole('button', { name: 'Take it' }).click();
  await expect(dialog).toHaveCount(0);
  await page.getByLabel('People: add').selectOption({ label: `the list (${lines.length})` });
  await page.getByLabel('Text', { exact: true }).fill(text);
  await page.getByLabel('Channel', { exact: true }).selectOption({ label: 'Harbour desk' });
  // What is sent at once would wait for the morning when the tests run at night.
  await page.getByLabel('Keep quiet hours: nobody is written to at night').uncheck();
  await page.getByLabel('So many go out alone first').fill(first);
}

async function plan(page: Page) {
  await page.getByRole('button', { name: 'Save and plan it' }).click();
  await expect(page.locator('#plan')).toBeVisible();
}

async function start(page: Page, button = 'Start it', confirm = 'Start') {
  await page.getByRole('button', { name: button }).click();
  const dialog = page.getByRole('dialog');
  const reason = dialog.getByLabel('Reason');
  if (await reason.isVisible()) await reason.fill('The demonstration is young');
  await dialog.getByRole('button', { name: confirm, exact: true }).click();
  await expect(dialog).toHaveCount(0);
}

const state = (page: Page) => page.getByRole('main').locator('[data-broadcast]').first();

test('a stoppage: planned with its reasons, shown first, held, resumed, answered, and every row of it told', async ({
  page,
}) => {
  for (const number of MOORED) await bench('POST', '/handsets', { number, owner: 'Moored', country: 'GB' });
  await signIn(page);
  await write(page, 'North lock closed', 'North lock is closed on Tuesday, {{ name }}. Will you wait?', [
    `${INES},Ines`,
    ...MOORED.map((number, index) => `${number},Boat ${index}`),
    '+447700900371,Hester',
    '+442079460999,The office',
    '12,A slip',
    `${MOORED[0]},Twice`,
    '+447700900790,',
    '+491713920000,Far away',
  ]);
  await page.getByLabel('Answers to press').fill('I will wait, I will turn back');
  await expect(page.locator('[data-sentence]')).toContainText('to the list (67) over Harbour desk at once.');
  await expectAccessible(page, 'a broadcast that is written');
  await plan(page);
  await expect(page.locator('#plan')).toContainText('61 of 67 people get it');
  const reasons = page.getByRole('table', { name: 'Reasons for which people are left out' });
  for (const reason of [
    'opted out',
    'a landline',
    'the number is not valid',
    'the same address is in the audience twice',
    'a merge field has no value',
    'the channel is not allowed to send to the country',
  ])
    await expect(reasons).toContainText(reason);
  await expect(page.locator('[data-preview]').first()).toContainText('North lock is closed on Tuesday, Ines.');
  await expectAccessible(page, 'a plan');

  await test.step('to a phone of our own first', async () => {
    await page.getByRole('button', { name: 'Send it to me first' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Phone').selectOption({ label: `Odile Marchand, +33639980417` });
    await dialog.getByRole('button', { name: 'Send', exact: true }).click();
    await expect(dialog).toHaveCount(0);
  });

  await test.step('held in the middle, and resumed', async () => {
    await bench('PATCH', '/faults', { brackwater: { slowAnswers: 2500 } });
    await start(page);
    await expect(page.locator('#progress')).toContainText(/\d+ (delivered|sent)/);
    await page.getByRole('button', { name: 'Hold', exact: true }).click();
    await expect(page.locator('[data-held=by-hand]')).toContainText('Maren Thistlewood held it.');
    await expect(page.locator('#progress')).toContainText(/not yet|waiting/);
    await expectAccessible(page, 'a broadcast that is held');
    await bench('PATCH', '/faults', { brackwater: { slowAnswers: 0 } });
    await page.getByRole('button', { name: 'Resume' }).click();
    await expect(state(page)).toHaveText(/Finished/);
    await expect(page.locator('#progress')).toContainText('61 delivered');
  });

  await test.step('an answer is counted, and opens the conversation', async () => {
    await bench('POST', `/handsets/${encodeURIComponent(INES)}/texts`, {
      to: '+442079460114',
      text: 'i will wait',
      way: 'text',
      picture: false,
    });
    await expect(page.locator('#progress')).toContainText('I will wait 1');
  });

  await test.step('the file has every row, as the log has every message', async () => {
    const coming = page.waitForEvent('download');
    await page.getByRole('link', { name: 'CSV' }).click();
    const rows = parse(readFileSync(await (await coming).path(), 'utf8'), { columns: true, bom: true }) as Row[];
    expect(rows).toHaveLength(67);
    const log = await page.request.get('/watch/messages/export?format=jsonl');
    const logged = new Map(
      (await log.text())
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as Logged)
        .map((each) => [each.id, each]),
    );
    const got = rows.filter(({ message }) => message !== '');
    expect(got.map(({ message, address, state: became }) => [message, address, became])).toEqual(
      got.map(({ message }) => [message, logged.get(message)?.to, logged.get(message)?.state]),
    );
    expect(got.filter(({ state: became }) => became === 'delivered')).toHaveLength(61);
    expect(rows.filter(({ message, state: became }) => message === '' && became !== 'left-out')).toEqual([]);
    await page.goto(`/watch/messages/${got[3]?.message}`);
    await expect(page.getByRole('main')).toContainText('North lock closed');
    await expect(page.getByRole('main')).toContainText('Sent it to its audience');
  });
});

test('one that goes badly holds itself at its first steps, and the others are spared', async ({ page }) => {
  await signIn(page);
  // Numbers that no handset has.
  const lines = Array.from(
    { length: 80 },
    (_, index) => `+4477009008${String(index).padStart(2, '0')},Nobody ${index}`,
  );
  await write(page, 'Old list', 'Season tickets are out.', lines, '25');
  await plan(page);
  await start(page);
  await expect(page.locator('[data-held=failures]')).toContainText(/(\d+) of \1 failed, 100 %/);
  await expect(page.locator('#progress')).toContainText('55 not yet');
  await page.getByRole('button', { name: 'Cancel the broadcast' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Cancel the broadcast' }).click();
  await expect(state(page)).toHaveText(/Cancelled/);
});

test('above what the owner set a second person has to approve it', async ({ page, browser }) => {
  await signIn(page);
  await goTo(page, 'Broadcasts');
  const rule = async (people: string) => {
    await page.getByRole('button', { name: 'Change', exact: true }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('A second person above so many people').fill(people);
    await dialog.getByRole('button', { name: 'Save' }).click();
    await expect(dialog).toHaveCount(0);
  };
  await rule('2');
  await write(page, 'Two pairs of eyes', 'The office is closed today, {{ name }}.', [
    `${INES},Ines`,
    '+46701740612,Tomas',
    '+33639980417,Odile',
  ]);
  await plan(page);
  await start(page, 'Ask for approval', 'Ask');
  await expect(state(page)).toHaveText(/Waits for approval/);
  await page.getByRole('button', { name: 'Approve' }).click();
  await expect(page.getByText('a second person has to look at it').first()).toBeVisible();
  const address = page.url();
  const other = await browser.newContext();
  const theirs = revealing(await other.newPage());
  await signIn(theirs, 'priya');
  await theirs.goto(address);
  await theirs.getByRole('button', { name: 'Approve' }).click();
  await expect(state(theirs)).toHaveText(/Finished/);
  await other.close();
  await goTo(page, 'Broadcasts');
  await expectAccessible(page, 'the list of broadcasts');
  await rule('');
});

test('to one person, from the search: what goes and what does not is said, and it opens the conversation', async ({
  page,
}) => {
  await signIn(page);
  await page.keyboard.press('Control+k');
  await page.getByRole('dialog').getByRole('combobox').fill('+447700900123');
  await page.getByRole('option', { name: 'Write to +447700900123' }).click();
  await page.getByLabel('Text').fill('Shall we hold the mooring for you?');
  const ways = page.locator('[data-way]');
  await expect(ways.filter({ hasText: 'Harbour desk' })).toContainText('1 part');
  await expect(ways.filter({ hasText: 'Northern chat' })).toContainText('the reply window is closed');
  await expectAccessible(page, 'a message to one person');
  await ways.filter({ hasText: 'Harbour desk' }).getByRole('radio').check();
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await page.waitForURL(/\/route\/conversations\/cnv_/);
  await expect(page.getByRole('main')).toContainText('Shall we hold the mooring for you?');
});
