import { existsSync } from 'node:fs';

/** Chromium without a window, which needs half the computing of the whole one. */
export const HEADLESS_SHELL = '/usr/bin/chromium-headless-shell';

/** Debian's Chromium, the whole one where there is no other. */
export const CHROMIUM_PATH =
  process.env.CHROMIUM ?? [HEADLESS_SHELL, '/usr/bin/chromium'].find(existsSync) ?? HEADLESS_SHELL;

export const CHROMIUM_FLAGS = [
  '--headless',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  // The whole one draws a page with another before it once a second, and waiting for a button to stand still takes as long.
  ...(CHROMIUM_PATH === HEADLESS_SHELL ? [] : ['--disable-frame-rate-limit']),
];
