import type { Migration } from './migration';

/** Calendar feeds remind by mail whoever is known by an address alone. */
export const feedMail: Migration = {
  name: '0043-feed-mail',
  statements: [`ALTER TABLE feeds ADD COLUMN mail_channel TEXT`],
};
