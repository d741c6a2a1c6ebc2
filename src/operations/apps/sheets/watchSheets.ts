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
import { BrokenOff } from '../../../workers/apart';
import { type AppContext, noteChanges } from '../../context';
import { fault, recordFacts } from '../../proofs';
import { createBeside } from '../../workQueue';
import { writeResults } from './sheetResults';
import { type Scan, SheetChanged, scanRows } from './sheetRows';
import { isAddress, sheetPath } from './sheets';

/** A file that changed less than this ago may still be being written. */
const SETTLED = 500;
/** How often an address is asked whether its sheet has changed. */
const ADDRESS_EVERY = 60_000;
const LARGEST_DOWNLOAD = 64 * 1024 * 1024;

/** Sheets that could not be read are read again after this, then ever more seldom. */
const FIRST_RETRY = 30_000;
const LAST_RETRY = 60 * 60_000;
/** Read beside one another: each may take as long as a download does. */
const AT_ONCE = 4;

export interface SheetWatch {
  /** Begins to look at every watched sheet whose time has come. */
  round(): Promise<undefined>;
  drained(): Promise<void>;
}

/** What is wrong with one, foreseen or not, keeps none of the others waiting. */
export function createSheetWatch(ctx: AppContext): SheetWatch {
  const beside = createBeside(AT_ONCE);
  return {
    async round() {
      const watched = await ctx.store.select<{ id: string }>(
        `SELECT id FROM sheets WHERE way = 'watch' AND disabled_at IS NULL ORDER BY id`,
      );
      for (const { id } of watched) beside.begin(id, () => look(ctx, id));
      return undefined;
    },
    drained: () => beside.drained(),
  };
}

async function look(ctx: AppContext, id: string): Promise<void> {
  try {
    const [sheet] = await ctx.store.sheets.readableBy('id', [id]);
    if (sheet && sheet.disabled_at === null) await lookAt(ctx, sheet);
  } catch (error) {
    ctx.log.error({ err: error, sheet: id }, 'a sheet could not be looked at');
  }
}

async function lookAt(ctx: AppContext, sheet: SheetRow): Promise<void> {
  let mark: string | null = null;
  try {
    const place = await currentFile(ctx, sheet);
    mark = place?.mark ?? null;
    if (place && place.mark !== sheet.file_mark && !waits(ctx, sheet, place.mark)) {
      const scan = await scanRows(ctx, sheet, place.path);
      await noteScan(ctx, sheet, scan, place.mark);
      if (scan.fresh > 0) ctx.engineWakeUp.ring('runs');
    }
    await writeResults(ctx, sheet.id);
  } catch (error) {
    // Changed meanwhile, or left with the process: it is read anew.
    if (error instanceof SheetChanged || error instanceof BrokenOff) return;
    // What is the store's own trouble is no fault of the sheet's, and passes.
    if (isStoreTrouble(error)) return ctx.log.error({ err: error, sheet: sheet.id }, 'a sheet could not be noted');
    const foreseen = error instanceof SheetError;
    if (!foreseen) ctx.log.error({ err: error, sheet: sheet.id }, 'a sheet could not be processed');
    const problem = foreseen ? error.message : `It could not be processed: ${(error as Error).message}`;
    await noteProblem(ctx, sheet, problem, mark).catch((trouble) =>
      ctx.log.error({ err: trouble, sheet: sheet.id }, 'a sheet’s problem could not be noted'),
    );
  }
}

/** The file that could not be read is not read again at once; another one is. */
function waits(ctx: AppContext, sheet: SheetRow, mark: string): boolean {
  return sheet.failed_mark === mark && ctx.now() < (sheet.retry_at ?? 0);
}

async function noteProblem(ctx: AppContext, sheet: SheetRow, problem: string, mark: string | null): Promise<void> {
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const retry = Math.min(FIRST_RETRY * 2 ** sheet.failures, LAST_RETRY);
    const tried = { failures: sheet.failures + 1, failed_mark: mark, retry_at: at + retry };
    const { id, changed_at } = sheet;
    // Who changed the sheet meanwhile wants it read again at once.
    await unit.sheets.change({ id, changed_at }, { ...tried, problem, file_mark: null });
    if (sheet.problem === problem) return;
    await recordFacts(unit, [fault(id, 'sheet-not-read', at, id)], at);
    await noteChanges(unit, at, [['run', id]]);
  });
}

const READ = { failures: 0, failed_mark: null, retry_at: null };

function noteScan(ctx: AppContext, sheet: SheetRow, scan: Scan, mark: string): Promise<void> {
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const { rows, samples, held, telling, known, settled } = scan;
    const seen = { file_mark: mark, scanned_at: at, row_count: rows, samples, problem: null, decision: null, ...READ };
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
  if (ctx.now() < (sheet.retry_at ?? 0)) return undefined;
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
