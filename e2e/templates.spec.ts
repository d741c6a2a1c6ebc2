/** A template from nothing, by clicking: corrected, submitted, rejected, revised, approved, mapped in a send hook, read on two handsets. */
import { expect, type Page } from '@playwright/test';
import { expectAccessible, goTo, signIn } from './helpers';
import { revealing, test } from './revealed';

async function reviewsTake(page: Page, seconds: string) {
  await page.goto('/prove/bench');
  await page.getByLabel('Seconds a review takes').fill(seconds);
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  await expect(page.getByText('From the next submission on')).toBeVisible();
}

test('write, fix, submit, be rejected, revise, be approved, map, and read it in two languages', async ({
  page,
  context,
}) => {
  await signIn(page);
  await reviewsTake(page, '2');
  await test.step('the platform tells of reviews at the inbound URL', async () => {
    await goTo(page, 'Channels');
    await page.locator('#main').getByRole('link', { name: 'Northern chat' }).click();
    await page.getByRole('button', { name: 'Set it for me' }).click();
    await expect(page.getByText(/has this address, verified/)).toBeVisible();
    await page.getByRole('button', { name: 'Subscribe to the events' }).click();
    await expect(page.locator('[data-finding=events-not-subscribed]')).toHaveCount(0);
  });
  const finding = (code: string) => page.locator(`[data-finding=${code}]`);
  const body = page.getByLabel('Body', { exact: true });
  const saved = page.getByText('Saved. It is not submitted by that.');

  await test.step('findings stand at their places while it is typed, and are fixed there', async () => {
    await goTo(page, 'Templates');
    await page.getByRole('button', { name: 'Write a template' }).click();
    await page.getByLabel('For', { exact: true }).selectOption('Tarrow, northern reach');
    await page.getByLabel('Name').fill('Lock Ready');
    await page.getByRole('button', { name: 'Begin' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Lock Ready' })).toBeVisible();
    await expect(page.locator('[data-standing=draft]')).toBeVisible();
    await expect(finding('name-not-allowed')).toBeVisible();
    await page.getByRole('button', { name: /^Use lock-ready/ }).click();
    await expect(finding('name-not-allowed')).toHaveCount(0);

    await body.fill('{{ skipper }}, come to {Lock} now!!');
    await expect(page.locator('[data-mark=variable-at-start]')).toHaveText('{{ skipper }}');
    await expect(page.locator('[data-mark=token-broken]')).toHaveText('{Lock}');
    await page.getByRole('button', { name: /^Leave one/ }).click();
    await expect(finding('exclaiming')).toHaveCount(0);
    await page.getByRole('button', { name: /^Write \{\{ lock \}\}/ }).click();
    await expect(body).toHaveValue('{{ skipper }}, come to {{ lock }} now!');
    await expectAccessible(page, 'a template with findings');
  });

  await test.step('leaving what is not saved asks first', async () => {
    page.once('dialog', (dialog) => dialog.dismiss());
    await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Connect' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Lock Ready' })).toBeVisible();
  });

  await test.step('saved, submitted against advice, rejected with the reason beside the text', async () => {
    await page.keyboard.press('Control+s');
    await body.press('Control+s');
    await expect(saved).toBeVisible();
    await expect(page.locator('[data-standing=draft]')).toBeVisible();
    await expect(page.locator('[data-foretold]')).toContainText('Rejection likely');
    await page.getByRole('button', { name: 'Submit for review' }).click();
    await page.getByRole('button', { name: 'Submit it', exact: true }).click();
    await expect(page.locator('[data-standing=in-review]').first()).toBeVisible();
    await expect(page.getByText('It cannot be sent before it is approved.')).toBeVisible();
    await expect(page.locator('[data-standing=rejected]').first()).toBeVisible();
    await expect(finding('rejected-for').first()).toContainText('cannot open or close with a blank');
    await expectAccessible(page, 'a rejected template');
  });

  await test.step('revised, in a second language too, and approved', async () => {
    await body.fill('Hello {{ skipper }}, your passage through {{ lock }} can begin now. ');
    // What was said of the text is gone with it; what was said of the samples is not.
    await expect(finding('rejected-for')).toHaveCount(1);
    await expect(finding('rejected-for')).toContainText('Every blank needs an example');
    await body.press('End');
    await page.getByLabel('Variable to insert').last().fill('boat');
    await page.getByRole('button', { name: 'Insert' }).last().click();
    await expect(body).toHaveValue('Hello {{ skipper }}, your passage through {{ lock }} can begin now. {{ boat }}');
    await body.fill(
      'Hello {{ skipper }}, your passage through {{ lock }} can begin now. The keeper waits for {{ boat }} at the upper gate.',
    );
    await expect(page.locator('[data-mark=sample-missing]')).toHaveCount(3);
    for (const [name, sample] of [
      ['skipper', 'Ines Calder'],
      ['lock', 'North lock'],
      ['boat', 'Heron'],
    ] as const)
      await page.getByLabel(name, { exact: true }).fill(sample);
    await expect(finding('rejected-for')).toHaveCount(0);
    await page.getByRole('button', { name: 'Add a language' }).click();
    await page.getByLabel('Language tag').fill('sv');
    await expect(finding('language-differs')).toBeVisible();
    await body.fill(
      'Hej {{ skipper }}, din slussning genom {{ lock }} kan börja nu. Slussvakten väntar på {{ boat }} vid övre porten.',
    );
    await expect(finding('language-differs')).toHaveCount(0);
    await expect(page.getByText('Nothing to object to.')).toBeVisible();
    await expect(page.locator('[data-preview=sv]')).toContainText('Hej Ines Calder, din slussning');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.locator('[data-foretold]')).toContainText('Rejection unlikely');
    await page.getByRole('button', { name: 'Submit the new version' }).click();
    await expect(page.locator('[data-standing=approved]').first()).toBeVisible();
    await page.getByRole('button', { name: 'to version 1' }).click();
    await expect(page.locator('[data-difference]')).toContainText('Slussvakten');
    await expectAccessible(page, 'an approved template');
  });

  await test.step('a send hook becomes it, each variable mapped to a field that was really posted', async () => {
    await goTo(page, 'Apps');
    await page.locator('#main').getByRole('link', { name: 'Lockbook' }).click();
    await page.getByRole('button', { name: 'Add a send hook' }).click();
    await page.getByLabel('What it sends').fill('Lock ready');
    await page.getByRole('button', { name: 'Create the address' }).click();
    await post(page, {
      skipper: 'Ines Calder',
      lock: { name: 'North lock' },
      vessel: 'Heron',
      mobile: '+447700900123',
    });
    await expect(page.getByRole('table', { name: 'Fields of the latest posts' })).toContainText('vessel');
    await page.getByLabel('What is sent').selectOption('template lock-ready');
    await expect(page.locator('[data-variable=skipper]')).toContainText('“Ines Calder”');
    await page.getByLabel('Value of lock').selectOption('mobile');
    await expect(page.locator('[data-variable=lock] [data-finding=value-of-another-kind]')).toContainText(
      'a phone number in the place of words',
    );
    await page.getByLabel('Value of lock').selectOption('lock.name');
    await page.getByLabel('Value of boat').selectOption('vessel');
    await page.getByLabel('Instead of an empty boat').fill('your boat');
    await page.getByLabel('Leaves from').selectOption({ label: 'Northern chat (+44 7700 900865)' });
    await expect(page.locator('[data-preview=message]')).toContainText(
      'Hello Ines Calder, your passage through North lock can begin now.',
    );
    await expectAccessible(page, 'a hook with a template');
    await page.getByRole('button', { name: 'Save the message' }).click();
    await expect(page.getByText('1 of the last 1 posts make one')).toBeVisible();
  });

  await test.step('two people read it, each in their language', async () => {
    await post(page, { skipper: 'Ines Calder', lock: { name: 'East lock' }, vessel: 'Heron', mobile: '+447700900123' });
    await post(page, {
      skipper: 'Tomas Lindqvist',
      lock: { name: 'Norra slussen' },
      vessel: '',
      mobile: '+46701740612',
    });
    const bench = revealing(await context.newPage());
    await bench.goto('/prove/bench');
    const last = (owner: string) =>
      bench
        .getByRole('article', { name: `Handset of ${owner}` })
        .locator('[data-entry=received]')
        .last();
    await expect(last('Ines Calder')).toContainText(
      'Hello Ines Calder, your passage through East lock can begin now. The keeper waits for Heron at the upper gate.',
    );
    await expect(last('Tomas Lindqvist')).toContainText(
      'Hej Tomas Lindqvist, din slussning genom Norra slussen kan börja nu. Slussvakten väntar på your boat vid övre porten.',
    );
    await bench.close();
  });

  await test.step('from the desk, to somebody who has not written: the template, with a person’s own values', async () => {
    await goTo(page, 'Conversations');
    await page
      .getByRole('link', { name: /Ines Calder/ })
      .first()
      .click();
    await page.getByLabel('Over', { exact: true }).selectOption({ label: 'Northern chat (not now)' });
    await expect(page.locator('[data-reply=refused]')).toContainText('never written here');
    await page.getByRole('button', { name: 'Send a template' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Template').selectOption({ label: 'lock-ready (en)' });
    await dialog.getByLabel('skipper').fill('Ines');
    await dialog.getByLabel('lock', { exact: true }).fill('Upper lock');
    await expect(dialog.getByText('Still empty: boat.')).toBeVisible();
    await dialog.getByRole('button', { name: 'Send it' }).click();
    await expect(dialog.getByRole('alert')).toContainText('{{ boat }} has no value');
    await dialog.getByLabel('boat').fill('Heron');
    await expectAccessible(page, 'a template at the desk');
    await dialog.getByRole('button', { name: 'Send it' }).click();
    await expect(page.getByRole('region', { name: 'Messages with Ines Calder' })).toContainText(
      'Hello Ines, your passage through Upper lock can begin now.',
    );
  });

  await test.step('an edited template keeps serving as it was; one put away is named where it is used', async () => {
    await goTo(page, 'Templates');
    await page.locator('#main').getByRole('link', { name: 'lock-ready' }).click();
    await body.fill(
      'Hello {{ skipper }}, your passage through {{ lock }} can begin soon. The keeper waits for {{ boat }} at the lower gate.',
    );
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await expect(page.getByText('What is written now differs from version 2 and is not submitted.')).toBeVisible();
    await page.getByRole('button', { name: 'Retire' }).click();
    await page.getByRole('button', { name: 'Take it out of use' }).click();
    await expect(page.locator('[data-standing=retired]').first()).toBeVisible();
    await goTo(page, 'Apps');
    await page.locator('#main').getByRole('link', { name: 'Lockbook' }).click();
    await page.locator('#main').getByRole('link', { name: 'Lock ready', exact: true }).click();
    await expect(page.locator('[data-finding=template-not-approved]').first()).toContainText('it is retired');
  });
});

async function post(page: Page, record: object) {
  await page.getByRole('button', { name: 'Post a test' }).click();
  await page.getByLabel('Record', { exact: true }).fill(JSON.stringify(record));
  await page.getByRole('button', { name: 'Send it' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
}

test('a file is judged by its content, and a film is not a picture', async ({ page }) => {
  await signIn(page);
  await page.goto('/compose/templates');
  await page.locator('#main').getByRole('link', { name: 'mooring-renewal' }).click();
  await page.getByLabel('Header', { exact: true }).selectOption('image');
  await expect(page.locator('[data-finding=header-media-missing]')).toBeVisible();
  const put = (name: string, content: Buffer) =>
    page.getByLabel('File of the header').setInputFiles({ name, mimeType: 'image/png', buffer: content });
  await put('gate.png', Buffer.from('%PDF-1.7\n%âãÏÓ\n1 0 obj\n<<>>\nendobj\ntrailer <<>>\n%%EOF', 'latin1'));
  await expect(page.locator('[data-finding=header-media-type]')).toContainText(
    'gate.png is a document (application/pdf), not an image',
  );
  await put(
    'gate.png',
    Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    ),
  );
  await expect(page.locator('[data-finding=header-media-type]')).toHaveCount(0);
  await expect(page.getByRole('img', { name: 'gate.png' })).toBeVisible();
  page.once('dialog', (dialog) => dialog.accept());
  await goTo(page, 'Overview');
});

test('a viewer reads and does not write', async ({ page }) => {
  await signIn(page, 'alder');
  await page.goto('/compose/templates');
  await expect(page.getByRole('button', { name: 'Write a template' })).toHaveCount(0);
  await page.locator('#main').getByRole('link', { name: 'passage-booked' }).click();
  await expect(page.getByLabel('Body', { exact: true })).toHaveAttribute('readonly', '');
  await expect(page.getByRole('button', { name: 'Save', exact: true })).toHaveCount(0);
});
