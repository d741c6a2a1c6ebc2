import type { Migration } from './migration';

/** Requests that were turned away are looked for by channel, among very many that were not. One index stood twice. */
export const refused: Migration = {
  name: '0017-refused',
  statements: [
    `CREATE INDEX inbound_requests_refused ON inbound_requests (channel_id, id) WHERE state = 'refused'`,
    `DROP INDEX contact_identities_of`,
  ],
};
