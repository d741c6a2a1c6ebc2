/**
 * Watched sheets: read when they change, row by row, each new row set on its way once, and
 * what became of it written back. The table of rows seen decides; the mark in the file is
 * for people, and for a sheet that is added anew.
 */
import { existsSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  changeXlsx,
  csvStyle,
  fileMark,
  formatOf,
  readRows,
  replaceCsv,
  SheetError,
} from '../connectors/sheets/sheetFile';
import { orderFrom } from '../core/hooks/order';
import { columnNames, createRowKeys, MARK_COLUMN, neutralised, RESULT_COLUMN, rowRecord } from '../core/sheets/rows';
import type { PostedRecord } from '../core/text/fields';
import type { SeenRowRow, SheetRow } from '../store/rows';
import { noteChanges } from './changes';
import { definitionOf } from './hooks';
import { withPeople } from './knownPeople';
import { fault, recordFacts } from './proofs';
import { beginRuns, type RunInput } from './runs';
import { isAddress, sheetPath } from './sheets';
import type { Windgap } from './windgap';

/** A file that changed less than this ago may still be being written. */
const SETTLED = 500;
/** How often an address is asked whether its sheet has changed. */
const ADDRESS_EVERY = 60_000;
const BATCH = 500;
const SAMPLES = 5;
const LARGEST_DOWNLOAD = 64 * 1024 * 1024;
/** A workbook longer than this is not written into; its results stay on the page. */
const LARGEST_WRITTEN_XLSX = 20_000;

/** Looks at every watched sheet. Answers how many rows were new. */
export async function scanSheets(w: Windgap): Promise<number> {
  const sheets = await w.store.sheets.all({ way: 'watch', disabled_at: null });
  let fresh = 0;
  for (const sheet of sheets) {
    try {
      fresh += await scanSheet(w, sheet);
      await writeResults(w, sheet);
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      await noteProblem(w, sheet, error.message);
    }
  }
  if (fresh > 0) w.doorbell.ring('runs');
  return fresh;
}

async function noteProblem(w: Windgap, sheet: SheetRow, problem: string): Promise<void> {
  if (sheet.problem === problem) return;
  await w.store.write(async (unit) => {
    const at = w.now();
    await unit.sheets.change({ id: sheet.id }, { problem, file_mark: null });
    await recordFacts(unit, [fault(sheet.id, 'sheet-not-read', at, sheet.id)], at);
    await noteChanges(unit, at, [['run', sheet.id]]);
  });
}

async function scanSheet(w: Windgap, sheet: SheetRow): Promise<number> {
  const place = await currentFile(w, sheet);
  if (!place || place.mark === sheet.file_mark) return 0;
  const scan = await readSheet(w, sheet, place.path);
  await w.store.write(async (unit) => {
    const at = w.now();
    const { rows, samples } = scan;
    await unit.sheets.change(
      { id: sheet.id },
      { file_mark: place.mark, scanned_at: at, row_count: rows, samples, problem: null },
    );
    await noteChanges(unit, at, [['run', sheet.id]]);
  });
  return scan.fresh;
}

/** The file to read and what changes when it does; undefined while it is being written or not due. */
async function currentFile(w: Windgap, sheet: SheetRow): Promise<{ path: string; mark: string } | undefined> {
  if (!isAddress(sheet.source)) {
    const path = sheetPath(w, sheet.source);
    const mark = fileMark(path);
    return w.now() - statSync(path).mtimeMs < SETTLED ? undefined : { path, mark };
  }
  if (sheet.file_mark !== null && w.now() - (sheet.scanned_at ?? 0) < ADDRESS_EVERY) return undefined;
  return download(w, sheet);
}

async function download(w: Windgap, sheet: SheetRow): Promise<{ path: string; mark: string } | undefined> {
  const known: Record<string, string> = sheet.file_mark?.startsWith('etag ')
    ? { 'if-none-match': sheet.file_mark.slice(5) }
    : {};
  const answer = await w
    .http({
      method: 'GET',
      url: sheet.source,
      headers: { 'user-agent': 'Windgap', ...known },
      timeoutMs: 30_000,
      largest: LARGEST_DOWNLOAD,
      binary: true,
    })
    .catch((error: Error) => {
      throw new SheetError(`${sheet.source} could not be fetched: ${error.message}`);
    });
  if (answer.status === 304) {
    await w.store.write((unit) => unit.sheets.change({ id: sheet.id }, { scanned_at: w.now() }));
    return undefined;
  }
  if (answer.status !== 200) throw new SheetError(`${sheet.source} answered ${answer.status} instead of a sheet.`);
  if (/text\/html/.test(answer.headers['content-type'] ?? ''))
    throw new SheetError(`${sheet.source} answered with a web page, such as one to sign in, instead of a sheet.`);
  const path = join(w.config.dataFolder, `${sheet.id}.${formatOf(sheet.source)}`);
  writeFileSync(`${path}.new`, Buffer.from(answer.body, 'latin1'), { mode: 0o600 });
  renameSync(`${path}.new`, path);
  return { path, mark: answer.headers.etag ? `etag ${answer.headers.etag}` : `read ${w.now()}` };
}

interface Line {
  number: number;
  key: string;
  repeated: boolean;
  record: PostedRecord;
  marked: boolean;
}

/** Every filled row of a file with its key, the header being line 1. */
async function* lines(path: string, sheet: SheetRow): AsyncGenerator<Line> {
  const keyOf = createRowKeys(sheet.key_column ?? undefined);
  let names: string[] | undefined;
  let number = 0;
  for await (const cells of readRows(path, formatOf(sheet.source) ?? 'csv')) {
    number += 1;
    if (!names) {
      names = columnNames(cells);
      if (sheet.key_column && !names.includes(sheet.key_column))
        throw new SheetError(`The sheet has no column “${sheet.key_column}”, by which its rows are told apart.`);
      continue;
    }
    const record = rowRecord(names, cells);
    if (!record) continue;
    const mark = names.indexOf(MARK_COLUMN);
    yield { number, record, ...keyOf(record), marked: mark >= 0 && Boolean(cells[mark]?.trim()) };
  }
  if (!names) throw new SheetError('The sheet is empty: its first row is to hold the names of the columns.');
}

async function readSheet(
  w: Windgap,
  sheet: SheetRow,
  path: string,
): Promise<{ rows: number; fresh: number; samples: PostedRecord[] }> {
  const first = sheet.scanned_at === null;
  let samples: PostedRecord[] = [];
  let rows = 0;
  let fresh = 0;
  let batch: Line[] = [];
  const place = async () => {
    fresh += await placeRows(w, sheet, batch, first);
    batch = [];
  };
  for await (const line of lines(path, sheet)) {
    rows += 1;
    samples = [line.record, ...samples].slice(0, SAMPLES);
    batch.push(line);
    if (batch.length === BATCH) await place();
  }
  await place();
  return { rows, fresh, samples };
}

/** Notes rows that were not seen before and sets those on their way that are to be sent. Answers how many were new. */
function placeRows(w: Windgap, sheet: SheetRow, batch: readonly Line[], first: boolean): Promise<number> {
  if (batch.length === 0) return Promise.resolve(0);
  return w.store.write(async (unit) => {
    const at = w.now();
    const written = await definitionOf(unit, sheet);
    const records = batch.map(({ record }) => record);
    const definition = written && (await withPeople(unit, written, records));
    const known = await unit.select<{ row_key: string }>(
      'SELECT row_key FROM sheet_rows WHERE sheet_id = :sheet AND row_key IN (:keys)',
      { sheet: sheet.id, keys: batch.map(({ key }) => key) },
    );
    const seen = new Set(known.map(({ row_key }) => row_key));
    const fresh = batch.filter(({ key }) => !seen.has(key));
    const begun: { row: SeenRowRow; run: RunInput }[] = [];
    const rows = fresh.flatMap((line): SeenRowRow[] => {
      const row = {
        sheet_id: sheet.id,
        row_key: line.key,
        line: line.number,
        result: null,
        run_id: null,
        seen_at: at,
        written_at: null,
      };
      if (line.marked || (first && sheet.begin_with === 'new')) return [{ ...row, state: 'before' }];
      // Rows wait for the message: they are new again when it is written.
      if (!definition || !sheet.sender) return [];
      if (sheet.key_column && line.repeated)
        return [
          {
            ...row,
            state: 'repeated',
            result: `Another row has the same “${sheet.key_column}”, so this one is not sent.`,
          },
        ];
      const result = orderFrom(definition, line.record);
      if (!result.ok)
        return [
          {
            ...row,
            state: 'refused',
            result: result.findings.map(({ problem, mend }) => `${problem} ${mend}`).join(' '),
          },
        ];
      const taken: SeenRowRow = { ...row, state: 'taken' };
      begun.push({
        row: taken,
        run: {
          appId: sheet.app_id,
          source: 'sheet-row',
          sourceId: sheet.id,
          subjectId: `${sheet.id}:${line.number}`,
          steps: [{ kind: 'send', ...result.order, sender: sheet.sender, tags: sheet.tags }],
        },
      });
      return [taken];
    });
    const ids = await beginRuns(
      unit,
      begun.map(({ run }) => run),
      at,
    );
    for (const [index, { row }] of begun.entries()) row.run_id = ids[index] ?? null;
    await unit.seenRows.insert(rows);
    return rows.length;
  });
}

interface Unwritten {
  row_key: string;
  result: string | null;
  sent_at: number | null;
}

/** Puts the mark and the result of each row that has come to its end into the file it came from. */
async function writeResults(w: Windgap, sheet: SheetRow): Promise<void> {
  if (isAddress(sheet.source)) return;
  const ended = await w.store.select<Unwritten>(
    `SELECT s.row_key, coalesce(s.result, json_extract(r.results, '$[#-1].said')) AS result,
            CASE WHEN r.state = 'done' THEN r.ended_at END AS sent_at
       FROM sheet_rows s LEFT JOIN runs r ON r.id = s.run_id
      WHERE s.sheet_id = :id AND s.written_at IS NULL AND s.state <> 'before'
        AND (s.run_id IS NULL OR r.state IN ('done', 'failed', 'cancelled')) LIMIT 5000`,
    { id: sheet.id },
  );
  const path = sheetPath(w, sheet.source);
  if (ended.length === 0 || !existsSync(path)) return;
  const before = fileMark(path);
  const after = await writeInto(path, before, sheet, new Map(ended.map((row) => [row.row_key, row])));
  if (after === undefined) return;
  await w.store.write(async (unit) => {
    const at = w.now();
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

/** Answers the mark of what was written; undefined when it was not, as somebody changed the file meanwhile or it is too long. */
async function writeInto(
  path: string,
  mark: string,
  sheet: SheetRow,
  ended: ReadonlyMap<string, Unwritten>,
): Promise<string | undefined> {
  const byLine = new Map<number, Unwritten>();
  let rows = 0;
  for await (const line of lines(path, sheet)) {
    rows += 1;
    const result = ended.get(line.key);
    if (result) byLine.set(line.number, result);
  }
  if (formatOf(sheet.source) === 'xlsx') {
    if (rows > LARGEST_WRITTEN_XLSX || fileMark(path) !== mark) return undefined;
    return changeXlsx(path, (worksheet) => {
      const header = worksheet.getRow(1);
      const names = columnNames(Array.from({ length: header.cellCount }, (_, index) => header.getCell(index + 1).text));
      const [mark, result] = [MARK_COLUMN, RESULT_COLUMN].map((name) => {
        if (!names.includes(name)) names.push(name);
        header.getCell(names.indexOf(name) + 1).value = name;
        return names.indexOf(name) + 1;
      });
      for (const [number, row] of byLine) {
        worksheet.getRow(number).getCell(mark as number).value = markOf(row);
        worksheet.getRow(number).getCell(result as number).value = neutralised(row.result ?? '');
      }
    });
  }
  return replaceCsv(path, mark, marked(path, byLine), csvStyle(path));
}

function markOf({ sent_at }: Unwritten): string {
  return sent_at ? new Date(sent_at).toISOString() : '';
}

async function* marked(path: string, byLine: ReadonlyMap<number, Unwritten>): AsyncGenerator<string[]> {
  let names: string[] = [];
  let number = 0;
  for await (const cells of readRows(path, 'csv')) {
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
