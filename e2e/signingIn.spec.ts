/**
 * Coming in and being put out, as people live through it: invited with a second factor, by passkey, through the identity
 * provider, with another role, switched off, ended elsewhere, recovered; and a reply that survives a session's end.
 */
import { type Browser, type BrowserContext, type Cookie, expect, type Page } from '@playwright/test';
import { SYSTEM } from '../src/operations/context/actor';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { addPerson } from '../src/operations/people/people';
import { actorOf, endOtherSessions } from '../src/operations/people/sessions';
import { connectMossgate, INES, postSigned, textIn } from '../tests/harness/mossgate';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { expectAccessible } from './helpers';
import { revealing, test } from './revealed';

const PASSWORD = 'towpath at low water';
const HERS = 'heron under the bridge';
const HILDE = 'hilde@mossgate.example';

let installation: Installation;
test.beforeAll(async () => {
  installation = await startInstallation({ host: 'localhost' });
  await createFirstOwner(installation.ctx, { name: 'Maren', email: 'maren@mossgate.example', password: PASSWORD });
});
test.afterAll(() => installation.stop());

/** Somebody's browser, with a device in it that keeps passkeys and knows its person. */
async function somebody(browser: Browser): Promise<Page> {
  const context = await browser.newContext({ baseURL: installation.origin });
  const page = revealing(await context.newPage());
  const devices = await context.newCDPSession(page);
  await devices.send('WebAuthn.enable');
  await devices.send('WebAuthn.addVirtualAuthenticator', {
    options: {
      protocol: 'ctap2',
      transport: 'internal',
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  return page;
}

async function signInBy(page: Page, email: string, password: string) {
  await page.goto('/sign-in');
  await page.getByLabel('E-mail').fill(email);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
}

const isIn = (page: Page) => expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();
const isOut = (page: Page) => expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();

async function copied(page: Page, button: string): Promise<string> {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.getByRole('button', { name: button }).click();
  return page.evaluate(() => navigator.clipboard.readText());
}

test('invited, second factor, passkey, provider, another role, switched off, ended, recovered', async ({ browser }) => {
  const maren = await somebody(browser);
  await signInBy(maren, 'maren@mossgate.example', PASSWORD);
  await isIn(maren);

  // An owner sets up her own before she can require it of others.
  await maren.goto('/people/sign-in');
  await maren.getByLabel('Owners', { exact: true }).check();
  await maren.getByLabel('Administrators').check();
  await maren.getByRole('button', { name: 'Save' }).first().click();
  await expect(maren.locator('form [role=alert]')).toContainText('second factor of your own first');
  await maren.goto('/you');
  await maren.getByLabel('What you call it').fill('Laptop');
  await maren.getByRole('button', { name: 'Add a passkey' }).click();
  await expect(maren.getByRole('table', { name: 'Passkeys' })).toContainText('Laptop');
  await expectAccessible(maren, 'second factor');
  await maren.goto('/people/sign-in');
  await maren.getByLabel('Owners', { exact: true }).check();
  await maren.getByLabel('Administrators').check();
  await maren.getByRole('button', { name: 'Save' }).first().click();
  await expect(maren.getByLabel('Administrators')).toBeChecked();
  await expectAccessible(maren, 'how people sign in');

  // Invited: a password, a passkey, recovery codes, in.
  await maren.goto('/people');
  await maren.getByRole('button', { name: 'Invite a person' }).click();
  const dialog = maren.getByRole('dialog');
  await dialog.getByLabel('Name', { exact: true }).fill('Hilde Brook');
  await dialog.getByLabel('E-mail').fill(HILDE);
  await dialog.getByLabel('Role').selectOption('administrator');
  await maren.getByRole('button', { name: 'Make the invitation' }).click();
  const link = await copied(maren, 'Copy Invitation');
  await maren.getByRole('button', { name: 'I have copied it' }).click();
  const hilde = await somebody(browser);
  await hilde.goto(link);
  await hilde.getByLabel('Password').fill(HERS);
  await hilde.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(hilde.getByRole('heading', { name: 'Set up a second factor' })).toBeVisible();
  await expectAccessible(hilde, 'setting up a second factor');
  await hilde.goto('/people');
  await isOut(hilde);
  await hilde.goto('/sign-in/second');
  await hilde.getByLabel('What you call it').fill('Phone');
  await hilde.getByRole('button', { name: 'Add a passkey' }).click();
  await hilde.getByRole('button', { name: 'Show recovery codes' }).click();
  const codes = ((await hilde.locator('[data-recovery-codes] pre').textContent()) ?? '').split('\n');
  expect(codes).toHaveLength(10);
  await hilde.getByRole('button', { name: 'Go on' }).click();
  await isIn(hilde);

  // By passkey alone; then beside the password.
  await hilde.getByRole('button', { name: 'Sign out' }).click();
  await isOut(hilde);
  await hilde.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await isIn(hilde);
  await hilde.goto('/you');
  await expect(hilde.getByRole('table', { name: 'Sessions' })).toContainText('passkey');
  await hilde.getByRole('button', { name: 'Sign out' }).click();
  await isOut(hilde);
  await signInBy(hilde, HILDE, HERS);
  await hilde.getByRole('button', { name: 'Show the passkey' }).click();
  await isIn(hilde);

  // Another role: the next click is the last one.
  const row = maren.getByRole('row', { name: /Hilde Brook/ });
  await row.getByRole('button', { name: 'Role of Hilde Brook' }).click();
  await dialog.getByLabel('Role').selectOption('agent');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(row).toContainText('agent');
  await hilde.goto('/people');
  await isOut(hilde);
  await hilde.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await isIn(hilde);

  // Ended from another browser.
  const elsewhere = await copyOf(browser, hilde.context());
  await elsewhere.goto('/you');
  await isIn(elsewhere);
  await endOtherSessions(installation.ctx, actorOf(await personOf(HILDE)), 'none of them');
  await elsewhere.goto('/you');
  await isOut(elsewhere);

  // Switched off: out with the next click, and no passkey opens.
  await hilde.goto('/sign-in');
  await hilde.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await isIn(hilde);
  await row.getByRole('button', { name: 'Switch Hilde Brook off' }).click();
  await dialog.getByRole('button', { name: 'Switch off' }).click();
  await expect(row).toContainText('switched off');
  await hilde.goto('/route/conversations');
  await isOut(hilde);
  await hilde.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await expect(hilde.getByRole('alert').filter({ hasText: 'does not open anything' })).toBeVisible();

  // Recovered: switched on, a new password by a link, the device lost, a recovery code.
  await row.getByRole('button', { name: 'Switch on again' }).click();
  await row.getByRole('button', { name: 'New password for Hilde Brook' }).click();
  await dialog.getByRole('button', { name: 'Make the link' }).click();
  const again = await copied(maren, 'Copy Link');
  await maren.getByRole('button', { name: 'I have copied it' }).click();
  const lost = await somebody(browser);
  await lost.goto(again);
  await lost.getByLabel('Password').fill('lantern on the lock gate');
  await lost.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(lost.getByRole('heading', { name: 'Second factor' })).toBeVisible();
  await lost.getByRole('button', { name: 'I do not have my device' }).click();
  await lost.getByLabel('Recovery code').fill(codes[3] ?? '');
  await expectAccessible(lost, 'a recovery code');
  await lost.getByRole('button', { name: 'Sign in', exact: true }).click();
  await isIn(lost);

  // Through the organisation's provider, and out of it.
  const { clientId, clientSecret } = installation.world.bollard;
  await maren.goto('/people/sign-in');
  await maren.getByLabel('Name on the button').fill('Mossgate');
  await maren.getByLabel('Issuer').fill(`http://127.0.0.1:${installation.world.ports.bollard}`);
  await maren.getByLabel('Client id').fill(clientId);
  await maren.getByLabel('Client secret').fill(clientSecret);
  await maren
    .getByLabel('Groups', { exact: true })
    .fill('it-messaging, administrator\nharbour-desk, agent, Harbour desk');
  await maren.getByRole('button', { name: 'Save' }).last().click();
  await expect(maren.getByText('it is not proven')).toBeVisible();
  const callum = await somebody(browser);
  await callum.goto('/watch/messages');
  await callum.getByRole('link', { name: 'Sign in through Mossgate' }).click();
  await expect(callum.getByRole('heading', { name: /Sign in to go on/ })).toBeVisible();
  await callum.getByLabel('E-mail').fill('callum@mossgate.example');
  await callum.getByLabel('Password').fill('lanterns on the quay');
  await callum.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(callum.getByRole('heading', { name: 'Messages' })).toBeVisible();
  await maren.reload();
  await expect(maren.getByText(/Proven: somebody came in/)).toBeVisible();
  await callum.getByRole('button', { name: 'Sign out' }).click();
  await isOut(callum);
  // Signed out there, too: the provider asks again.
  await callum.getByRole('link', { name: 'Sign in through Mossgate' }).click();
  await expect(callum.getByRole('heading', { name: /Sign in to go on/ })).toBeVisible();
});

async function personOf(email: string) {
  const person = await installation.ctx.store.users.one({ email });
  if (!person) throw new Error(`nobody is ${email}`);
  return person;
}

/** Another browser with the same cookies, as a thief's would be. */
async function copyOf(browser: Browser, context: BrowserContext): Promise<Page> {
  const cookies: Cookie[] = await context.cookies();
  const other = await browser.newContext({ baseURL: installation.origin });
  await other.addCookies(cookies);
  return revealing(await other.newPage());
}

test('a session that ends in the middle of a reply loses nothing, and goes on where it was', async ({ browser }) => {
  const { ctx } = installation;
  const mossgate = await connectMossgate(installation);
  const priya = await addPerson(ctx, SYSTEM, {
    name: 'Priya',
    email: 'priya@mossgate.example',
    password: PASSWORD,
    role: 'agent',
  });
  const body = textIn('bwt_reply', INES, mossgate.channel.address, 'Is Tollgate open?');
  expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body)).toBe(202);
  const { conversation_id: id } = await until('it is in', () => ctx.store.messages.one({ text: 'Is Tollgate open?' }));
  const page = await somebody(browser);
  await signInBy(page, priya.email, PASSWORD);
  await isIn(page);
  await page.goto(`/route/conversations/${id}`);
  await page.getByLabel(/^Reply to/).fill('It opens at eight tomorrow.');
  await endOtherSessions(ctx, actorOf(priya), 'none of them');
  // The page hears of it by itself; whoever presses before that is told the same.
  const dialog = page.getByRole('dialog', { name: 'You were signed out' });
  await expect(dialog).toBeVisible();
  await expectAccessible(page, 'signed out beside a reply');
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  // Put away, it stays so: the page asking once more by itself does not bring it back over what is being read.
  const asked = page.waitForResponse((answer) => answer.status() === 401);
  await page.evaluate(() => void fetch(window.location.href, { headers: { rsc: '1' } }));
  await asked;
  await expect(dialog).toBeHidden();
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(dialog).toBeVisible();
  const [beside] = await Promise.all([
    page.waitForEvent('popup'),
    dialog.getByRole('link', { name: 'Sign in as Priya' }).click(),
  ]);
  await beside.getByLabel('E-mail').fill(priya.email);
  await beside.getByLabel('Password').fill(PASSWORD);
  await Promise.all([
    beside.waitForEvent('close'),
    beside.getByRole('button', { name: 'Sign in', exact: true }).click(),
  ]);
  // What was pressed goes on by itself.
  await expect(page.getByText('It opens at eight tomorrow.')).toBeVisible();
  await expect(page.getByLabel(/^Reply to/)).toHaveValue('');
  expect(await ctx.store.messages.count({ text: 'It opens at eight tomorrow.' })).toBe(1);

  // A reply that is left, and a page that is opened signed out: both are there again afterwards.
  await page.getByLabel(/^Reply to/).fill('And on Sunday at ten.');
  await endOtherSessions(ctx, actorOf(priya), 'none of them');
  await expect(dialog).toBeVisible();
  await page.goto(`/route/conversations/${id}`);
  await isOut(page);
  await page.getByLabel('E-mail').fill(priya.email);
  await page.getByLabel('Password').fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByLabel(/^Reply to/)).toHaveValue('And on Sunday at ten.');

  // A link that is followed after the end leads there as soon as one is in again.
  await endOtherSessions(ctx, actorOf(priya), 'none of them');
  await expect(dialog).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'what is known' }).click();
  await expect(dialog).toBeVisible();
  await expect(page.getByLabel(/^Reply to/)).toHaveValue('And on Sunday at ten.');
  const [again] = await Promise.all([
    page.waitForEvent('popup'),
    dialog.getByRole('link', { name: 'Sign in as Priya' }).click(),
  ]);
  await again.getByLabel('E-mail').fill(priya.email);
  await again.getByLabel('Password').fill(PASSWORD);
  await Promise.all([again.waitForEvent('close'), again.getByRole('button', { name: 'Sign in', exact: true }).click()]);
  await expect(page).toHaveURL(/\/compose\/contacts\//);
});

test('a browser that was left open is asked again before it makes an invitation', async ({ browser }) => {
  const { ctx } = installation;
  const bo = await addPerson(ctx, SYSTEM, {
    name: 'Bo',
    email: 'bo@mossgate.example',
    password: PASSWORD,
    role: 'owner',
  });
  await ctx.store.write((unit) => unit.settings.remove({ name: 'second-factor-roles' }));
  const page = await somebody(browser);
  await signInBy(page, bo.email, PASSWORD);
  await isIn(page);
  await page.goto('/people');
  await ctx.store.write((unit) => unit.sessions.change({ user_id: bo.id }, { confirmed_at: 0 }));
  await page.getByRole('button', { name: 'Invite a person' }).click();
  await page.getByRole('dialog').getByLabel('Name', { exact: true }).fill('Nils Ro');
  await page.getByRole('dialog').getByLabel('E-mail').fill('nils@mossgate.example');
  await page.getByRole('button', { name: 'Make the invitation' }).click();
  const dialog = page.getByRole('dialog', { name: 'Show that it is you' });
  await dialog.getByLabel('Your password').fill('wrong');
  await dialog.getByRole('button', { name: 'It is me' }).click();
  await expect(dialog.getByRole('alert')).toContainText('not your password');
  await expectAccessible(page, 'asked again');
  expect(await ctx.store.users.count({ email: 'nils@mossgate.example' })).toBe(0);
  await dialog.getByLabel('Your password').fill(PASSWORD);
  await dialog.getByRole('button', { name: 'It is me' }).click();
  // Nothing has to be typed again.
  await expect(page.getByRole('button', { name: 'Copy Invitation' })).toBeVisible();
  expect(await ctx.store.users.count({ email: 'nils@mossgate.example' })).toBe(1);
});
