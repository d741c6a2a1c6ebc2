import type { Migration } from './migration';

/** API keys for certain addresses and for tests alone; to-dos that are somebody's. */
export const boundKeys: Migration = {
  name: '0032-bound-keys',
  statements: [
    `ALTER TABLE api_keys ADD COLUMN addresses TEXT`,
    `ALTER TABLE api_keys ADD COLUMN for_tests INTEGER NOT NULL DEFAULT 0`,
    `ALTER TABLE todos ADD COLUMN assigned_to TEXT`,
  ],
};
