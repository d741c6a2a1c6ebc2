/** Rows of a list as a person wants to see them: those that contain what was typed, in the order that was chosen. */

/** What a cell is worth for comparing; absent where it cannot be compared. */
export type Value = string | number | undefined;

export interface ListHead {
  head: string;
  /** Right-aligned tabular figures. */
  figures?: boolean;
  className?: string;
  /** Shown only once it was chosen. */
  extra?: boolean;
}

export interface ListRow {
  key: string;
  /** One for each column. */
  values: readonly Value[];
}

/** A column by its place, and the direction. */
export interface Order {
  column: number;
  down: boolean;
}

/** The words as they are compared: without case and accents. */
export function plain(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase();
}

/** Rows in which every word that was typed stands somewhere; figures also without their spaces. */
export function containing<Row extends ListRow>(rows: readonly Row[], typed: string): readonly Row[] {
  const words = plain(typed).split(/\s+/).filter(Boolean);
  if (words.length === 0) return rows;
  return rows.filter(({ values }) => {
    const text = plain(values.map((value) => value ?? '').join('\n'));
    const close = text.replace(/ /g, '');
    return words.every((word) => text.includes(word) || close.includes(word)) || close.includes(words.join(''));
  });
}

const compare = new Intl.Collator('en', { numeric: true, sensitivity: 'base' }).compare;

/** Rows in the order of one column. What has no value comes last, whichever the direction; equals stay as they are. */
export function ordered<Row extends ListRow>(rows: readonly Row[], order: Order | undefined): readonly Row[] {
  if (!order) return rows;
  const sign = order.down ? -1 : 1;
  return [...rows].sort((one, other) => {
    const [a, b] = [one.values[order.column], other.values[order.column]];
    const [noA, noB] = [a === undefined || a === '', b === undefined || b === ''];
    if (noA || noB) return Number(noA) - Number(noB);
    return sign * (typeof a === 'number' && typeof b === 'number' ? a - b : compare(String(a), String(b)));
  });
}
