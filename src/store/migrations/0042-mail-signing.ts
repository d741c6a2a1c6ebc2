import type { Migration } from './migration';

/** Keys by which mail is signed, and what was found of them in the domain's records. With row ids: what is sealed is sealed again by them. */
export const mailSigning: Migration = {
  name: '0042-mail-signing',
  statements: [
    `CREATE TABLE mail_keys (
       account_id TEXT PRIMARY KEY, domain TEXT NOT NULL, selector TEXT NOT NULL, public_key TEXT NOT NULL,
       sealed_key TEXT NOT NULL, state TEXT NOT NULL, said TEXT, since INTEGER NOT NULL, looked_at INTEGER,
       created_at INTEGER NOT NULL)`,
  ],
};
