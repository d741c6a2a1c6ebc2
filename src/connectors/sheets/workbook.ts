/** Changes in workbooks that are there already: read as a whole, changed, and put in the place of the old. */
import { existsSync, rmSync } from 'node:fs';
import type ExcelJS from 'exceljs';
import { columnNames } from '../../core/sheets/rows';
import { fileMark, MOST_ROWS, SheetError, takePlace } from './sheetFile';

export interface RowToAppend {
  path: string;
  /** The columns of a new workbook; none where there is one. */
  header?: string[];
  row: string[];
  /** The column, counted from one, and the value by which the row is known to be there already. */
  known: { column: number; value: string };
}

/** Appends a row unless it is there. Returns the new mark, or undefined where somebody else changed the file meanwhile. */
export function appendToWorkbook({ path, header, row, known }: RowToAppend): Promise<string | undefined> {
  return changeXlsx(path, (sheet) => {
    if (header) sheet.addRow(header);
    if (!sheet.getColumn(known.column).values.includes(known.value)) sheet.addRow(row);
  });
}

export interface RowsToMark {
  path: string;
  /** Names of the two columns that are ours. */
  columns: [string, string];
  /** By the number of the row, the header being 1. */
  values: [line: number, values: [string, string]][];
}

/** Writes what became of rows beside them, in columns of our own. Returns as `appendToWorkbook` does. */
export function markWorkbook({ path, columns, values }: RowsToMark): Promise<string | undefined> {
  return changeXlsx(path, (sheet) => {
    const header = sheet.getRow(1);
    const names = columnNames(Array.from({ length: header.cellCount }, (_, index) => header.getCell(index + 1).text));
    const places = columns.map((name) => {
      if (!names.includes(name)) names.push(name);
      header.getCell(names.indexOf(name) + 1).value = name;
      return names.indexOf(name) + 1;
    });
    for (const [line, texts] of values)
      for (const [index, place] of places.entries()) sheet.getRow(line).getCell(place).value = texts[index] ?? '';
  });
}

/** Changes a workbook with all that is in it; see `takePlace`. Made when there is none. */
async function changeXlsx(path: string, change: (sheet: ExcelJS.Worksheet) => void): Promise<string | undefined> {
  const mark = existsSync(path) ? fileMark(path) : undefined;
  const { default: excel } = await import('exceljs');
  const workbook = new excel.Workbook();
  if (existsSync(path)) await workbook.xlsx.readFile(path);
  const [sheet = workbook.addWorksheet('Messages')] = workbook.worksheets;
  if (sheet.rowCount > MOST_ROWS) throw new SheetError('It has more rows than a sheet can have.');
  const beside = `${path}.windgap-new`;
  try {
    change(sheet);
    await workbook.xlsx.writeFile(beside);
    return takePlace(beside, path, mark);
  } finally {
    rmSync(beside, { force: true });
  }
}
