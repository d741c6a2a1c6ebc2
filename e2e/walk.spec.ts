/** The main job from nothing to proven, clicked as a person would, and once more with the keyboard alone. */
import { expect } from '@playwright/test';
import { BRACKWATER, goTo, LOCKBOOK, PASSWORD, pressOn, readConsole, signIn, tabTo } from './helpers';
import { revealing, test } from './revealed';

test('connect, make a channel, hand the address over, text, answer from the app, read the trail', async ({
  page,
  context,
}) => {
  const outside = revealing(await context.newPage());
  const provider = await readConsole(outside, 'Mossgate Northern reach');

  await test.step('connect the account; a space copied along and a wrong secret are told', async () => {
    await signIn(page);
    await goTo(page, 'Providers');
    await page.getByRole('link', { name: 'Connect a provider' }).click();
    await page.waitForURL(/providers\/new/);
    await page.getByRole('link', { name: /^Brackwater/ }).click();
    await expect(page.getByRole('heading', { name: 'Have ready before you start' })).toBeVisible();
    await page.getByRole('link', { name: 'I have these: go on' }).click();
    await page.getByLabel('Connection name').fill('Northern reach');
    await page.getByLabel('API address').fill(`${BRACKWATER}/v2`);
    await page.getByLabel('Account id').fill(provider.id);
    await page.getByLabel('API secret').fill(`${provider.secret} `);
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(page.locator('form [role=alert]')).toContainText('There is a space after the api secret.');
    await page.getByLabel('API secret').fill(`bws_${'0'.repeat(28)}`);
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(page.locator('form [role=alert]')).toContainText('The secret is wrong, the id is right');
    await expect(page.getByLabel('Connection name')).toHaveValue('Northern reach');
    await page.getByLabel('API secret').fill(provider.secret);
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(page.getByText('Brackwater accepts the credentials')).toBeVisible();
    await expect(page.getByText('+44 7700 900840')).toBeVisible();
  });

  await test.step('make a channel: the credential is proven, the path is not', async () => {
    await page.getByRole('button', { name: 'Make +44 7700 900840 a channel' }).click();
    await page.getByLabel('Channel name').fill('Northern lock');
    await page.getByRole('button', { name: 'Make the channel' }).click();
    await expect(page.getByRole('heading', { name: 'Northern lock' })).toBeVisible();
    await expect(page.locator('#main [data-hop=credential]')).toHaveAttribute('data-state', 'proven');
    for (const hop of ['outbound', 'receipt', 'inbound']) {
      await expect(page.locator(`#main [data-hop=${hop}]`)).toHaveAttribute('data-state', 'unproven');
    }
    await expect(page.getByText('Hand-over open')).toBeVisible();
  });
  const channelPage = page.url();

  await test.step('copy the inbound URL and let Windgap set it; the provider has it', async () => {
    await page.getByRole('button', { name: 'Copy Inbound URL', exact: true }).click();
    const copied = await page.evaluate(() => navigator.clipboard.readText());
    expect(copied).toMatch(/\/in\/northern-lock-\w{20}$/);
    await page.getByRole('button', { name: 'Set it for me' }).click();
    await expect(page.getByText('Brackwater has this address')).toBeVisible();
    await outside.goto(provider.url);
    await expect(outside.locator('input[name=primary]').first()).toHaveValue(copied);
  });

  const desk = revealing(await context.newPage());
  await test.step('text the number from a handset: it appears in Conversations by itself', async () => {
    await desk.goto('/route/conversations');
    await goTo(page, 'Bench');
    const handset = page.getByRole('article', { name: 'Handset of Tomas Lindqvist' });
    await handset.getByLabel('Text to').selectOption('text +447700900840');
    await handset.getByLabel('Message', { exact: true }).fill('Is the northern lock open tonight?');
    await handset.getByRole('button', { name: 'Send from this handset' }).click();
    await expect(desk.getByRole('link', { name: /Tomas Lindqvist.*Is the northern lock open tonight/ })).toBeVisible();
    await desk.getByRole('link', { name: /Tomas Lindqvist/ }).click();
    await expect(desk.locator('[data-direction=in]').last()).toContainText('Is the northern lock open tonight?');
  });

  const app = revealing(await context.newPage());
  await test.step('it is in Lockbook, verified; a key made in Windgap lets Lockbook answer', async () => {
    await goTo(page, 'Apps');
    await page.getByRole('link', { name: 'Lockbook' }).click();
    await page.getByRole('button', { name: 'Make an API key' }).click();
    await page.getByLabel('Name of the key').fill('Keeper’s tablet');
    await page.getByRole('button', { name: 'Make the key' }).click();
    await page.getByRole('button', { name: 'Copy API key' }).click();
    const key = await page.evaluate(() => navigator.clipboard.readText());
    await page.getByRole('button', { name: 'I have copied it' }).click();
    await app.goto(LOCKBOOK);
    await expect(app.locator('tr', { hasText: 'Is the northern lock open tonight?' }).first()).toContainText(
      'verified',
    );
    await app.getByLabel('API key').fill(key);
    await app.getByRole('button', { name: 'Save connection' }).click();
    await app.getByLabel('Message').selectOption({ label: '+46701740612: Is the northern lock open tonight?' });
    await app.getByLabel('Answer').fill('Yes, until 22:00.');
    await app.getByRole('button', { name: 'Send answer' }).click();
  });

  await test.step('the answer is on the handset, and its receipt in the conversation, without reloading', async () => {
    await goTo(page, 'Bench');
    const handset = page.getByRole('article', { name: 'Handset of Tomas Lindqvist' });
    await expect(handset.locator('[data-entry=received]').last()).toContainText('Yes, until 22:00.');
    const answer = desk.locator('[data-direction=out]', { hasText: 'Yes, until 22:00.' });
    await expect(answer).toContainText('Lockbook');
    await expect(answer.locator('[data-message-state=delivered]')).toBeVisible();
  });

  await test.step('the whole way is on one trail, each hop with its time and its evidence', async () => {
    await desk
      .locator('[data-direction=out]', { hasText: 'Yes, until 22:00.' })
      .getByRole('link', { name: 'Trail' })
      .click();
    await expect(desk.getByRole('heading', { name: 'Trail' })).toBeVisible();
    const hops = desk.locator('[data-hop-state]');
    await expect(hops.last()).toContainText('Sent by webhook');
    await expect(hops).toHaveCount(13);
    for (const hop of await hops.all()) {
      await expect(hop).toHaveAttribute('data-hop-state', 'proven');
      await expect(hop).toContainText(/\d\d:\d\d:\d\d\.\d{3}/);
    }
    await desk.getByRole('button', { name: /Inbound URL/ }).click();
    await expect(desk.locator('[data-evidence]').first()).toContainText('x-brackwater-signature');
    await desk.getByRole('button', { name: /Accepted it/ }).click();
    await expect(desk.getByText('authorization: ••••••')).toBeVisible();
  });

  await test.step('all four marks of the channel are filled', async () => {
    await page.goto(channelPage);
    for (const hop of ['credential', 'outbound', 'receipt', 'inbound']) {
      await expect(page.locator(`#main [data-hop=${hop}]`)).toHaveAttribute('data-state', 'proven');
    }
  });

  await test.step('an agent answers; the measure shows what a curly quote costs and fixes it', async () => {
    await desk.goBack();
    const reply = desk.getByLabel(/Reply to/);
    await reply.fill('It’s open.');
    await expect(desk.locator('[data-measure]')).toHaveAttribute('data-measure', 'UCS-2 1');
    await desk.getByRole('button', { name: /Replace what can be/ }).click();
    await expect(desk.locator('[data-measure]')).toHaveAttribute('data-measure', 'GSM-7 1');
    await desk.getByRole('button', { name: 'Send' }).click();
    await expect(reply).toHaveValue('');
    const sent = desk.locator('[data-direction=out]', { hasText: "It's open." });
    await expect(sent.locator('[data-message-state=delivered]')).toBeVisible();
  });

  await test.step('replacing the address makes inbound and receipt hollow again', async () => {
    await page.getByRole('button', { name: 'Replace the address' }).click();
    await expect(page.getByRole('dialog')).toContainText('stops working at once');
    await page.getByRole('button', { name: 'Replace it' }).click();
    await expect(page.locator('#main [data-hop=inbound]')).toHaveAttribute('data-state', 'unproven');
    await expect(page.locator('#main [data-hop=receipt]')).toContainText('the inbound URL was replaced');
    await expect(page.locator('#main [data-hop=outbound]')).toHaveAttribute('data-state', 'proven');
  });
});

test('the same with the keyboard alone', async ({ page, context }) => {
  const provider = await readConsole(revealing(await context.newPage()), 'Mossgate Northern reach');
  await page.bringToFront();
  await page.goto('/sign-in');
  await tabTo(page, page.getByLabel('E-mail'));
  await page.keyboard.type('maren@mossgate.example');
  await tabTo(page, page.getByLabel('Password'));
  await page.keyboard.type(PASSWORD);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Overview' })).toBeVisible();

  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await pressOn(page, page.getByRole('link', { name: 'Connect a provider' }));
  await page.waitForURL(/providers\/new/);
  await pressOn(page, page.getByRole('link', { name: /^Brackwater/ }));
  await pressOn(page, page.getByRole('link', { name: 'I have these: go on' }));
  for (const [label, text] of [
    ['Connection name', 'Channel coast'],
    ['Account id', provider.id],
    ['API secret', provider.secret],
  ] as const) {
    await tabTo(page, page.getByLabel(label));
    await page.keyboard.type(text);
  }
  await tabTo(page, page.getByLabel('API address'), 'Shift+Tab');
  await page.keyboard.press('Control+a');
  await page.keyboard.type(`${BRACKWATER}/v2`);
  await page.keyboard.press('Enter');
  await expect(page.getByText('Brackwater accepts the credentials')).toBeVisible();

  await pressOn(page, page.getByRole('button', { name: 'Make +33 6 39 98 12 40 a channel' }));
  await tabTo(page, page.getByLabel('Channel name'));
  await page.keyboard.type('Calais quay');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Calais quay' })).toBeVisible();
  await pressOn(page, page.getByRole('button', { name: 'Set it for me' }));
  await expect(page.getByText('Brackwater has this address')).toBeVisible();

  await page.keyboard.press('Control+k');
  await page.keyboard.type('Bench');
  await page.keyboard.press('Enter');
  const handset = page.getByRole('article', { name: 'Handset of Odile Marchand' });
  await tabTo(page, handset.getByLabel('Text to'));
  await page.keyboard.type('+33 6 39 98 12');
  await expect(handset.getByLabel('Text to')).toHaveValue('text +33639981240');
  await tabTo(page, handset.getByLabel('Message', { exact: true }));
  await page.keyboard.type('Le quai est libre ?');
  await pressOn(page, handset.getByRole('button', { name: 'Send from this handset' }));
  await expect(handset.locator('[data-entry=sent]').last()).toContainText('Le quai est libre ?');

  await page.locator('body').press('g');
  await page.keyboard.press('t');
  await pressOn(page, page.getByRole('link', { name: /Odile Marchand.*Le quai est libre/ }));
  await tabTo(page, page.getByLabel(/Reply to/));
  await page.keyboard.type('Oui, deux places.');
  await page.keyboard.press('Control+Enter');
  const answer = page.locator('[data-direction=out]', { hasText: 'Oui, deux places.' });
  await expect(answer.locator('[data-message-state=delivered]')).toBeVisible();
  await tabTo(page, answer.getByRole('link', { name: 'Trail' }), 'Shift+Tab');
  await page.keyboard.press('Enter');
  await pressOn(page, page.getByRole('button', { name: /Accepted it/ }));
  await expect(page.locator('[data-evidence]').first()).toBeVisible();
});
