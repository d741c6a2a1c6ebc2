/**
 * Sheets as files: CSV (RFC 4180) and XLSX (ECMA-376), read row by row so that a sheet of any
 * length costs the same memory, and written whole beside the old one, then put in its place.
 */

import {
  closeSync,
  createReadStream,
  createWriteStream,
  openSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { TextDecoderStream } from 'node:stream/web';
import { parse } from 'csv-parse';
import { stringify } from 'csv-stringify';
import type ExcelJS from 'exceljs';
import { NamedError } from '../../core/namedError';
import { delimiterOf } from '../../core/sheets/rows';

export type SheetFormat = 'csv' | 'xlsx';

export class SheetError extends NamedError {
  static override readonly called = 'SheetError';
}

export function formatOf(name: string): SheetFormat | undefined {
  const ending = name.split(/[?#]/)[0]?.split('.').at(-1)?.toLowerCase();
  if (ending === 'csv' || ending === 'tsv' || ending === 'txt') return 'csv';
  return ending === 'xlsx' ? 'xlsx' : undefined;
}

/** Rows of texts, the header first. Throws SheetError with the reason when the file is not what its name says. */
export async function* readRows(path: string, format: SheetFormat): AsyncGenerator<string[]> {
  try {
    yield* format === 'csv' ? readCsv(path) : readXlsx(path);
  } catch (error) {
    if (error instanceof SheetError) throw error;
    const said = (error as Error).message.split('\n')[0];
    throw new SheetError(
      format === 'csv' ? `The CSV cannot be read: ${said}` : `The file is no XLSX that can be read: ${said}`,
    );
  }
}

const HEAD = 64 * 1024;

function headOf(path: string): Buffer {
  const file = openSync(path, 'r');
  try {
    const head = Buffer.alloc(HEAD);
    return head.subarray(0, readSync(file, head, 0, HEAD, 0));
  } finally {
    closeSync(file);
  }
}

/** UTF-8 unless its beginning is not; what older programs write is then Windows-1252. */
function encodingOf(head: Buffer): string {
  // A character may be cut at the end of what was read.
  const whole = head.length < HEAD ? head : head.subarray(0, head.length - 4);
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(whole, { stream: true });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}

async function* readCsv(path: string): AsyncGenerator<string[]> {
  const head = headOf(path);
  if (head.includes(0)) throw new SheetError('The file is no CSV: it holds binary data.');
  const encoding = encodingOf(head);
  const parser = parse({
    bom: true,
    delimiter: delimiterOf(new TextDecoder(encoding).decode(head)),
    // Files that several programs wrote to hold several kinds of line ends.
    record_delimiter: ['\r\n', '\n', '\r'],
    relax_column_count: true,
    relax_quotes: true,
    skip_empty_lines: true,
  });
  const text = Readable.toWeb(createReadStream(path)).pipeThrough(new TextDecoderStream(encoding) as never);
  const reading = pipeline(Readable.fromWeb(text as never), parser);
  reading.catch(() => undefined);
  for await (const row of parser) yield row as string[];
  await reading;
}

/** ECMA-376 leaves it open; no program that writes these files knows more (18.3.1.73, 18.3.1.4). */
export const MOST_ROWS = 1_048_576;
const MOST_COLUMNS = 16_384;

async function* readXlsx(path: string): AsyncGenerator<string[]> {
  if (headOf(path).subarray(0, 2).toString() !== 'PK')
    throw new SheetError('The file is no XLSX: it is not a ZIP archive.');
  const { default: excel } = await import('exceljs');
  const reader = new excel.stream.xlsx.WorkbookReader(path, {
    entries: 'emit',
    sharedStrings: 'cache',
    styles: 'cache',
    hyperlinks: 'ignore',
    worksheets: 'emit',
  });
  for await (const sheet of reader) {
    let next = 1;
    for await (const row of sheet) {
      if (row.number > MOST_ROWS || row.number < next)
        throw new SheetError(`It has a row ${row.number}, which no sheet has.`);
      // Rows without a cell are not in the file, yet they count.
      for (; next < row.number; next++) yield [];
      next = row.number + 1;
      const values = row.values as ExcelJS.CellValue[];
      if (values.length - 1 > MOST_COLUMNS)
        throw new SheetError(`Row ${row.number} has more columns than a sheet can have.`);
      yield Array.from({ length: Math.max(0, values.length - 1) }, (_, index) => cellText(values[index + 1]));
    }
    // One table to a sheet: the first worksheet is the one that counts.
    return;
  }
}

function cellText(value: ExcelJS.CellValue | undefined): string {
  if (value === null || value === undefined) return '';
  if (value instanceof Date) return value.toISOString().replace(/T00:00:00\.000Z$/, '');
  if (typeof value !== 'object') return String(value);
  if ('richText' in value) return value.richText.map(({ text }) => text).join('');
  if ('text' in value) return cellText(value.text as ExcelJS.CellValue);
  if ('result' in value) return cellText(value.result as ExcelJS.CellValue);
  return 'error' in value ? String(value.error) : '';
}

/** The last 64 KiB of a file, as text. */
export function endOf(path: string): string {
  const { size } = statSync(path);
  const file = openSync(path, 'r');
  try {
    const end = Buffer.alloc(Math.min(HEAD, size));
    readSync(file, end, 0, end.length, size - end.length);
    return end.toString('utf8');
  } finally {
    closeSync(file);
  }
}

/**
 * Puts a new file in the place of one that is still as `mark` says, in one step: a reader
 * sees the old or the new. Returns the new one's mark, or undefined where somebody else
 * changed the file meanwhile: theirs stays.
 */
export function takePlace(beside: string, path: string, mark: string | undefined): string | undefined {
  const ours = fileMark(beside);
  if (mark !== undefined && fileMark(path) !== mark) return undefined;
  renameSync(beside, path);
  return ours;
}

/** Writes rows as the CSV that stands at `path` with this mark; see `takePlace`. */
export async function replaceCsv(
  path: string,
  mark: string,
  rows: AsyncIterable<string[]>,
  { delimiter, bom, lineEnd }: CsvStyle,
): Promise<string | undefined> {
  const beside = `${path}.windgap-new`;
  try {
    await pipeline(
      Readable.from(rows),
      stringify({ delimiter, bom, record_delimiter: lineEnd }),
      createWriteStream(beside),
    );
    return takePlace(beside, path, mark);
  } finally {
    rmSync(beside, { force: true });
  }
}

/** How a CSV is written, so that what is written back looks like what came. */
export interface CsvStyle {
  delimiter: string;
  /** A byte-order mark, by which some programs know UTF-8. */
  bom: boolean;
  lineEnd: string;
}

export const PLAIN_CSV: CsvStyle = { delimiter: ',', bom: false, lineEnd: '\r\n' };

export function csvStyle(path: string): CsvStyle {
  const head = headOf(path);
  const text = new TextDecoder(encodingOf(head), { ignoreBOM: true }).decode(head);
  return {
    delimiter: delimiterOf(text),
    bom: text.startsWith('\ufeff'),
    lineEnd: text.includes('\r\n') ? '\r\n' : '\n',
  };
}

/** Changes when the file does. Throws SheetError when there is none. */
export function fileMark(path: string): string {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat?.isFile()) throw new SheetError('There is no such file in the folder for sheets.');
  return `${stat.mtimeMs}:${stat.size}`;
}
