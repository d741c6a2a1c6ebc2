/** Somebody is told: an alert from the fault to mail and webhook, the public address through a proxy, changes on trial, a provider from its document. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect, type Page } from '@playwright/test';
import { checkAccount } from '../src/operations/accounts/accounts';
import { subscribe } from '../src/operations/apps/webhooks';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { openCredentials } from '../src/operations/profiles';
import { sendNotices } from '../tests/harness/mail';
import { connectMossgate, INES, type Mossgate, TOMAS } from '../tests/harness/mossgate';
import { connectTrunk, untilBound } from '../tests/harness/ostrel';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { documentOf, LARKRISE, startLarkrise } from '../tests/openApi/providers';
import { json, type Middle, page as sheet, standBetween } from '../tests/unforeseen/middle';
import { expectAccessible, PASSWORD } from './helpers';
import { test } from './revealed';

const MINUTE = 60_000;
const OFFICE = 'keeper@mossgate.example';
const FORMER = 'https://elsewhere.example/former';

let house: Installation;
let proxy: Middle;
let mossgate: Mossgate;
let app: Server;
const events: string[] = [];

test.beforeAll(async () => {
  proxy = await standBetween();
  house = await startInstallation({ env: { WINDGAP_PUBLIC_URL: proxy.url } });
  proxy.leadTo(house.origin);
  const { ctx } = house;
  mossgate = await connectMossgate(house);
  await createFirstOwner(ctx, { name: 'Maren', email: 'maren@mossgate.example', password: PASSWORD });
  await sendNotices(house, OFFICE);
  app = createServer(async (request, response) => {
    let body = '';
    for await (const chunk of request) body += chunk;
    events.push((JSON.parse(body) as { type: string }).type);
    response.writeHead(204).end();
  });
  await new Promise<void>((resolve) => app.listen(0, '127.0.0.1', resolve));
  await subscribe(ctx, SYSTEM, {
    appId: mossgate.appId,
    url: `http://127.0.0.1:${(app.address() as AddressInfo).port}/`,
    events: ['windgap.alert.began', 'windgap.alert.escalated', 'windgap.alert.ended'],
  });
  const trunk = await connectTrunk(house);
  await untilBound(house, trunk.accountId);
  const proof = await createSender(ctx)(SYSTEM, { to: TOMAS, from: trunk.channel.id, text: 'It sends' });
  await until('the trunk is proven', () => ctx.store.messages.one({ id: proof.message.id, state: 'delivered' }));
});
test.afterAll(async () => {
  app.close();
  await house.stop();
  await proxy.close();
});
test.afterEach(() => proxy.become());

const at = (path: string) => `${proxy.url}${path}`;
const pass = (ms: number) => house.bench.moveClock(ms);

/** What stands between passes a page's stream on only when it has ended: the page is loaded again instead. */
const untilShown = (page: Page, what: () => Promise<boolean>) =>
  until('it is shown', async () => {
    await page.reload();
    return what();
  });

async function enter(page: Page) {
  await page.goto(at('/sign-in'));
  await page.getByLabel('E-mail').fill('maren@mossgate.example');
  await page.getByLabel('Password').fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeVisible();
  const asked = page.getByRole('dialog', { name: 'Show that it is you' });
  await page.addLocatorHandler(asked, async () => {
    await asked.getByLabel('Your password').fill(PASSWORD);
    await asked.getByRole('button', { name: 'It is me' }).click();
  });
}

test('an alert: from the fault to mail and webhook, escalated when nobody takes it, taken by somebody, ended', async ({
  page,
}) => {
  const mails = async () =>
    (await house.bench.read<{ to: string; subject: string }[]>('/fennick/mails'))
      .filter(({ to }) => to.includes(OFFICE))
      .map(({ subject }) => subject);
  const credit = async (amount: number) => {
    await house.bench.account((house.world.accounts[0] as { id: string }).id, { credit: amount });
    await checkAccount(house.ctx, SYSTEM, mossgate.accountId);
  };
  // A check that the engine had begun before may end after ours, with the credit of then.
  const askedAgain = (what: () => Promise<boolean>) =>
    untilShown(page, async () => {
      await checkAccount(house.ctx, SYSTEM, mossgate.accountId);
      return what();
    });
  await enter(page);

  await test.step('whom to tell is said once', async () => {
    await page.goto(at('/watch/alerts/rules'));
    await page.getByRole('button', { name: 'Add a rule' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name').fill('The keeper');
    await dialog.getByLabel('Mail to', { exact: true }).fill(OFFICE);
    await dialog.getByLabel('Lockbook').check();
    await dialog.getByLabel('Where nobody takes it in so many minutes').fill('15');
    await dialog.getByLabel('Text to, then').fill(INES);
    await dialog.getByRole('button', { name: 'Add the rule' }).click();
    await expect(page.getByRole('row').filter({ hasText: 'The keeper' })).toContainText('Where nobody takes it in 15');
    await expectAccessible(page, 'alert rules');
  });

  const row = page.getByRole('row').filter({ hasText: /credit/i });
  await test.step('the fault is an alert, mailed and told to the app once it has lasted', async () => {
    await credit(0);
    await page.goto(at('/watch/alerts'));
    await askedAgain(() => row.first().isVisible());
    await pass(3 * MINUTE);
    await until('it is mailed', async () => (await mails()).some((subject) => /^Broken: .*credit/i.test(subject)));
    await until('the app is told', () => events.includes('windgap.alert.began'));
  });

  await test.step('nobody takes it: somebody else is texted', async () => {
    await pass(16 * MINUTE);
    await until('it is escalated', async () =>
      (await house.bench.received(INES)).some(({ text }) => text.startsWith('Nobody has taken it: ')),
    );
  });

  await test.step('it is taken, and over for all who heard of it', async () => {
    await page.reload();
    await row.first().getByRole('button', { name: 'Take it' }).click();
    await expect(row.first()).toContainText('Maren');
    await expect(row.first()).toContainText(/mail/);
    await credit(1_000_000_000);
    await page.goto(at('/watch/alerts?ended=1'));
    await askedAgain(() => row.first().isVisible());
    await until('its end is mailed', async () => (await mails()).some((subject) => subject.startsWith('Over: ')));
    await until('the app is told', () => events.includes('windgap.alert.ended'));
    await expectAccessible(page, 'ended alerts');
  });
});

test('the public address through a proxy: five things that are wrong with it are told apart', async ({ page }) => {
  await enter(page);
  const door = page.locator('[data-door]');
  const trial = async (state: string, conduct?: Parameters<Middle['become']>[0]) => {
    proxy.become(conduct && ((request, on) => (request.path.startsWith('/in/door') ? conduct(request, on) : on())));
    await page.goto(at('/connect/address'));
    await page.getByRole('button', { name: 'Try it now' }).click();
    await expect(door).toHaveAttribute('data-door', state);
  };
  await trial('open');
  await trial('unreachable', async () => 'hang up');
  await trial('answered-by-other', async () => sheet(503, 'Back soon', '<h1>We are tidying up</h1>'));
  await expect(page.locator('#from-here')).toContainText('We are tidying up');
  await trial('another-installation', async () => json(200, { door: 'windgap', sealed: 'nothing of ours' }));
  await trial('header-lost', async (request, on) =>
    on({ headers: Object.fromEntries(Object.entries(request.headers).filter(([name]) => !name.startsWith('x-'))) }),
  );
  await trial('body-altered', async (request, on) => on({ body: request.body.replace('&', '&amp;') }));
  await expectAccessible(page, 'a public address that alters what passes');
  await trial('open');
});

test('a change on trial reverts itself at the provider, and one that was proven stays', async ({ page }) => {
  const { ctx } = house;
  const account = async () => openCredentials(ctx, (await ctx.store.accounts.one({ id: mossgate.accountId })) as never);
  const there = async () => {
    const outcome = await ctx.connectors.get('brackwater').listNumbers?.(await account());
    const numbers = outcome?.ok ? outcome.value : [];
    return numbers.find(({ address }) => address === mossgate.channel.address)?.inbound.url;
  };
  const former = async () => {
    const number = await ctx.store.numbers.one({ id: mossgate.channel.number_id });
    const place = { remoteId: number?.remote_id ?? '', address: mossgate.channel.address };
    await ctx.connectors
      .get('brackwater')
      .setInbound?.(await account(), place, { url: FORMER, fallback: '', challengeWord: '' });
  };
  await enter(page);
  const setIt = async () => {
    await former();
    await page.goto(at(`/connect/channels/${mossgate.channel.id}`));
    await page.getByRole('button', { name: 'Set it for me' }).click();
    await expect(page.getByText('On trial: it is reverted').last()).toBeVisible();
    expect(await there()).toBe(mossgate.inboundUrl);
    await page.goto(at('/prove/trials'));
    await expect(page.locator('[data-trial]')).toContainText('Set the inbound URL of Harbour desk');
  };

  await page.goto(at('/prove/trials'));
  await page.getByLabel('Minutes until a change is reverted').fill('5');
  await page.getByRole('button', { name: 'Turn on trial mode' }).click();
  await expect(page.locator('[data-on-trial="5"]')).toBeVisible();

  await test.step('nobody writes in five minutes: it is what it was, at the provider, too', async () => {
    await setIt();
    await expectAccessible(page, 'a change on trial');
    await pass(5 * MINUTE + 1000);
    await untilShown(page, async () => (await page.locator('[data-trial]').count()) === 0);
    await expect(page.getByRole('row').filter({ hasText: 'reverted' })).toContainText('Not proven in time');
    expect(await there()).toBe(FORMER);
    await page.goto(at('/prove/readiness'));
    await page.goto(at('/prove/readiness'));
    await untilShown(page, () =>
      page
        .getByText(/was on trial and is reverted/)
        .first()
        .isVisible(),
    );
  });

  await test.step('somebody writes and is answered: it stays', async () => {
    await setIt();
    await house.bench.type(INES, mossgate.channel.address, 'Is the lock open?');
    await untilShown(page, async () => (await page.locator('[data-proven=true]').count()) === 1);
    await createSender(ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'It is.' });
    await untilShown(page, async () => (await page.locator('[data-trial]').count()) === 0);
    await expect(page.getByRole('row').filter({ hasText: 'kept' })).toContainText('proven again');
    await pass(6 * MINUTE);
    expect(await there()).toBe(mossgate.inboundUrl);
  });

  await page.getByRole('button', { name: 'Turn off trial mode' }).click();
  await expect(page.locator('[data-on-trial]')).toHaveCount(0);
});

test('a provider from its document: drafted, tried, saved', async ({ page }) => {
  const larkrise = await startLarkrise();
  await enter(page);
  await page.goto(at('/connect/profiles'));
  await page.getByRole('link', { name: 'Draft from a document' }).click();
  const document = page.getByLabel('OpenAPI document');

  await test.step('a mistake is named at its line', async () => {
    await document.fill(
      documentOf('larkrise.yaml').replace(
        'schemas/SenderLine" }\n                  paging',
        'schemas/SenderLime" }\n                  paging',
      ),
    );
    await expect(page.locator('[data-mistakes]')).toContainText(/Line \d+: .*SenderLime.*Is .*SenderLine.* meant/);
  });

  await test.step('what is read of it is filled in, and goes on in the editor', async () => {
    await document.fill(documentOf('larkrise.yaml'));
    await expect(page.locator('[data-mistakes="0"]')).toBeAttached();
    await page.getByRole('button', { name: 'Add a sample' }).click();
    await page.getByLabel('Sample 1 is').selectOption('GET /accounts/{account_id}');
    await page
      .getByLabel('Request or answer as it was')
      .fill('{"account_id":"acc_1","display_name":"Mossgate","credit":{"amount":"182.40","currency":"EUR"}}');
    await expect(page.locator('#made pre')).toContainText('examples:');
    await page.locator('summary', { hasText: 'Inbound text' }).click();
    await expect(page.locator('details', { hasText: 'Inbound text' }).getByLabel(/Sender/)).toHaveValue('$.sender');
    await expectAccessible(page, 'a draft from a document');
    await page.getByRole('button', { name: 'Open in the editor' }).click();
    await expect(page.locator('[data-findings="0"]')).toBeVisible();
  });

  await test.step('tried against the live account, and saved', async () => {
    await page.getByLabel('API address').fill(larkrise.address);
    await page.getByLabel('X larkrise key').fill(LARKRISE.key);
    await page.getByLabel('Account id').fill(LARKRISE.account);
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.locator('[data-trial=ok]')).toContainText('"name": "Mossgate"');
    await page.getByRole('button', { name: 'Save the profile' }).click();
    await expect(page.getByRole('heading', { name: 'Larkrise Text' })).toBeVisible();
  });
  await larkrise.stop();
});
