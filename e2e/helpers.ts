import AxeBuilder from '@axe-core/playwright';
import { type BrowserContext, expect, type Locator, type Page } from '@playwright/test';
import { NAVIGATION } from '../src/ui/shell/navigation';
import { BENCH_PORT } from './places';

export const BRACKWATER = `http://127.0.0.1:${BENCH_PORT + 10}`;
export const LOCKBOOK = `http://127.0.0.1:${BENCH_PORT + 20}`;
export const PASSWORD = 'towpath at low water';

type Session = Awaited<ReturnType<BrowserContext['cookies']>>;
const sessions = new Map<string, Session>();

/** Through the page for the first test that asks; the others go on with its session. */
export async function signIn(page: Page, who = 'maren') {
  await page.context().addCookies(sessions.get(who) ?? []);
  await page.goto('/');
  // The first test that asks, or one after somebody signed out.
  if (new URL(page.url()).pathname === '/sign-in') {
    await page.getByLabel('E-mail').fill(`${who}@mossgate.example`);
    await page.getByLabel('Password').fill(PASSWORD);
    await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  }
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();
  await showWhenAsked(page);
  sessions.set(who, await page.context().cookies());
}

/** A session that goes on for a while is asked again before secrets, people and keys. */
async function showWhenAsked(page: Page) {
  const dialog = page.getByRole('dialog', { name: 'Show that it is you' });
  await page.addLocatorHandler(dialog, async () => {
    await dialog.getByLabel('Your password').fill(PASSWORD);
    await dialog.getByRole('button', { name: 'It is me' }).click();
  });
}

/** What follows a name in the rail is what needs attention there. */
const startsWith = (name: string) => new RegExp(`^${name}\\s*(:|$)`);

/** By the rail, and not before the page is there: the page that is left may hold links of the same name. */
export async function goTo(page: Page, name: string) {
  const stage = NAVIGATION.find(({ pages }) => pages.some(({ label }) => label === name));
  if (!stage) throw new Error(`No page is called ${name}`);
  const pages = page.getByRole('navigation', { name: `Pages of ${stage.name}` });
  if (stage.pages.length === 1 || !(await pages.isVisible()))
    await page
      .getByRole('navigation', { name: 'Main' })
      .getByRole('link', { name: startsWith(stage.name) })
      .click();
  if (stage.pages.length > 1) await pages.getByRole('link', { name: startsWith(name) }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
}

/** What an administrator would copy from the provider's own console. */
export async function readConsole(page: Page, account: string) {
  await page.goto(`${BRACKWATER}/console`);
  await page.getByRole('link', { name: account }).click();
  return {
    url: page.url(),
    id: (await page.locator('#account-id').textContent()) ?? '',
    secret: (await page.locator('#account-secret').textContent()) ?? '',
  };
}

/** Axe's serious and critical findings; there are to be none. */
export async function expectAccessible(page: Page, where: string) {
  await expectNothingSerious(page, where);
}

/** The same for contrast alone. */
export async function expectReadable(page: Page, where: string) {
  await expectNothingSerious(page, where, ['color-contrast']);
}

/** A message that has just appeared, held by the pointer so that it stays while it is examined. */
export async function expectReadableToast(page: Page, text: string) {
  await page.locator('[data-sonner-toast]', { hasText: text }).first().hover();
  await expectNothingSerious(page, `the message “${text}”`, ['color-contrast'], true);
}

async function expectNothingSerious(page: Page, where: string, only?: string[], withToasts = false) {
  // What fades in or out has no colours of its own yet.
  await page.evaluate(() =>
    Promise.allSettled(
      document
        .getAnimations()
        // What goes round for ever has no end to wait for.
        .filter((animation) => animation.effect?.getComputedTiming().endTime !== Number.POSITIVE_INFINITY)
        .map((animation) => animation.finished),
    ),
  );
  // Our pages hold no frames, so axe may work in the page itself; what passes need not be described.
  const axe = new AxeBuilder({ page }).setLegacyMode(true);
  // A message that has been read fades while the page is examined; it has an examination of its own.
  if (!withToasts) axe.exclude('[data-sonner-toaster]');
  const { violations } = await axe
    .options({ resultTypes: ['violations'], ...(only ? { runOnly: only } : {}) })
    .analyze();
  const serious = violations
    .filter((violation) => violation.impact === 'serious' || violation.impact === 'critical')
    .map(
      (violation) => `${where}: ${violation.id} at ${violation.nodes.map((node) => node.target.join(' ')).join(' | ')}`,
    );
  expect(serious).toEqual([]);
}

/** Moves the focus with Tab alone until it is on the target. */
export async function tabTo(page: Page, target: Locator, key: 'Tab' | 'Shift+Tab' = 'Tab') {
  await expect(target).toBeVisible();
  for (let presses = 0; presses < 160; presses++) {
    if (await target.evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press(key);
  }
  throw new Error(`Tab never reached ${target}`);
}

export async function pressOn(page: Page, target: Locator) {
  await tabTo(page, target);
  await page.keyboard.press('Enter');
}

/** Moves the clock that the installation and its outside share. */
export async function passTime(ms: number): Promise<void> {
  await fetch(`http://127.0.0.1:${BENCH_PORT}/clock`, { method: 'POST', body: JSON.stringify({ by: ms }) });
}
