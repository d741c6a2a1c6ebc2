/** Rows of sheets: named by their headers, and kept from being formulas. Pure. */
import type { PostedRecord } from '../text/fields';

/** Columns Windgap keeps in a sheet it watches. */
export const MARK_COLUMN = 'windgap sent';
export const RESULT_COLUMN = 'windgap result';

/**
 * Names for the columns of a header row: as they stand, without spaces around; a column
 * without a name gets its letter, a name that occurs again a number.
 */
export function columnNames(header: readonly string[]): string[] {
  const taken = new Map<string, number>();
  return header.map((text, index) => {
    const name =
      text
        .replace(/^\ufeff/, '')
        .replace(/\s+/g, ' ')
        .trim() || `column ${columnLetter(index)}`;
    const times = (taken.get(name) ?? 0) + 1;
    taken.set(name, times);
    return times === 1 ? name : `${name} ${times}`;
  });
}

/** 0 → A, 25 → Z, 26 → AA. */
export function columnLetter(index: number): string {
  const rest = Math.floor(index / 26);
  return (rest > 0 ? columnLetter(rest - 1) : '') + String.fromCharCode(65 + (index % 26));
}

/** A row by its columns' names, without the columns Windgap keeps; undefined for an empty row. */
export function rowRecord(names: readonly string[], cells: readonly string[]): PostedRecord | undefined {
  if (cells.every((cell) => cell.trim() === '')) return undefined;
  const record: PostedRecord = {};
  for (const [index, name] of names.entries()) {
    if (name === MARK_COLUMN || name === RESULT_COLUMN) continue;
    Object.defineProperty(record, name, {
      value: cells[index] ?? '',
      enumerable: true,
      writable: true,
      configurable: true,
    });
  }
  return record;
}

const FORMULA = /^[=+\-@\t\r]/;
const PHONE = /^\+\d{7,15}$/;

/** A value for a sheet, so that no program takes people's words for a formula. A phone number is no danger and stays. */
export function neutralised(value: string): string {
  return FORMULA.test(value) && !PHONE.test(value) ? `'${value}` : value;
}

const DELIMITERS = [',', ';', '\t', '|'] as const;

/** The delimiter of a CSV text by its first line: the one that stands there most often outside quotes. */
export function delimiterOf(text: string): string {
  let quoted = false;
  const counts = new Map<string, number>();
  for (const char of text) {
    if (char === '"') quoted = !quoted;
    else if (!quoted && (char === '\n' || char === '\r')) break;
    else if (!quoted) counts.set(char, (counts.get(char) ?? 0) + 1);
  }
  return DELIMITERS.reduce<string>(
    (best, next) => ((counts.get(next) ?? 0) > (counts.get(best) ?? 0) ? next : best),
    ',',
  );
}
