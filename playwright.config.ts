import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';
import { BENCH_PORT, PORT, SHARE, SHARED } from './e2e/places';
import { CHROMIUM_FLAGS, CHROMIUM_PATH } from './scripts/chromium.mjs';
import { HANGS, SLOWNESS } from './tests/harness/until';

// One folder for the whole run: workers read this file again and must not make another.
process.env.WINDGAP_E2E_DATA ??= mkdtempSync(join(tmpdir(), 'windgap-e2e-'));

/** The demonstration itself is what is tested: started by its own command on ports of its own. */
export default defineConfig({
  testDir: 'e2e',
  testMatch: SHARED.match,
  testIgnore: SHARED.leave,
  outputDir: `test-results/${SHARE || 'all'}`,
  workers: 1,
  // Only against what hangs: whoever waits for something gives up before.
  timeout: 300_000 * SLOWNESS,
  expect: { timeout: 60_000 * SLOWNESS },
  reporter: [['list'], ['json', { outputFile: `reports/browser${SHARE && `-${SHARE}`}.json` }]],
  use: {
    baseURL: `http://localhost:${PORT}`,
    viewport: { width: 1280, height: 800 },
    timezoneId: 'Europe/London',
    locale: 'en-GB',
    permissions: ['clipboard-read', 'clipboard-write'],
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: CHROMIUM_PATH,
      args: CHROMIUM_FLAGS,
    },
  },
  webServer: {
    command: 'node scripts/demo.mjs',
    url: `http://127.0.0.1:${PORT}/sign-in`,
    timeout: 2 * HANGS,
    stdout: 'pipe',
    gracefulShutdown: { signal: 'SIGTERM', timeout: 15_000 },
    env: {
      PORT: String(PORT),
      WINDGAP_BENCH_PORT: String(BENCH_PORT),
      WINDGAP_DATA: process.env.WINDGAP_E2E_DATA ?? '',
    },
  },
});
