import type { Migration } from './migration';

/** Opt-outs that a provider kept to itself, to be counted by channel. */
export const optOutsOfProviders: Migration = {
  name: '0039-opt-outs-of-providers',
  statements: [`CREATE INDEX consent_entries_of_providers ON consent_entries (at) WHERE how = 'provider'`],
};
