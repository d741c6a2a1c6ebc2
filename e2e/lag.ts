/**
 * WINDGAP_E2E_LAG: ms by which every question to the application but for whole documents is held back. A step that
 * trusts the page being left, or leaves before it was heard, passes on a quick machine and fails so.
 */
import { setTimeout as pause } from 'node:timers/promises';
import type { BrowserContext } from '@playwright/test';
import { PORT } from './places';

const LAG = Number(process.env.WINDGAP_E2E_LAG ?? 0);

export async function holdBack(context: BrowserContext) {
  if (LAG === 0) return;
  await context.route(
    (url) => url.port === String(PORT),
    async (route) => {
      const headers = route.request().headers();
      if (headers.rsc || headers['next-action']) await pause(LAG);
      // The page may be gone by now.
      await route.fallback().catch(() => undefined);
    },
  );
}
