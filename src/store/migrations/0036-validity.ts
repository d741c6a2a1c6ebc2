import type { Migration } from './migration';

/** The last moment at which a message is of use. */
export const validity: Migration = {
  name: '0036-validity',
  statements: [`ALTER TABLE messages ADD COLUMN valid_until INTEGER`],
};
