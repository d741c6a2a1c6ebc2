/**
 * What tells the rows of a sheet apart: the values of the columns its message is made of,
 * wherever those columns stand by now and whatever they are called. Pure.
 */
import { createHash } from 'node:crypto';

/** A column that tells rows apart: by the name it had when that began, and as it was called last. */
export interface TellingColumn {
  name: string;
  called: string;
}

/** Those columns with the place of each in the file, counted from 0. */
export interface PlacedColumns {
  names: readonly string[];
  at: readonly number[];
}

/**
 * Finds such columns in a header that may have changed since. A column is found by what it was
 * called; one that is gone is taken for renamed where another that is new stands in its place,
 * or where it alone is gone and one alone is new. Returns them as they are called now, or which are lost.
 *
 * @param before the header in which they were found last
 */
export function findColumns(
  columns: readonly TellingColumn[],
  before: readonly string[],
  now: readonly string[],
): { found: TellingColumn[]; lost: string[] } {
  const added = now.filter((name) => !before.includes(name));
  const gone = before.filter((name) => !now.includes(name));
  const calledNow = (called: string): string | undefined => {
    if (now.includes(called)) return called;
    const there = now[before.indexOf(called)];
    if (there !== undefined && added.includes(there)) return there;
    return added.length === 1 && gone.length === 1 ? added[0] : undefined;
  };
  const found: TellingColumn[] = [];
  const lost: string[] = [];
  for (const { name, called } of columns) {
    const next = calledNow(called);
    if (next === undefined) lost.push(called);
    else found.push({ name, called: next });
  }
  return { found, lost };
}

/** The places of columns in a file whose whole header this is. */
export function placeColumns(columns: readonly TellingColumn[], header: readonly string[]): PlacedColumns {
  return { names: columns.map(({ name }) => name), at: columns.map(({ called }) => header.indexOf(called)) };
}

/** What a row is told by, as one text; names are those recorded, so a renamed column changes nothing. */
export type RowContent = (cells: readonly string[]) => string;

export function contentOfColumns({ names, at }: PlacedColumns): RowContent {
  return (cells) => JSON.stringify(names.map((name, index) => [name, cells[at[index] ?? -1] ?? '']));
}

export function contentOfKeyColumn(index: number): RowContent {
  return (cells) => (cells[index] ?? '').trim();
}

/** The same content twice is two rows, so a key also counts how often its content came. */
export function createRowKeys(contentOf: RowContent): (cells: readonly string[]) => { key: string; repeated: boolean } {
  const times = new Map<string, number>();
  return (cells) => {
    const hash = createHash('sha256').update(contentOf(cells)).digest('base64url').slice(0, 22);
    const before = times.get(hash) ?? 0;
    times.set(hash, before + 1);
    return { key: before === 0 ? hash : `${hash}.${before}`, repeated: before > 0 };
  };
}

/** What one look at a sheet found. */
export interface Look {
  /** Rows that are not known. */
  fresh: number;
  /** Rows that are known and were there. */
  known: number;
  /** How many known rows were there at the look before. */
  knownBefore: number;
}

export type Jump = 'replaced' | 'many';

/** As many new rows as this are usual, and this share of the known ones. */
const USUAL = 50;
const USUAL_SHARE = 0.25;

/**
 * Whether so many rows are new that they are probably old ones which look different:
 * `replaced`, as most of the known ones are gone at the same time, or `many`. Undefined for
 * what is usual. Rows of a jump are sent only after somebody said so.
 */
export function jumpIn({ fresh, known, knownBefore }: Look): Jump | undefined {
  const gone = knownBefore - known;
  if (fresh >= 2 && gone >= 2 && gone >= knownBefore / 2) return 'replaced';
  return fresh > Math.max(USUAL, knownBefore * USUAL_SHARE) ? 'many' : undefined;
}
