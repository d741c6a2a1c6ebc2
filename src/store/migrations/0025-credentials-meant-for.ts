import type { Migration } from './migration';

/** Where the credentials of an account were given for: a profile that is changed does not take them elsewhere. */
export const credentialsMeantFor: Migration = {
  name: '0025-credentials-meant-for',
  statements: [`ALTER TABLE provider_accounts ADD COLUMN meant_for TEXT`],
};
