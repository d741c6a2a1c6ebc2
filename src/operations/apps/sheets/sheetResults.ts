/** What became of the rows of a watched sheet, written beside them into the file they came from. */
import { existsSync } from 'node:fs';
import { csvStyle, fileMark, formatOf, replaceCsv } from '../../../connectors/sheets/sheetFile';
import { columnNames, MARK_COLUMN, neutralised, RESULT_COLUMN } from '../../../core/sheets/rows';
import type { SheetRow } from '../../../store/schema/rows';
import { type AppContext, changeWorkbook, fileRows, noteChanges } from '../../context';
import { definitionOf } from '../hooks';
import { linesOf, type Telling, tellingOf } from './sheetLines';
import { isAddress, sheetPath } from './sheets';

/** A workbook longer than this is not written into; its results stay on the page. */
const LARGEST_WRITTEN_XLSX = 20_000;

interface Unwritten {
  row_key: string;
  result: string | null;
  sent_at: number | null;
}

/** Puts the mark and the result of each row that has come to its end into the file it came from. */
export async function writeResults(ctx: AppContext, sheetId: string): Promise<void> {
  const sheet = await ctx.store.sheets.one({ id: sheetId });
  if (!sheet || isAddress(sheet.source)) return;
  const ended = await ctx.store.select<Unwritten>(
    `SELECT s.row_key, coalesce(s.result, json_extract(r.results, '$[#-1].said')) AS result,
            CASE WHEN r.state = 'done' THEN r.ended_at END AS sent_at
       FROM sheet_rows s LEFT JOIN runs r ON r.id = s.run_id
      WHERE s.sheet_id = :id AND s.written_at IS NULL AND s.state <> 'before'
        AND (s.run_id IS NULL OR r.state IN ('done', 'failed', 'cancelled')) LIMIT 5000`,
    { id: sheet.id },
  );
  const path = sheetPath(ctx, sheet.source);
  if (ended.length === 0 || !existsSync(path)) return;
  const before = fileMark(path);
  // Only the file whose rows are known; one that was changed since is read first.
  if (before !== sheet.file_mark) return;
  const telling = await tellingOf(ctx, path, sheet, await definitionOf(ctx.store, sheet), true);
  const after = await writeInto(ctx, path, before, sheet, telling, new Map(ended.map((row) => [row.row_key, row])));
  if (after === undefined) return;
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    // Our own change is not to be read again; one that came after it is.
    await unit.sheets.change({ id: sheet.id, file_mark: before }, { file_mark: after });
    await unit.execute('UPDATE sheet_rows SET written_at = :at WHERE sheet_id = :id AND row_key IN (:keys)', {
      at,
      id: sheet.id,
      keys: ended.map(({ row_key }) => row_key),
    });
    await noteChanges(unit, at, [['run', sheet.id]]);
  });
}

/** Returns the mark of what was written; undefined when it was not, as somebody changed the file meanwhile or it is too long. */
async function writeInto(
  ctx: AppContext,
  path: string,
  mark: string,
  sheet: SheetRow,
  telling: Telling,
  ended: ReadonlyMap<string, Unwritten>,
): Promise<string | undefined> {
  const byLine = new Map<number, Unwritten>();
  let rows = 0;
  for await (const line of linesOf(ctx, path, sheet, telling)) {
    rows += 1;
    const result = ended.get(line.keyBefore ?? line.key);
    if (result) byLine.set(line.number, result);
  }
  if (formatOf(sheet.source) === 'xlsx') {
    if (rows > LARGEST_WRITTEN_XLSX || fileMark(path) !== mark) return undefined;
    return changeWorkbook(ctx, 'markWorkbook', {
      path,
      columns: [MARK_COLUMN, RESULT_COLUMN],
      values: [...byLine].map(([line, row]) => [line, [markOf(row), neutralised(row.result ?? '')]]),
    });
  }
  return replaceCsv(path, mark, marked(ctx, path, byLine), csvStyle(path));
}

function markOf({ sent_at }: Unwritten): string {
  return sent_at ? new Date(sent_at).toISOString() : '';
}

async function* marked(
  ctx: AppContext,
  path: string,
  byLine: ReadonlyMap<number, Unwritten>,
): AsyncGenerator<string[]> {
  let names: string[] = [];
  let number = 0;
  for await (const cells of fileRows(ctx, path, 'csv')) {
    number += 1;
    if (number === 1) {
      names = columnNames(cells);
      const missing = [MARK_COLUMN, RESULT_COLUMN].filter((name) => !names.includes(name));
      names.push(...missing);
      yield [...cells, ...missing];
      continue;
    }
    const row = names.map((_, index) => cells[index] ?? '');
    const result = byLine.get(number);
    if (result) {
      row[names.indexOf(MARK_COLUMN)] = markOf(result);
      row[names.indexOf(RESULT_COLUMN)] = neutralised(result.result ?? '');
    }
    yield row;
  }
}
