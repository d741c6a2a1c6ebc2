/** A calendar and a telephone system from nothing, by clicking: a reminder with its answer and a mail; a missed call with its text. */
import { expect } from '@playwright/test';
import { expectAccessible, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const CALENDAR = `http://127.0.0.1:${BENCH_PORT + 100}`;
const EXCHANGE = `http://127.0.0.1:${BENCH_PORT + 110}`;
const FENNICK = `http://127.0.0.1:${BENCH_PORT + 60}`;

/** A moment as the calendar's wall shows it. */
function onTheWall(at: Date): string {
  return new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/London', dateStyle: 'short', timeStyle: 'medium' })
    .format(at)
    .replace(' ', 'T');
}

test('an event in the calendar is reminded of, answered yes, and the answer is mailed', async ({ page, context }) => {
  await signIn(page);
  const outside = revealing(await context.newPage());

  await test.step('the mail account that notices leave through', async () => {
    await outside.goto(FENNICK);
    const read = async (id: string) => (await outside.locator(`#${id}`).first().textContent()) ?? '';
    const [port, user, password, address] = [
      await read('smtp-port'),
      await read('user'),
      await read('password'),
      await read('address'),
    ];
    await goTo(page, 'Mail');
    await page.getByLabel('Mail server').fill('127.0.0.1');
    await page.getByLabel('Port').fill(port);
    await page.getByLabel('User').fill(user);
    await page.getByLabel('Password').fill(`${password}x`);
    await page.getByLabel('Sender’s address').fill(address);
    await page.getByLabel('Send the trial to').fill('maren@mossgate.example');
    // Encryption is required unless somebody says otherwise, and this server has none.
    await page.getByRole('button', { name: 'Send a trial and save' }).click();
    await expect(page.getByRole('alert').first()).toContainText('offers no encryption');
    await page.getByLabel('Encryption').selectOption('none');
    await page.getByRole('button', { name: 'Send a trial and save' }).click();
    await expect(page.getByRole('alert').first()).toContainText('refused');
    await page.getByLabel('Password').fill(password);
    await page.getByRole('button', { name: 'Send a trial and save' }).click();
    await expect(page.getByText(`Notices leave through 127.0.0.1 as ${address}`)).toBeVisible();
    await expectAccessible(page, 'mail');
  });

  await test.step('the feed, with an event that is too late and one without a phone', async () => {
    await outside.goto(CALENDAR);
    const add = async (title: string, notes: string, start: string) => {
      await outside.getByLabel('Title').fill(title);
      await outside.getByLabel('Notes').fill(notes);
      await outside.getByLabel('Start').fill(start);
      await outside.getByRole('button', { name: 'Add it' }).click();
    };
    await add('Crew meeting', 'Everybody', onTheWall(new Date(Date.now() + 3 * 3_600_000)));
    await add('North lock duty', 'Ines, 07700 900123', onTheWall(new Date(Date.now() + 3 * 3_600_000)));
    const feed = (await outside.locator('#feed').textContent()) ?? '';
    await goTo(page, 'Apps');
    await page.getByRole('button', { name: 'Add an app' }).click();
    await page.getByLabel('Name').fill('Duty calendar');
    await page.getByRole('button', { name: 'Add it' }).click();
    await page.getByRole('link', { name: 'Calendar feeds' }).click();
    await page.getByRole('button', { name: 'Add a calendar feed' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name', { exact: true }).fill('Lock duty');
    await dialog.getByLabel('Address of the feed').fill(feed);
    await dialog.getByLabel('Text of the reminder').fill('{{ event.title }} at {{ event.time }}. Yes or no?');
    await dialog.getByLabel('a day before').uncheck();
    await dialog.getByLabel('an hour before', { exact: true }).check();
    await dialog.getByLabel('Numbers without a country code').selectOption('GB');
    await dialog.getByLabel('Mail answers to').fill('keeper@mossgate.example');
    await expectAccessible(page, 'adding a feed');
    await dialog.getByRole('button', { name: 'Read it' }).click();
    await expect(page.getByText('This feed holds the calendar “Lock duty” and no other.')).toBeVisible();
    await expect(page.getByRole('table', { name: 'Events of Lock duty' })).toContainText('+44 7700 900123');
    await page.getByText('1 event has no reminder').click();
    await expect(page.getByRole('list', { name: /without a reminder/ })).toContainText('Crew meeting');
  });

  const events = page.getByRole('table', { name: 'Events of Lock duty' });
  await test.step('moved so that its reminder is due: it is on the handset', async () => {
    await outside.reload();
    const start = new Date(Date.now() + 3_600_000 + 15_000);
    const form = outside.locator('form', { has: outside.getByRole('button', { name: 'Change North lock duty' }) });
    await form.locator('input[name=start]').fill(onTheWall(start));
    await form.getByRole('button').click();
    await page.getByRole('button', { name: 'Read it now' }).click();
    await expect(events.getByRole('link', { name: 'Sent' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Call in: proven' })).toBeVisible();
  });

  await test.step('her yes marks the event, and the keeper gets a mail', async () => {
    const bench = revealing(await context.newPage());
    await bench.goto('/prove/bench');
    const handset = bench.getByRole('article', { name: 'Handset of Ines Calder' });
    await expect(handset.locator('[data-entry=received]').last()).toContainText('North lock duty at');
    await handset.getByLabel('Text to').selectOption('text +442079460114');
    await handset.getByLabel('Message', { exact: true }).fill('Yes please, I’ll be there');
    await handset.getByRole('button', { name: 'Send from this handset' }).click();
    await expect(events.getByRole('link', { name: 'Yes' })).toBeVisible();
    await expectAccessible(page, 'calendar feeds');
    await outside.goto(FENNICK);
    await expect(outside.getByRole('row', { name: /keeper@mossgate.example.*Yes: North lock duty/ })).toBeVisible();
  });
});

test('a missed call is answered with one text; a hidden one is not, and says so', async ({ page, context }) => {
  await signIn(page);
  await goTo(page, 'Apps');
  await page.getByRole('button', { name: 'Add an app' }).click();
  await page.getByLabel('Name').fill('Quayside exchange');
  await page.getByRole('button', { name: 'Add it' }).click();
  await page.getByRole('link', { name: 'Phone events' }).click();
  await page.getByRole('button', { name: 'Add a telephone system' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name', { exact: true }).fill('Harbour office');
  await dialog
    .getByLabel('Answer the caller with')
    .fill(`We’re sorry we missed your call to the harbour office. ${'Text us here. '.repeat(2)}`);
  await dialog.getByLabel('Callers without a country code').selectOption('GB');
  await expect(dialog.getByText('“’” needs UCS-2')).toBeVisible();
  await dialog.getByRole('button', { name: 'Create the address' }).click();
  await expect(dialog.getByRole('alert').first()).toContainText('needs 2 parts; one is allowed');
  await dialog.getByLabel('Answer the caller with').fill('Sorry we missed your call. Text us here.');
  await expectAccessible(page, 'adding a telephone system');
  await dialog.getByRole('button', { name: 'Create the address' }).click();
  await page.getByRole('button', { name: 'Copy Address for calls' }).click();
  const address = await page.evaluate(() => navigator.clipboard.readText());

  const exchange = revealing(await context.newPage());
  await exchange.goto(EXCHANGE);
  await exchange.getByLabel('Post what becomes of calls to').fill(address);
  await exchange.getByRole('button', { name: 'Save address' }).click();
  await exchange.getByLabel('Caller').fill('+33639980417');
  await exchange.getByRole('button', { name: 'Let it ring' }).click();
  const calls = page.getByRole('table', { name: 'Calls of Harbour office' });
  await expect(calls.getByRole('link', { name: 'Message to +33639980417' })).toBeVisible();
  await exchange.getByLabel('Caller').fill('anonymous');
  await exchange.getByRole('button', { name: 'Let it ring' }).click();
  await expect(calls).toContainText('The caller’s number is hidden.');
  await expect(page.getByRole('button', { name: 'Call in: proven' })).toBeVisible();
  await expectAccessible(page, 'phone events');
  const bench = revealing(await context.newPage());
  await bench.goto('/prove/bench');
  await expect(
    bench.getByRole('article', { name: 'Handset of Odile Marchand' }).locator('[data-entry=received]').last(),
  ).toContainText('Sorry we missed your call.');
});
