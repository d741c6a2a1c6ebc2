/**
 * A page whose parts are where people see them. What the server streams waits hidden in the document until it is put
 * in its place, and stands there twice for a moment when the application has drawn it by then.
 */
import { type Page, test as plain } from '@playwright/test';
import { holdBack } from './lag';

/** What turns out not to be there keeps its hidden part for good. */
const revealed = (page: Page) =>
  page
    .waitForFunction(() => !document.querySelector('div[hidden][id^="S:"]'), undefined, { timeout: 5000 })
    .catch(() => undefined);

/** The same page, which goes nowhere before what it shows there is in its place. */
export function revealing(page: Page): Page {
  const { goto, reload } = page;
  page.goto = async (...where) => {
    const response = await goto.apply(page, where);
    await revealed(page);
    return response;
  };
  page.reload = async (...how) => {
    const response = await reload.apply(page, how);
    await revealed(page);
    return response;
  };
  return page;
}

export const test = plain.extend({
  context: async ({ context }, use) => {
    await holdBack(context);
    await use(context);
  },
  page: async ({ page }, use) => use(revealing(page)),
});
