/** A mailbox at Fennick connected as a channel, as an administrator does it. */

import { type BrowserContext, expect, type Page } from '@playwright/test';
import { BENCH_PORT } from './places';
import { revealing } from './revealed';

const FENNICK = `http://127.0.0.1:${BENCH_PORT + 60}`;

const textOf = async (page: Page, selector: string) => (await page.locator(selector).first().textContent()) ?? '';

/** A page of somebody else's, beside ours. */
export async function outside(context: BrowserContext, url: string): Promise<Page> {
  const page = revealing(await context.newPage());
  await page.goto(url);
  return page;
}

/** Connects it and leaves the channel “Post desk” open; returns Fennick's page. */
export async function connectMailbox(page: Page, context: BrowserContext): Promise<Page> {
  const fennick = await outside(context, FENNICK);
  await page.bringToFront();
  await page.goto('/connect/providers/new');
  await page.getByRole('link', { name: /^Fennick mailbox/ }).click();
  await page.getByRole('link', { name: 'I have these: go on' }).click();
  const values = {
    'Connection name': 'Post',
    Port: await textOf(fennick, '#mailbox-smtp-port'),
    User: await textOf(fennick, '#mailbox-user'),
    Password: await textOf(fennick, '#mailbox-password'),
    Address: await textOf(fennick, '#mailbox-address'),
    'Word of incoming posts': 'heron-and-otter',
  };
  for (const [label, value] of Object.entries(values)) await page.getByLabel(label, { exact: true }).fill(value);
  await page.getByRole('button', { name: 'Check and save' }).click();
  await expect(page.getByText('Fennick mailbox accepts the credentials')).toBeVisible();
  await page.getByRole('button', { name: 'Make post@mossgate.example a channel' }).click();
  await page.getByLabel('Channel name').fill('Post desk');
  await page.getByRole('button', { name: 'Make the channel' }).click();
  await page.getByRole('button', { name: 'Copy Inbound URL', exact: true }).click();
  await fennick
    .getByLabel(/Post incoming mail/)
    .last()
    .fill(await page.evaluate(() => navigator.clipboard.readText()));
  await fennick.getByLabel('Word that goes with it').last().fill('heron-and-otter');
  await fennick.getByRole('button', { name: 'Save post address' }).last().click();
  await page.bringToFront();
  await page.getByRole('button', { name: 'I have set it by hand' }).click();
  return fennick;
}
