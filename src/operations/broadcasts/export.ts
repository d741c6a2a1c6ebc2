/** The recipients of a broadcast as a file, a page at a time, all of them or those of a filter. */
import { stringify } from 'csv-stringify/sync';
import { type Actor, type AppContext, recordAudit, requireRole } from '../context';
import { listRecipients, type RecipientFilter, type RecipientView } from './views';
import { reachedBroadcast } from './writing/reached';

export const EXPORTED_AS = ['csv', 'jsonl'] as const;
export type ExportedAs = (typeof EXPORTED_AS)[number];

const PAGE = 1000;
const COLUMNS = [
  'line',
  'contact',
  'name',
  'address',
  'country',
  'state',
  'reason',
  'detail',
  'due',
  'parts',
  'message',
  'replied',
  'pressed',
  'opted out',
] as const;

const time = (at: number | undefined): string => (at === undefined ? '' : new Date(at).toISOString());
/** What a spreadsheet would read as a formula is text. */
const cell = (text: string): string => (/^[=@\t\r]|^[+-](?!\d+$)/.test(text) ? `'${text}` : text);

function valuesOf(recipient: RecipientView): string[] {
  return [
    String(recipient.seq),
    recipient.contactId ?? '',
    recipient.name ?? '',
    recipient.value ?? '',
    recipient.country ?? '',
    recipient.state,
    recipient.reason?.title ?? '',
    recipient.reason?.said ?? '',
    time(recipient.dueAt),
    recipient.parts === undefined ? '' : String(recipient.parts),
    recipient.messageId ?? '',
    time(recipient.repliedAt),
    recipient.pressed ?? '',
    recipient.optedOut ? 'yes' : '',
  ];
}

/** Pieces of the file. What is exported, and by whom, is in the audit log. */
export async function* exportRecipients(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { format, filter }: { format: ExportedAs; filter: RecipientFilter },
): AsyncGenerator<string> {
  requireRole(actor, 'administrator');
  const row = await reachedBroadcast(ctx.store, actor, id);
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'broadcast.exported',
      subject: id,
      summary: `Exported the recipients of ${row.name} as ${format}`,
    }),
  );
  // A byte-order mark, without which spreadsheets take UTF-8 for something else.
  if (format === 'csv') yield `\ufeff${stringify([[...COLUMNS]], { record_delimiter: '\r\n' })}`;
  for (let after: number | undefined = 0; after !== undefined; ) {
    const { recipients, next } = await listRecipients(ctx, actor, id, filter, { after, most: PAGE });
    const lines = recipients.map(valuesOf);
    yield format === 'csv'
      ? stringify(
          lines.map((values) => values.map(cell)),
          { record_delimiter: '\r\n' },
        )
      : lines
          .map(
            (values) => `${JSON.stringify(Object.fromEntries(COLUMNS.map((name, index) => [name, values[index]])))}\n`,
          )
          .join('');
    after = next;
  }
}
