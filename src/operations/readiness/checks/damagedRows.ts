/** Rows of the set-up whose documents cannot be read: the rest goes on without them, and nobody should have to guess why. */

import type { Examined } from '../../../core/readiness/readiness';
import { DEFINITIONS, type Tables } from '../../../store/schema/tables';
import { ENGINE, finding, type ReadinessCheck } from './check';

/** What is set up by people. What the engine works through is found where it fails. */
const SET_UP: readonly (keyof Tables)[] = [
  'accounts',
  'numbers',
  'channels',
  'subscriptions',
  'hooks',
  'recordActions',
  'sheets',
  'feeds',
  'phoneSystems',
  'templates',
  'deliveryTests',
  'routeRevisions',
];

export const damagedRows: ReadinessCheck = {
  name: 'damaged-rows',
  topics: [],
  async examine({ ctx }) {
    const found: Examined[] = [];
    for (const name of SET_UP) {
      const definition = DEFINITIONS[name];
      if (!definition) continue;
      const { table, key, columns } = definition;
      for (const [column, { kind }] of Object.entries(columns)) {
        if (kind !== 'json') continue;
        const rows = await ctx.store.select<{ id: string }>(
          `SELECT ${key[0]} AS id FROM ${table} WHERE ${column} IS NOT NULL AND NOT json_valid(${column}) LIMIT 20`,
        );
        for (const { id } of rows)
          found.push(
            finding(
              'row-damaged',
              'error',
              ENGINE,
              { subject: `The row ${id} of ${table}`, said: `its ${column}` },
              {
                about: `${table} ${id} ${column}`,
                affects: [id],
              },
            ),
          );
      }
    }
    return found;
  },
};
