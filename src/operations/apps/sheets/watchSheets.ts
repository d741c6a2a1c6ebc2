/**
 * Watched sheets: read when they change, each new row set on its way once, and what became of
 * it written back. The table of rows seen decides; the mark in the file is for people, and for
 * a sheet that is added anew.
 */
import { renameSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileMark, formatOf, SheetError } from '../../../connectors/sheets/sheetFile';
import type { SheetRow } from '../../../store/schema/rows';
import { isStoreTrouble } from '../../../store/trouble';
import { type AppContext, noteChanges } from '../../context';
import { fault, recordFacts } from '../../proofs';
import { writeResults } from './sheetResults';
import { type Scan, SheetChanged, scanRows } from './sheetRows';
import { isAddress, sheetPath } from './sheets';

/** A file that changed less than this ago may still be being written. */
const SETTLED = 500;
/** How often an address is asked whether its sheet has changed. */
const ADDRESS_EVERY = 60_000;
const LARGEST_DOWNLOAD = 64 * 1024 * 1024;

/** Looks at every watched sheet. Returns how many rows were new. */
export async function scanSheets(ctx: AppContext): Promise<number> {
  const sheets = await ctx.store.sheets.all({ way: 'watch', disabled_at: null });
  let fresh = 0;
  for (const sheet of sheets) {
    try {
      fresh += await scanSheet(ctx, sheet);
      await writeResults(ctx, sheet.id);
    } catch (error) {
      // What is wrong with one sheet, foreseen or not, keeps none of the others from being read.
      if (isStoreTrouble(error)) throw error;
      if (error instanceof SheetChanged) continue;
      if (error instanceof SheetError) await noteProblem(ctx, sheet, error.message);
      else {
        ctx.log.error({ err: error, sheet: sheet.id }, 'a sheet could not be processed');
        await noteProblem(ctx, sheet, `It could not be processed: ${(error as Error).message}`);
      }
    }
  }
  if (fresh > 0) ctx.engineWakeUp.ring('runs');
  return fresh;
}

async function noteProblem(ctx: AppContext, sheet: SheetRow, problem: string): Promise<void> {
  if (sheet.problem === problem) return;
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    await unit.sheets.change({ id: sheet.id }, { problem, file_mark: null });
    await recordFacts(unit, [fault(sheet.id, 'sheet-not-read', at, sheet.id)], at);
    await noteChanges(unit, at, [['run', sheet.id]]);
  });
}

async function scanSheet(ctx: AppContext, sheet: SheetRow): Promise<number> {
  const place = await currentFile(ctx, sheet);
  if (!place || place.mark === sheet.file_mark) return 0;
  const scan = await scanRows(ctx, sheet, place.path);
  await noteScan(ctx, sheet, scan, place.mark);
  return scan.fresh;
}

function noteScan(ctx: AppContext, sheet: SheetRow, scan: Scan, mark: string): Promise<void> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const { rows, samples, held, telling, known, settled } = scan;
    const seen = { file_mark: mark, scanned_at: at, row_count: rows, samples, problem: null, decision: null };
    // While rows are held, what is known of the others stays what it was, so that they can still be recognised.
    const learned = settled ? { header: telling.header, identity: telling.identity, known_rows: known } : {};
    // Who changed the sheet meanwhile wants it read again.
    const { id, changed_at } = sheet;
    const noted = await unit.sheets.change({ id, changed_at }, { ...seen, ...learned, held: held ?? null });
    if (noted === 0) return;
    if (held && sheet.held?.print !== held.print)
      await recordFacts(unit, [fault(sheet.id, 'sheet-rows-held', at, sheet.id)], at);
    await noteChanges(unit, at, [['run', sheet.id]]);
  });
}

/** The file to read and what changes when it does; undefined while it is being written or not due. */
async function currentFile(ctx: AppContext, sheet: SheetRow): Promise<{ path: string; mark: string } | undefined> {
  if (!isAddress(sheet.source)) {
    const path = sheetPath(ctx, sheet.source);
    const mark = fileMark(path);
    return ctx.now() - statSync(path).mtimeMs < SETTLED ? undefined : { path, mark };
  }
  if (sheet.file_mark !== null && ctx.now() - (sheet.scanned_at ?? 0) < ADDRESS_EVERY) return undefined;
  return download(ctx, sheet);
}

async function download(ctx: AppContext, sheet: SheetRow): Promise<{ path: string; mark: string } | undefined> {
  const known: Record<string, string> = sheet.file_mark?.startsWith('etag ')
    ? { 'if-none-match': sheet.file_mark.slice(5) }
    : {};
  const answer = await ctx
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
    await ctx.store.write((unit) => unit.sheets.change({ id: sheet.id }, { scanned_at: ctx.now() }));
    return undefined;
  }
  if (answer.status !== 200) throw new SheetError(`${sheet.source} answered ${answer.status} instead of a sheet.`);
  if (/text\/html/.test(answer.headers['content-type'] ?? ''))
    throw new SheetError(`${sheet.source} answered with a web page, such as one to sign in, instead of a sheet.`);
  const path = join(ctx.config.dataFolder, `${sheet.id}.${formatOf(sheet.source)}`);
  writeFileSync(`${path}.new`, Buffer.from(answer.body, 'latin1'), { mode: 0o600 });
  renameSync(`${path}.new`, path);
  return { path, mark: answer.headers.etag ? `etag ${answer.headers.etag}` : `read ${ctx.now()}` };
}
