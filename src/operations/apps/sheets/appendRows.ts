/** Appends messages to sheets: one row each, also when an attempt is made again. */
import { appendFileSync, existsSync } from 'node:fs';
import { csvStyle, endOf, formatOf, PLAIN_CSV, SheetError } from '../../../connectors/sheets/sheetFile';
import { cause } from '../../../core/delivery/causes';
import { columnNames, neutralised } from '../../../core/sheets/rows';
import type { Outcome } from '../../../core/steps/run';
import type { AppendStep } from '../../../core/steps/steps';
import type { PostedRecord } from '../../../core/text/fields';
import { mergeText } from '../../../core/text/merge';
import type { MessageRow, SheetRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { type AppContext, changeWorkbook, fileHeader } from '../../context';
import { beginRuns } from '../../runs';
import { messageContexts } from '../records';
import { sheetPath } from './sheets';

/** Tells rows apart; always the last column. */
export const MESSAGE_COLUMN = 'message';

/** Puts a row for each of these messages into the queue of each sheet that wants it. */
export async function appendMessages(unit: Unit, messages: readonly MessageRow[], at: number): Promise<void> {
  const sheets = messages.length > 0 ? await unit.sheets.all({ way: 'append', disabled_at: null, by_route: 0 }) : [];
  if (sheets.length === 0) return;
  const contexts = await messageContexts(unit, messages);
  await beginRuns(
    unit,
    sheets.flatMap((sheet) =>
      messages
        .filter((message) => !sheet.channels || sheet.channels.includes(message.channel_id))
        .map((message) => ({
          appId: sheet.app_id,
          source: 'sheet-append' as const,
          sourceId: sheet.id,
          subjectId: message.id,
          steps: [
            {
              kind: 'append' as const,
              sheet: sheet.id,
              cells: cellsOf(sheet, message.id, contexts.get(message.id) ?? {}),
            },
          ],
        })),
    ),
    at,
  );
}

/** What cannot be filled stays empty: a row with a hole is more than no row. */
export function cellsOf(sheet: Pick<SheetRow, 'columns'>, id: string, record: PostedRecord): [string, string][] {
  const cells = sheet.columns.map(({ header, fill }): [string, string] => [
    header,
    neutralised(mergeText(fill, record, { tokensMayStay: true }).text),
  ]);
  return [...cells, [MESSAGE_COLUMN, id]];
}

/** One writer to a file: appends wait for each other. */
const turns = new Map<string, Promise<unknown>>();

export async function appendRow(ctx: AppContext, step: AppendStep): Promise<Outcome> {
  const sheet = await ctx.store.sheets.one({ id: step.sheet });
  if (!sheet)
    return {
      kind: 'failed',
      finding: {
        code: 'sheet-gone',
        severity: 'error',
        problem: 'There is no such sheet any more.',
        remedy: 'Add it again.',
      },
    };
  const path = sheetPath(ctx, sheet.source);
  const turn = (turns.get(path) ?? Promise.resolve())
    .catch(() => undefined)
    .then(() => append(ctx, path, sheet.source, step));
  turns.set(path, turn);
  try {
    await turn;
    return { kind: 'done', said: `A row in ${sheet.source}`, ref: '' };
  } catch (error) {
    const said = (error as Error).message;
    return {
      kind: 'again',
      said: cause('sheet-not-written').explain({ subject: sheet.source, said }),
      cause: 'sheet-not-written',
    };
  }
}

async function append(ctx: AppContext, path: string, name: string, { cells }: AppendStep): Promise<void> {
  const values = new Map(cells);
  const id = values.get(MESSAGE_COLUMN) ?? '';
  const fresh = !existsSync(path);
  const header = fresh ? cells.map(([column]) => column) : await fileHeader(ctx, path, formatOf(name) ?? 'csv');
  const names = columnNames(header);
  const missing = [...values.keys()].filter((column) => !names.includes(column));
  if (missing.length > 0)
    throw new SheetError(
      `it has no column ${missing.map((column) => `“${column}”`).join(', ')}; add it, or take it off the list`,
    );
  const row = names.map((column) => values.get(column) ?? '');
  if (formatOf(name) === 'xlsx') {
    const known = { column: names.indexOf(MESSAGE_COLUMN) + 1, value: id };
    const written = await changeWorkbook(ctx, 'appendToWorkbook', { path, row, known, ...(fresh ? { header } : {}) });
    if (written === undefined) throw new SheetError('somebody else changed it in the same moment');
    return;
  }
  // A row that was just written is among the last, however long the sheet.
  if (!fresh && endOf(path).includes(id)) return;
  const { delimiter, lineEnd } = fresh ? PLAIN_CSV : csvStyle(path);
  const lines = fresh ? [header, row] : [row];
  const text = lines.map((line) => `${line.map((cell) => quoted(cell, delimiter)).join(delimiter)}${lineEnd}`).join('');
  const broken = !fresh && !/[\r\n]$/.test(endOf(path));
  appendFileSync(path, broken ? `${lineEnd}${text}` : text);
}

function quoted(cell: string, delimiter: string): string {
  return cell.includes(delimiter) || /["\r\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell;
}
