/**
 * The rows of a watched sheet: which are new, whether so many new ones are to be asked about
 * first, and the run that each becomes. The table of rows seen decides.
 */

import { createHash } from 'node:crypto';
import { fileMark } from '../../../connectors/sheets/sheetFile';
import { type HookDefinition, orderFrom } from '../../../core/hooks/order';
import { NamedError } from '../../../core/namedError';
import { jumpIn } from '../../../core/sheets/identity';
import type { PostedRecord } from '../../../core/text/fields';
import type { HeldRows, SeenRowRow, SheetRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { withPeople } from '../../contacts';
import type { AppContext } from '../../context';
import { beginRuns, type RunInput } from '../../runs';
import { definitionOf } from '../hooks';
import { type Line, linesOf, type Telling, tellingOf } from './sheetLines';

const BATCH = 500;
const SAMPLES = 5;

export interface Scan {
  telling: Telling;
  rows: number;
  /** New rows, that now have a run, a refusal or a reason to be left. */
  fresh: number;
  /** Rows that are known after this scan. */
  known: number;
  samples: PostedRecord[];
  /** New rows that are not sent until somebody says so. */
  held?: HeldRows;
  /** Whether rows are told apart from now on as they were in this scan. */
  settled: boolean;
}

/** The sheet or its file was changed by somebody while it was scanned; it is scanned anew, as it is now. */
export class SheetChanged extends NamedError {
  static override readonly called = 'SheetChanged';
}

/** Reads a whole sheet and sets its new rows on their way, unless they are to be held. */
export async function scanRows(ctx: AppContext, sheet: SheetRow, path: string): Promise<Scan> {
  const version = fileMark(path);
  const definition = await definitionOf(ctx.store, sheet);
  const [known] = await ctx.store.select<{ n: number }>(
    'SELECT EXISTS (SELECT 1 FROM sheet_rows WHERE sheet_id = :id) AS n',
    { id: sheet.id },
  );
  const telling = await tellingOf(ctx, path, sheet, definition, known?.n === 1);
  const first = sheet.scanned_at === null;
  // Who asked for all rows at the beginning was asked already.
  const asked = first || !definition || (sheet.begin_with === 'all' && sheet.known_rows === 0 && !telling.lost.length);
  const held = asked ? undefined : await rowsToHold(ctx, sheet, path, telling);
  const decided = held && sheet.decision?.print === held.print ? sheet.decision.what : undefined;
  const waits = held !== undefined && decided === undefined;
  const scan: Scan = {
    telling,
    rows: 0,
    fresh: 0,
    known: 0,
    samples: [],
    held: waits ? held : undefined,
    // What cannot be recognised stays so until somebody has decided about it.
    settled: !waits && (telling.lost.length === 0 || decided !== undefined),
  };
  const leave = decided === 'known' || (first && sheet.begin_with === 'new');
  for await (const batch of batches(linesOf(ctx, path, sheet, telling))) {
    scan.rows += batch.length;
    const latest = batch.slice(-SAMPLES).reverse();
    scan.samples = [...latest.map(({ record }) => record), ...scan.samples].slice(0, SAMPLES);
    // What was looked at is what is placed: a file that was written meanwhile is looked at anew.
    if (fileMark(path) !== version) throw new SheetChanged();
    const placed = await placeRows(ctx, sheet, batch, scan.held ? 'hold' : leave ? 'leave' : 'send');
    scan.fresh += placed.fresh;
    scan.known += placed.known;
  }
  // Rows that wait for their message are not known yet, and those that were known before are not forgotten for it.
  if (!definition) scan.known = Math.max(scan.known, sheet.known_rows);
  return scan;
}

async function* batches(lines: AsyncIterable<Line>): AsyncGenerator<Line[]> {
  let batch: Line[] = [];
  for await (const line of lines) {
    batch.push(line);
    if (batch.length < BATCH) continue;
    yield batch;
    batch = [];
  }
  if (batch.length > 0) yield batch;
}

/** The new rows of a sheet, when they are so many that they are probably not new. */
async function rowsToHold(
  ctx: AppContext,
  sheet: SheetRow,
  path: string,
  telling: Telling,
): Promise<HeldRows | undefined> {
  const print = createHash('sha256');
  const samples: PostedRecord[] = [];
  let known = 0;
  let fresh = 0;
  for await (const batch of batches(linesOf(ctx, path, sheet, telling))) {
    const seen = await seenKeys(ctx.store, sheet, batch);
    for (const line of batch) {
      if (isSeen(line, seen)) known += 1;
      // What carries the mark is never sent, and so no reason to ask.
      else if (!line.marked) {
        fresh += 1;
        print.update(line.key);
        if (samples.length < SAMPLES) samples.push(line.record);
      }
    }
  }
  const lost = telling.lost.length > 0 && fresh > 0;
  const jump = sheet.holds_jumps ? jumpIn({ fresh, known, knownBefore: sheet.known_rows }) : undefined;
  const why = lost ? 'columns' : jump;
  return why && { at: ctx.now(), rows: fresh, why, lost: telling.lost, print: print.digest('base64url'), samples };
}

function isSeen({ key, keyBefore }: Line, seen: ReadonlySet<string>): boolean {
  return seen.has(key) || (keyBefore !== undefined && seen.has(keyBefore));
}

async function seenKeys(
  { select }: Pick<Unit, 'select'>,
  sheet: SheetRow,
  batch: readonly Line[],
): Promise<Set<string>> {
  const rows = await select<{ row_key: string }>(
    'SELECT row_key FROM sheet_rows WHERE sheet_id = :sheet AND row_key IN (:keys)',
    { sheet: sheet.id, keys: batch.flatMap(({ key, keyBefore }) => (keyBefore ? [key, keyBefore] : [key])) },
  );
  return new Set(rows.map(({ row_key }) => row_key));
}

/**
 * Notes rows that were not seen before and sets those on their way that are to be sent: all
 * of them (`send`), none as they were there before (`leave`), or none for now (`hold`).
 */
function placeRows(
  ctx: AppContext,
  sheet: SheetRow,
  batch: readonly Line[],
  how: 'send' | 'leave' | 'hold',
): Promise<{ fresh: number; known: number }> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    if ((await unit.sheets.one({ id: sheet.id }))?.changed_at !== sheet.changed_at) throw new SheetChanged();
    const seen = await seenKeys(unit, sheet, batch);
    const fresh = batch.filter((line) => !isSeen(line, seen));
    const known = batch.length - fresh.length;
    if (how === 'hold') return { fresh: 0, known };
    await nameAnew(unit, sheet, batch, seen);
    const written = await definitionOf(unit, sheet);
    const definition =
      written &&
      (await withPeople(
        unit,
        written,
        fresh.map(({ record }) => record),
      ));
    const begun: { row: SeenRowRow; run: RunInput }[] = [];
    const rows = fresh.flatMap((line): SeenRowRow[] => {
      const row = seenRow(sheet, line, at);
      if (line.marked || how === 'leave') return [{ ...row, state: 'before' }];
      // Rows wait for the message: they are new again when it is written.
      if (!definition || !sheet.sender) return [];
      const outcome = rowOutcome(sheet, definition, line, row);
      if (outcome.run) begun.push({ row: outcome.row, run: outcome.run });
      return [outcome.row];
    });
    const ids = await beginRuns(
      unit,
      begun.map(({ run }) => run),
      at,
    );
    for (const [index, { row }] of begun.entries()) row.run_id = ids[index] ?? null;
    await unit.seenRows.insert(rows);
    return { fresh: rows.length, known: known + rows.length };
  });
}

/** Rows that are told apart by something else from now on keep what became of them. */
async function nameAnew(unit: Unit, sheet: SheetRow, batch: readonly Line[], seen: ReadonlySet<string>): Promise<void> {
  const names = batch.flatMap(({ key, keyBefore }) =>
    keyBefore && keyBefore !== key && seen.has(keyBefore) && !seen.has(key) ? [[keyBefore, key]] : [],
  );
  if (names.length === 0) return;
  await unit.execute(
    `UPDATE sheet_rows SET row_key = given.value->>1 FROM json_each(:names) AS given
      WHERE sheet_id = :sheet AND row_key IN (:before) AND row_key = given.value->>0`,
    // Named once more, as else each row of the sheet would be looked at.
    { sheet: sheet.id, names: JSON.stringify(names), before: names.map(([before]) => before) },
  );
}

function seenRow(sheet: SheetRow, { key, number }: Line, at: number): Omit<SeenRowRow, 'state'> {
  return { sheet_id: sheet.id, row_key: key, line: number, result: null, run_id: null, seen_at: at, written_at: null };
}

/** What becomes of one new row: a run that sends it, or the reason why there is none. */
function rowOutcome(
  sheet: SheetRow,
  definition: HookDefinition,
  line: Line,
  row: Omit<SeenRowRow, 'state'>,
): { row: SeenRowRow; run?: RunInput } {
  if (sheet.key_column && line.repeated) {
    const result = `Another row has the same “${sheet.key_column}”, so this one is not sent.`;
    return { row: { ...row, state: 'repeated', result } };
  }
  const made = orderFrom(definition, line.record);
  if (!made.ok) {
    const result = made.findings.map(({ problem, remedy }) => `${problem} ${remedy}`).join(' ');
    return { row: { ...row, state: 'refused', result } };
  }
  if (!sheet.sender) throw new Error('A row made a message without a sender');
  return {
    row: { ...row, state: 'taken' },
    run: {
      appId: sheet.app_id,
      source: 'sheet-row',
      sourceId: sheet.id,
      subjectId: `${sheet.id}:${line.number}`,
      steps: [{ kind: 'send', ...made.order, sender: sheet.sender, tags: sheet.tags }],
    },
  };
}
