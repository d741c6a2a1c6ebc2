/**
 * Every kind of internal data that is removed after a while: evidence and bookkeeping, never messages, contacts or the
 * audit. One line here is all a kind takes.
 */
import { type IdPrefix, timeId } from '../../store/ids';

export interface RetentionKind {
  name: string;
  /** For people, in the plural. */
  label: string;
  /** What is lost with them. */
  help: string;
  /** Days, where nobody has set any. */
  usual: number;
  /** Below this something would no longer work. */
  least: number;
  /** Rows that are old enough, by a condition over `:before` (epoch milliseconds) or `:id` (the smallest id of that time). */
  rows: readonly KindRows[];
}

interface KindRows {
  table: string;
  where: string;
  ids?: IdPrefix;
  /** What tells its rows apart, where the table has no row ids. */
  key?: string;
}

export const RETENTION: readonly RetentionKind[] = [
  {
    name: 'requests-made',
    label: 'Requests to providers and apps',
    help: 'The evidence on a trail: what was asked and answered.',
    usual: 30,
    least: 3,
    rows: [{ table: 'exchanges', where: 'id < :id', ids: 'exc' }],
  },
  {
    name: 'requests-received',
    label: 'Requests from providers',
    help: 'Stored as they came. What is set aside stays until somebody decides.',
    usual: 60,
    least: 8,
    rows: [
      { table: 'inbound_requests', where: `id < :id AND state IN ('done', 'refused', 'dropped')`, ids: 'inb' },
      { table: 'unmatched_receipts', where: 'received_at < :before' },
      { table: 'inbound_parts', where: 'received_at < :before' },
    ],
  },
  {
    name: 'events',
    label: 'Events to apps',
    help: 'Those that were accepted or given up; older ones cannot be sent again.',
    usual: 30,
    least: 4,
    rows: [{ table: 'webhook_deliveries', where: `id < :id AND state IN ('delivered', 'given-up')`, ids: 'dlv' }],
  },
  {
    name: 'runs',
    label: 'Runs of automations',
    help: 'Those that have ended, with what each step did.',
    usual: 90,
    least: 15,
    rows: [{ table: 'runs', where: `id < :id AND state IN ('done', 'failed', 'cancelled')`, ids: 'run' }],
  },
  {
    name: 'broadcasts',
    label: 'Recipients and lists of broadcasts',
    help: 'Who got a broadcast that is over, or why not. Its counts stay, and so do its messages.',
    usual: 365,
    least: 30,
    rows: [
      {
        table: 'broadcast_recipients',
        where: `broadcast_id IN (SELECT id FROM broadcasts WHERE id < :id AND state IN ('finished', 'cancelled'))`,
        ids: 'bct',
      },
      {
        table: 'broadcast_people',
        // With those that were written and never taken.
        where: `list_id < :id AND list_id NOT IN
                  (SELECT list_id FROM broadcasts WHERE list_id IS NOT NULL AND state NOT IN ('finished', 'cancelled'))`,
        ids: 'bct',
      },
    ],
  },
  {
    name: 'posts',
    label: 'Posts to send hooks and calls of phone systems',
    help: 'As they came, with what was made of them.',
    usual: 30,
    least: 2,
    rows: [
      { table: 'hook_posts', where: 'received_at < :before' },
      { table: 'phone_calls', where: 'received_at < :before' },
    ],
  },
  {
    name: 'sessions',
    label: 'Sessions and invitations that ended',
    help: 'Who was signed in where; the audit keeps that they were.',
    usual: 90,
    least: 15,
    rows: [
      { table: 'sessions', where: 'id < :id AND (ended_at IS NOT NULL OR seen_at < :before)', ids: 'ses' },
      { table: 'entry_codes', where: 'expires_at < :before' },
    ],
  },
  {
    name: 'limits',
    label: 'What limits on sending stopped, and codes',
    help: 'Which limit, for what and how often; codes as they ended, without the code.',
    usual: 90,
    least: 15,
    rows: [
      { table: 'sending_stops', where: 'last_at < :before' },
      { table: 'verification_codes', where: `id < :id AND state <> 'open'`, ids: 'cod' },
    ],
  },
  {
    name: 'refused',
    label: 'Refused requests to send and calls of apps',
    help: 'What a diagnosis finds where a message was asked for and never made.',
    usual: 14,
    least: 2,
    rows: [
      { table: 'refused_orders', where: 'at < :before' },
      { table: 'refused_calls', where: 'last_at < :before' },
    ],
  },
  {
    name: 'tests',
    label: 'Runs of delivery tests',
    help: 'Their rounds and percentiles.',
    usual: 90,
    least: 2,
    rows: [{ table: 'delivery_test_runs', where: 'id < :id', ids: 'dtr' }],
  },
  {
    name: 'alerts',
    label: 'Alerts that ended, and decisions about what was set aside',
    help: 'When something began to be broken, and when it was fixed.',
    usual: 180,
    least: 15,
    rows: [
      { table: 'alert_tellings', where: 'alert_id IN (SELECT id FROM alerts WHERE closed_at < :before)' },
      { table: 'alerts', where: 'closed_at < :before' },
      { table: 'failed_work', where: 'ended_at < :before' },
    ],
  },
  {
    name: 'imports',
    label: 'Imports of contacts',
    help: 'Lines and outcomes; an import that is gone can no longer be undone. Contacts stay.',
    usual: 90,
    least: 1,
    rows: [
      {
        table: 'import_lines',
        where: 'import_id IN (SELECT id FROM imports WHERE ended_at < :before)',
        key: `import_id || ' ' || line`,
      },
      { table: 'imports', where: 'ended_at < :before AND id NOT IN (SELECT import_id FROM import_lines)' },
    ],
  },
  {
    name: 'sign-ins',
    label: 'Failed sign-ins',
    help: 'What the sign-in limit counts.',
    usual: 30,
    least: 1,
    rows: [{ table: 'sign_in_failures', where: 'at < :before' }],
  },
];

/** The values a condition of a kind is asked with. */
export function boundsOf(ids: IdPrefix | undefined, before: number): Record<string, unknown> {
  return { before, ...(ids ? { id: timeId(ids, before) } : {}) };
}
