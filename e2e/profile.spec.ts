/** Follows docs/connector-profiles.md: a provider never seen before, connected by writing a profile in the interface. */
import { readFileSync } from 'node:fs';
import { expect } from '@playwright/test';
import { expectAccessible, passTime, signIn } from './helpers';
import { CALLER, KEY, LINE, type Quillmere, startQuillmere } from './quillmere';
import { test } from './revealed';

const EXAMPLE = /```yaml\n([\s\S]*?)```/.exec(readFileSync('docs/connector-profiles.md', 'utf8'))?.[1] ?? '';

let quillmere: Quillmere;
test.beforeAll(async () => {
  quillmere = await startQuillmere();
});
test.afterAll(() => quillmere.stop());

test('write the profile, try it, save it, connect through it, both ways to four proofs', async ({ page }) => {
  await signIn(page);
  await page.goto('/connect/profiles');
  await page.getByRole('link', { name: 'Add a profile' }).click();
  const editor = page.getByRole('textbox', { name: 'Profile text' });

  const write = async (text: string) => {
    await editor.click();
    await page.keyboard.press('Control+a');
    await page.keyboard.insertText(text);
  };

  await test.step('a mistake is named where it stands, and not saved', async () => {
    await write(EXAMPLE.replace('cause: credit-gone', 'cause: broke').replace('pace: 5', 'speed: 5'));
    await expect(page.locator('[data-findings]')).toContainText('errors.rules.2.cause');
    await expect(page.locator('[data-findings]')).toContainText('limits');
    await page.getByRole('button', { name: 'Save the profile' }).click();
    await expect(page).toHaveURL(/profiles\/new/);
  });

  await test.step('each part is tried against the live account', async () => {
    await write(EXAMPLE);
    await expect(page.locator('[data-findings="0"]')).toBeVisible();
    await page.getByLabel('Address', { exact: true }).fill(quillmere.address);
    await page.getByLabel('Caller').fill(CALLER);
    await page.getByLabel('Key', { exact: true }).fill(KEY.replace('k3', 'K3'));
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.locator('[data-trial=failed]')).toContainText('the seal is broken');
    await page.getByLabel('Key', { exact: true }).fill(KEY);
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.locator('[data-trial=ok]')).toContainText('"micros": 12500000');
    await page.getByLabel('Part', { exact: true }).selectOption('numbers');
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.locator('[data-trial=ok]')).toContainText(`"address": "+${LINE}"`);
    await page.getByLabel('Part', { exact: true }).selectOption('inbound');
    await page
      .getByLabel('Body as the provider posts it')
      .fill(`type=word&slip=1&person=447700900123&line=${LINE}&words=Hi`);
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.locator('[data-trial=ok]')).toContainText('"text": "Hi"');
    await expectAccessible(page, 'profile editor');
  });

  await test.step('saved, it is a provider like every other', async () => {
    await page.getByRole('button', { name: 'Save the profile' }).click();
    await expect(page.getByRole('heading', { name: 'Quillmere' })).toBeVisible();
    await page.goto('/connect/providers/new');
    await page.getByRole('link', { name: /^Quillmere/ }).click();
    await expect(page.getByRole('heading', { name: 'Have ready before you start' })).toBeVisible();
    await page.getByRole('link', { name: 'I have these: go on' }).click();
    await page.getByLabel('Connection name').fill('Quillmere line');
    await page.getByLabel('Address', { exact: true }).fill(quillmere.address);
    await page.getByLabel('Caller').fill(CALLER);
    await page.getByLabel('Key', { exact: true }).fill(KEY);
    await page.getByRole('button', { name: 'Check and save' }).click();
    await expect(page.getByText('Quillmere accepts the credentials')).toBeVisible();
    await page.getByRole('button', { name: 'Make +44 7700 900830 a channel' }).click();
    await page.getByLabel('Channel name').fill('Quillmere desk');
    await page.getByRole('button', { name: 'Make the channel' }).click();
    await page.getByRole('button', { name: 'Set it for me' }).click();
    await expect(page.getByText('Quillmere has this address')).toBeVisible();
  });

  await test.step('a text comes in, an answer goes out, all four marks fill', async () => {
    expect(await quillmere.personWrites('447700900305', 'Is anybody there?')).toBe(202);
    await expect(page.locator('#main [data-hop=inbound]')).toHaveAttribute('data-state', 'proven');
    await page.getByRole('button', { name: 'Prove outbound and receipt now' }).click();
    await page.getByLabel('Phone').fill('+44 7700 900305');
    await page.getByRole('button', { name: 'Send it' }).click();
    for (const hop of ['credential', 'outbound', 'receipt', 'inbound'])
      await expect(page.locator(`#main [data-hop=${hop}]`)).toHaveAttribute('data-state', 'proven');
    expect(quillmere.sent).toEqual([{ person: '447700900305', words: 'This text proves a path.' }]);
  });

  const save = async (text: string) => {
    await page.goto('/connect/profiles/quillmere');
    await write(text);
    await page.getByRole('button', { name: 'Save the profile' }).click();
    await expect(page.getByText('The profile is saved and in force').last()).toBeVisible();
  };
  const aside = page.getByRole('region', { name: 'Set aside' }).getByRole('row').filter({ hasText: 'Quillmere desk' });

  await test.step('what the profile cannot read is set aside with its reason, and processed again once it is corrected', async () => {
    await save(EXAMPLE.replace('text: $.words', 'text: $.sentence'));
    // A channel is judged by the profile it was read with for two seconds more, and what is taken then is read by the new one.
    await passTime(3000);
    expect(await quillmere.personWrites('447700900305', 'Which shape is it?')).toBe(422);
    expect(await quillmere.personWrites('447700900305', 'Where do my words go?')).toBe(422);
    await page.goto('/watch/set-aside');
    await expect(aside).toHaveCount(2);
    await expect(aside.first()).toContainText('nothing at $.sentence');
    await expectAccessible(page, 'what was set aside');
    await page.goto('/watch/alerts');
    await expect(page.getByRole('row').filter({ hasText: 'nothing at $.sentence' }).first()).toBeVisible();

    await save(EXAMPLE);
    await page.goto('/watch/set-aside');
    await aside.first().getByRole('button', { name: 'Process again' }).click();
    await expect(aside).toHaveCount(1);
    await aside.getByRole('button', { name: /^Drop / }).click();
    await page.getByLabel('Why it is not needed').fill('Asked by telephone');
    await page.getByRole('dialog').getByRole('button', { name: 'Drop' }).click();
    await expect(aside).toHaveCount(0);
    await page.goto('/watch/set-aside?decided=1');
    await expect(aside).toHaveCount(2);
    await expect(aside.filter({ hasText: 'dropped by Maren' })).toHaveCount(1);
    await page.goto('/watch/messages?q=my+words+go');
    await expect(page.getByRole('row').filter({ hasText: 'Where do my words go?' })).toHaveCount(1);
    await page.goto('/watch/audit');
    await expect(page.getByRole('row').filter({ hasText: 'Asked by telephone' })).toHaveCount(1);
    await page.goto('/watch/alerts?ended=1');
    await expect(page.getByRole('row').filter({ hasText: 'could not be processed' }).first()).toBeVisible();
  });

  await test.step('it can be exported as it was written', async () => {
    await page.goto('/connect/profiles/quillmere');
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Export' }).click();
    const path = await (await download).path();
    expect(readFileSync(path, 'utf8')).toBe(EXAMPLE);
  });
});
