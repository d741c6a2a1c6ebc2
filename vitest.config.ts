import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: {
    include: ['src/**/*.test.ts', 'standins/**/*.test.ts', 'demo/**/*.test.ts'],
    setupFiles: ['tests/harness/seed.ts'],
    // Only against what hangs.
    testTimeout: 600_000,
  },
});
