import type { Migration } from './migration';

/** Parts of long texts are compared with those that were joined lately, too, not only with those that wait. */
export const longTexts: Migration = {
  name: '0022-long-texts',
  statements: [
    `CREATE INDEX inbound_parts_reference ON inbound_parts (channel_id, sender, reference)`,
    `DROP INDEX inbound_parts_waiting`,
  ],
};
