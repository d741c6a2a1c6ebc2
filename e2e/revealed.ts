/**
 * A page whose parts are where people see them. What the server streams waits hidden in the document until it is put
 * in its place, and stands there twice for a moment when the application has drawn it by then.
 */
import { type Page, test as plain } from '@playwright/test';
import { PORT } from './places';

/** What turns out not to be there keeps its hidden part for good. */
const revealed = (page: Page) =>
  page
    .waitForFunction(() => !document.querySelector('div[hidden][id^="S:"]'), undefined, { timeout: 5000 })
    .catch(() => undefined);

/** ms added to each answer of the application but whole documents; finds the step that trusts the page being left. */
const LAG = Number(process.env.WINDGAP_E2E_LAG ?? 0);

export const test = plain.extend({
  context: async ({ context }, use) => {
    if (LAG > 0)
      await context.route(
        (url) => url.port === String(PORT),
        async (route) => {
          const asks = route.request();
          const headers = asks.headers();
          if (headers.rsc || headers['next-action']) await new Promise((resolve) => setTimeout(resolve, LAG));
          await route.fallback().catch(() => undefined);
        },
      );
    await use(context);
  },
  page: async ({ page }, use) => {
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
    await use(page);
  },
});
