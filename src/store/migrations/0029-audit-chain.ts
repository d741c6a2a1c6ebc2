import type { Migration } from './migration';

/** Entries of the audit are chained from here on; those before stay as they are, outside of the chain. */
export const auditChain: Migration = {
  name: '0029-audit-chain',
  statements: [
    `ALTER TABLE audit_entries ADD COLUMN place INTEGER`,
    `ALTER TABLE audit_entries ADD COLUMN salt TEXT`,
    `ALTER TABLE audit_entries ADD COLUMN personal TEXT`,
    `ALTER TABLE audit_entries ADD COLUMN digest TEXT`,
    `CREATE UNIQUE INDEX audit_places ON audit_entries (place) WHERE place IS NOT NULL`,
  ],
};
