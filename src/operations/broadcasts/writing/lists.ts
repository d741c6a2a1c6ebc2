/** Lists that broadcasts are given: people who need not be contacts, with columns that become merge fields. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { formatOf, SheetError } from '../../../connectors/sheets/sheetFile';
import { newId } from '../../../store/ids';
import type { BroadcastPersonRow, BroadcastRow } from '../../../store/schema/rows';
import type { Sql, Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  fileRows,
  invalidText,
  noteChanges,
  realNow,
  recordAudit,
  requireAccess,
} from '../../context';
import { asMergeField } from '../people';
import { requireMay } from '../settings';
import { reachedBroadcast, requireDraft } from './reached';

/** As many people as one broadcast goes to. */
export const MOST_LINES = 200_000;
export const LARGEST_LIST = 50 * 1024 * 1024;
/** Lines written or removed in a row, so that others write in between. */
const BATCH = 2000;

/** A file by its name and content, or lines that were pasted. */
export type GivenList = { name: string; content: Buffer } | { table: string };

/**
 * Takes a table with headings as the list of a broadcast, in place of the one before: one column holds the addresses, the
 * others are merge fields under their headings. Lines without an address are kept, so that the plan names them.
 */
export async function giveList(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { column, version, ...given }: GivenList & { column?: string; version: number },
): Promise<{ lines: number; column: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  requireDraft(await reachedBroadcast(ctx.store, actor, id), version);
  const listId = newId('bct', ctx.now());
  try {
    const read = await keepLines(ctx, listId, linesOf(ctx, listId, given), column);
    await ctx.store.write(async (unit) => takeList(ctx, unit, actor, { id, listId, version, lines: read.lines }));
    return read;
  } catch (error) {
    await removeList(ctx, listId);
    if (error instanceof SheetError)
      throw invalidText('list', error.message, 'Save it anew in the program it comes from.');
    throw error;
  }
}

/** Rows of texts, the headings first. */
async function* linesOf(ctx: AppContext, listId: string, given: GivenList): AsyncGenerator<string[]> {
  const { name, content } = 'table' in given ? { name: 'lines.csv', content: Buffer.from(given.table) } : given;
  const format = formatOf(name);
  if (!format) throw invalidText('list', 'This is no table.', 'Choose a CSV or an XLSX file.');
  const folder = join(ctx.config.dataFolder, 'lists');
  const path = join(folder, `${listId}.${format}`);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  await removeAbandoned(ctx, folder);
  writeFileSync(path, content, { mode: 0o600 });
  try {
    yield* fileRows(ctx, path, format);
  } finally {
    await rm(path, { force: true });
  }
}

/** So long ago a file is read or its process ended. */
const ABANDONED = 3_600_000;

async function removeAbandoned(ctx: AppContext, folder: string): Promise<void> {
  for (const name of await readdir(folder)) {
    const kept = await stat(join(folder, name)).catch(() => undefined);
    if (kept && realNow(ctx) - kept.mtimeMs > ABANDONED) await rm(join(folder, name), { force: true });
  }
}

async function keepLines(
  ctx: AppContext,
  listId: string,
  rows: AsyncGenerator<string[]>,
  column: string | undefined,
): Promise<{ lines: number; column: string }> {
  let headings: Headings | undefined;
  let lines = 0;
  let batch: BroadcastPersonRow[] = [];
  const keep = async () => {
    const kept = batch;
    batch = [];
    await ctx.store.write((unit) => unit.broadcastPeople.insert(kept), { durable: false });
  };
  for await (const cells of rows) {
    if (!cells.some((cell) => cell.trim() !== '')) continue;
    if (!headings) {
      headings = readHeadings(cells, column);
      continue;
    }
    lines += 1;
    if (lines > MOST_LINES)
      throw invalidText(
        'list',
        `It has more than ${MOST_LINES.toLocaleString('en')} lines.`,
        'Split it into several broadcasts.',
      );
    batch.push(personOf(listId, lines, headings, cells));
    if (batch.length === BATCH) await keep();
  }
  if (!headings || lines === 0) throw invalidText('list', 'There is nobody in it.', 'Give lines below the headings.');
  await keep();
  return { lines, column: headings.names[headings.place] ?? '' };
}

interface Headings {
  names: string[];
  /** Where the addresses are. */
  place: number;
}

function readHeadings(cells: readonly string[], column: string | undefined): Headings {
  const names = cells.map((cell) => cell.trim());
  const place = column === undefined ? names.findIndex(isAddressHeading) : names.indexOf(column);
  if (place === -1)
    throw invalidText(
      'list',
      column === undefined ? 'No heading says where the numbers are.' : `There is no column “${column.slice(0, 60)}”.`,
      'Give the first line headings, such as phone,name.',
    );
  const twice = names.find((name, index) => name !== '' && names.indexOf(name) !== index);
  if (twice !== undefined)
    throw invalidText('list', `Two columns are called “${twice.slice(0, 60)}”.`, 'Give each a name of its own.');
  return { names, place };
}

function isAddressHeading(heading: string): boolean {
  return /^(mobile|phone|cell|tel|telephone|msisdn|number|e-?mail|address|telefon|mobil|handy)/i.test(heading);
}

function personOf(list_id: string, line: number, { names, place }: Headings, cells: string[]): BroadcastPersonRow {
  return {
    list_id,
    line,
    address: (cells[place] ?? '').trim().slice(0, 200),
    fields: Object.fromEntries(
      names.flatMap((name, at) =>
        at === place || name === '' ? [] : [[asMergeField(name), (cells[at] ?? '').trim().slice(0, 500)]],
      ),
    ),
  };
}

/** From now on it is the list of the broadcast. The one before is removed afterwards. */
async function takeList(
  ctx: AppContext,
  unit: Unit,
  actor: Actor,
  { id, listId, version, lines }: { id: string; listId: string; version: number; lines: number },
): Promise<void> {
  const at = ctx.now();
  const row = await reachedBroadcast(unit, actor, id);
  requireDraft(row, version);
  await unit.broadcasts.change(
    { id },
    { list_id: listId, version: row.version + 1, plan: null, plan_problem: null, state: 'draft', changed_at: at },
  );
  await recordAudit(unit, actor, at, {
    action: 'broadcast.list',
    subject: id,
    summary: `Gave the broadcast ${row.name} a list of ${lines} lines`,
  });
  await noteChanges(unit, at, [['broadcast', id]]);
}

/** Lines of a list nobody uses any more, so many in a row. */
export async function removeList(ctx: AppContext, listId: string | null): Promise<void> {
  for (let removed = BATCH; listId !== null && removed >= BATCH; )
    removed = await ctx.store.write(
      (unit) =>
        unit.execute(
          `DELETE FROM broadcast_people WHERE list_id = :id AND line IN
             (SELECT line FROM broadcast_people WHERE list_id = :id ORDER BY line LIMIT :most)`,
          { id: listId, most: BATCH },
        ),
      { durable: false },
    );
}

/** A list of its own with the same lines. Returns null where there is none. */
export async function copyList(ctx: AppContext, { list_id }: Pick<BroadcastRow, 'list_id'>): Promise<string | null> {
  if (list_id === null) return null;
  const copy = newId('bct', ctx.now());
  for (let after = 0, copied = BATCH; copied >= BATCH; after += BATCH)
    copied = await ctx.store.write(
      (unit) =>
        unit.execute(
          `INSERT INTO broadcast_people (list_id, line, address, fields)
             SELECT :copy, line, address, fields FROM broadcast_people WHERE list_id = :id AND line > :after AND line <= :upTo`,
          { copy, id: list_id, after, upTo: after + BATCH },
        ),
      { durable: false },
    );
  return copy;
}

/** How many lines a list has, and what its columns are called. */
export async function describeList(from: Sql, listId: string | null): Promise<{ lines: number; fields: string[] }> {
  if (listId === null) return { lines: 0, fields: [] };
  const [found] = await from.select<{ lines: number; fields: string | null }>(
    `SELECT coalesce(max(line), 0) AS lines, (SELECT fields FROM broadcast_people WHERE list_id = :id ORDER BY line LIMIT 1) AS fields
       FROM broadcast_people WHERE list_id = :id`,
    { id: listId },
  );
  return { lines: found?.lines ?? 0, fields: found?.fields ? Object.keys(JSON.parse(found.fields) as object) : [] };
}
