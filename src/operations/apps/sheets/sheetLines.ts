/** The filled rows of a watched sheet as its file holds them, each with what it is known by. */
import { formatOf, SheetError } from '../../../connectors/sheets/sheetFile';
import { fieldsUsed } from '../../../core/hooks/fieldsUsed';
import type { HookDefinition } from '../../../core/hooks/order';
import {
  contentOfColumns,
  contentOfKeyColumn,
  createRowKeys,
  findColumns,
  placeColumns,
  type RowContent,
  type TellingColumn,
} from '../../../core/sheets/identity';
import { columnNames, MARK_COLUMN, RESULT_COLUMN, rowRecord } from '../../../core/sheets/rows';
import type { PostedRecord } from '../../../core/text/fields';
import type { SheetRow } from '../../../store/schema/rows';
import { type AppContext, fileHeader, fileRows } from '../../context';

export interface Line {
  /** The header being 1. */
  number: number;
  key: string;
  /** What it was known by before, where that has changed. */
  keyBefore?: string;
  repeated: boolean;
  record: PostedRecord;
  /** Whether the file itself says that it was sent. */
  marked: boolean;
}

/** How the rows of a sheet are told apart as its header is now. */
export interface Telling {
  /** The columns as they are called now, ours left out. */
  header: string[];
  /** To remember as the sheet's identity. */
  identity: TellingColumn[];
  content: RowContent;
  /** By what they were told apart until now, where that is something else. */
  contentBefore?: RowContent;
  /** Columns they were told apart by until now that are no longer there: no row can be recognised. */
  lost: string[];
}

/**
 * How rows are told apart, for a sheet whose message is `definition`. Throws where the message
 * uses a column that is gone.
 *
 * @param anyKnown whether any row of the sheet was ever seen
 */
export async function tellingOf(
  ctx: AppContext,
  path: string,
  sheet: SheetRow,
  definition: HookDefinition | undefined,
  anyKnown: boolean,
): Promise<Telling> {
  const all = await headerOf(ctx, path, sheet);
  const header = all.filter((name) => name !== MARK_COLUMN && name !== RESULT_COLUMN);
  if (sheet.key_column) {
    const index = all.indexOf(sheet.key_column);
    if (index < 0)
      throw new SheetError(`The sheet has no column “${sheet.key_column}”, by which its rows are told apart.`);
    return { header, identity: named([sheet.key_column]), content: contentOfKeyColumn(index), lost: [] };
  }
  const known = sheet.identity ?? named(Object.keys(sheet.samples[0] ?? {}));
  const used = definition && fieldsUsed(definition);
  const uses = (name: string) => used !== undefined && (used === 'everything' || used.has(name));
  const missing =
    used === 'everything' ? undefined : known.find(({ called }) => uses(called) && !header.includes(called));
  if (missing !== undefined)
    throw new SheetError(
      `The column “${missing.called}”, which the message uses, is no longer in the sheet. Call it that again, or write the message with the column it is called now.`,
    );
  const contentOf = (columns: readonly TellingColumn[]) => contentOfColumns(placeColumns(columns, all));
  const { found, lost } = findColumns(known, sheet.header ?? known.map(({ called }) => called), header);
  // Before there is a message nothing says what matters, so what they were first seen with stays what tells them apart.
  const wanted = used && header.some(uses) ? named(header.filter(uses)) : found.length > 0 ? found : named(header);
  if (known.length === 0 || !anyKnown) return { header, identity: wanted, content: contentOf(wanted), lost: [] };
  if (lost.length > 0) return { header, identity: wanted, content: contentOf(wanted), lost };
  if (sameColumns(wanted, found)) return { header, identity: found, content: contentOf(found), lost };
  return { header, identity: wanted, content: contentOf(wanted), contentBefore: contentOf(found), lost };
}

function named(names: readonly string[]): TellingColumn[] {
  return names.map((name) => ({ name, called: name }));
}

function sameColumns(one: readonly TellingColumn[], other: readonly TellingColumn[]): boolean {
  return one.length === other.length && one.every(({ called }) => other.some((each) => each.called === called));
}

/** More than any sheet people write; what has more is some other file. */
const MOST_COLUMNS = 1000;

async function headerOf(ctx: AppContext, path: string, sheet: SheetRow): Promise<string[]> {
  const cells = await fileHeader(ctx, path, formatOf(sheet.source) ?? 'csv');
  if (cells.length > MOST_COLUMNS) throw new SheetError(`The sheet has more than ${MOST_COLUMNS} columns.`);
  return columnNames(cells);
}

export async function* linesOf(
  ctx: AppContext,
  path: string,
  sheet: SheetRow,
  { content, contentBefore }: Telling,
): AsyncGenerator<Line> {
  const keyOf = createRowKeys(content);
  const keyBeforeOf = contentBefore && createRowKeys(contentBefore);
  let names: string[] | undefined;
  let mark = -1;
  let number = 0;
  for await (const cells of fileRows(ctx, path, formatOf(sheet.source) ?? 'csv')) {
    number += 1;
    if (!names) {
      names = columnNames(cells);
      mark = names.indexOf(MARK_COLUMN);
      continue;
    }
    const record = rowRecord(names, cells);
    if (!record) continue;
    const keyBefore = keyBeforeOf?.(cells).key;
    yield { number, record, ...keyOf(cells), keyBefore, marked: mark >= 0 && Boolean(cells[mark]?.trim()) };
  }
}
