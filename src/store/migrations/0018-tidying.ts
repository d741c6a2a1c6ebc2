import type { Migration } from './migration';

/** A test run that is broken off and begun again still knows what it found before it touched anything. */
export const tidying: Migration = {
  name: '0018-tidying',
  statements: [`ALTER TABLE delivery_test_runs ADD COLUMN tidying TEXT`],
};
