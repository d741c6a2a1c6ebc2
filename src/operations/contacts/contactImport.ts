/**
 * Contacts out of files. A file is first examined as it would be imported, line by line,
 * with nothing written; then carried out in the background, a batch to a commit, so that
 * it can be watched, ended in between, gone on with after a restart, and undone.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { formatOf, SheetError } from '../../connectors/sheets/sheetFile';
import { CARD_COLUMNS } from '../../connectors/sheets/vcards';
import { guessColumns, type ImportPlan, planProblem, type ReadLine, readLine } from '../../core/contacts/importing';
import { columnNames, rowRecord } from '../../core/sheets/rows';
import { newId } from '../../store/ids';
import type { ImportLineRow, ImportRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { BrokenOff } from '../../workers/apart';
import {
  type Actor,
  type AppContext,
  asViews,
  fileCards,
  fileRows,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { BATCH, carryOut, judge } from './importBatches';

export const LARGEST_IMPORT = 200 * 1024 * 1024;
const SAMPLES = 50;

type Line = { ok: true; record: Record<string, string> } | { ok: false; reason: string };

function pathOf(ctx: AppContext, { file }: Pick<ImportRow, 'file'>): string {
  return join(ctx.config.dataFolder, 'imports', file);
}

/** Keeps the file and guesses what its columns hold. It is examined in the background. */
export async function beginImport(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; content: Buffer; country?: string },
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const ending = input.name.split('.').at(-1)?.toLowerCase() ?? '';
  if (!['csv', 'tsv', 'txt', 'xlsx', 'vcf'].includes(ending))
    throw invalidText('file', 'This is no file of contacts.', 'Choose a CSV, an XLSX or a vCard file (.vcf).');
  if (input.content.length > LARGEST_IMPORT)
    throw invalidText('file', 'The file is over 200 MB.', 'Import it in parts.');
  const at = ctx.now();
  const id = newId('imp', at);
  const file = `${id}.${ending}`;
  mkdirSync(join(ctx.config.dataFolder, 'imports'), { recursive: true, mode: 0o700 });
  writeFileSync(pathOf(ctx, { file }), input.content, { mode: 0o600 });
  const samples: Record<string, string>[] = [];
  let headers: string[] = [];
  try {
    for await (const line of linesOf(ctx, pathOf(ctx, { file }))) {
      if (!line.ok) continue;
      headers = Object.keys(line.record);
      samples.push(line.record);
      if (samples.length === SAMPLES) break;
    }
  } catch (error) {
    if (error instanceof SheetError)
      throw invalidText('file', error.message, 'Save it anew in the program it comes from.');
    throw error;
  }
  if (samples.length === 0)
    throw invalidText('file', 'There is no contact in the file.', 'Its first row is to hold the names of the columns.');
  const country = input.country || null;
  const plan: ImportPlan = { columns: guessColumns(headers, samples, country), country, tags: [], consent: null };
  await ctx.store.write((unit) =>
    unit.imports.insert([
      {
        id,
        name: input.name.slice(0, 200),
        file,
        plan,
        state: 'examining',
        lines: 0,
        ...NOTHING_DONE,
        created_at: at,
        by: actor.name,
        ended_at: null,
        problem: planProblem(plan) ?? null,
      },
    ]),
  );
  ctx.engineWakeUp.ring('imports');
  return { id };
}

const NOTHING_DONE = { done: 0, created: 0, merged: 0, unchanged: 0, refused: 0 };

/** Examines anew with another plan. */
export async function planImport(ctx: AppContext, actor: Actor, id: string, plan: ImportPlan): Promise<void> {
  requireRole(actor, 'administrator');
  const problem = planProblem(plan);
  if (problem) throw invalidText('columns', problem, 'Correct it and examine again.');
  await ctx.store.write(async (unit) => {
    found(await unit.imports.one({ id, state: ['preview', 'examining'] }), 'import that has not begun');
    await unit.imports.change({ id }, { plan, state: 'examining', ...NOTHING_DONE, problem: null });
    await unit.importLines.remove({ import_id: id });
    await noteChanges(unit, ctx.now(), [['import', id]]);
  });
  ctx.engineWakeUp.ring('imports');
}

/** `plan`: as whoever presses the button sees it; one that was changed and not examined is not imported by. */
export async function runImport(ctx: AppContext, actor: Actor, id: string, plan?: ImportPlan): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = found(await unit.imports.one({ id }), 'import');
    if (row.state !== 'preview') throw new OperationError('conflict', 'This import is under way or over.');
    if (plan && !isDeepStrictEqual(plan, row.plan))
      throw new OperationError(
        'conflict',
        'What is shown was changed and not examined yet. Examine again, then import.',
      );
    const problem = planProblem(row.plan);
    if (problem) throw invalidText('columns', problem, 'Correct it and examine again.');
    await unit.imports.change({ id }, { state: 'running', ...NOTHING_DONE });
    await unit.importLines.remove({ import_id: id });
    await recordAudit(unit, actor, at, {
      action: 'import.begun',
      subject: id,
      summary: `Began to import ${row.name}, ${row.lines} lines`,
    });
    await noteChanges(unit, at, [['import', id]]);
  });
  ctx.engineWakeUp.ring('imports');
}

/** Ends after the batch under way; what was imported stays and can be undone. */
export async function cancelImport(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const changed = await unit.imports.change(
      { id, state: ['running', 'examining', 'preview'] },
      { state: 'cancelled', ended_at: at },
    );
    if (changed === 0) throw new OperationError('conflict', 'This import is over already.');
    await noteChanges(unit, at, [['import', id]]);
  });
}

/** Goes on with every import that has something to do, until it is asked to leave off. */
export async function workImports(ctx: AppContext, leaveOff: () => boolean): Promise<undefined> {
  for (const row of await ctx.store.imports.all({ state: ['examining', 'running'] }, { order: [['id', 'ASC']] })) {
    try {
      await workThrough(ctx, row, leaveOff);
    } catch (error) {
      // It goes on where it ended, with the next start.
      if (error instanceof BrokenOff) return undefined;
      const problem = error instanceof SheetError ? error.message : 'The file could not be processed; see the log.';
      if (!(error instanceof SheetError)) ctx.log.error({ err: error, import: row.id }, 'an import failed');
      await ctx.store.write(async (unit) => {
        await unit.imports.change({ id: row.id }, { state: 'failed', problem, ended_at: ctx.now() });
        await noteChanges(unit, ctx.now(), [['import', row.id]]);
      });
    }
  }
  return undefined;
}

async function workThrough(ctx: AppContext, row: ImportRow, leaveOff: () => boolean): Promise<void> {
  let number = 0;
  /** Lines that are placed by the plan of `row`. */
  let placed = row.done;
  let batch: { number: number; line: ReadLine }[] = [];
  const seen = new Set<string>();
  const place = async (last: boolean) => {
    const going = await ctx.store.write((unit) => placeBatch(ctx, unit, { row, batch, seen, last, done: placed }), {
      durable: false,
    });
    placed += batch.length;
    batch = [];
    return going;
  };
  for await (const line of linesOf(ctx, pathOf(ctx, row))) {
    number += 1;
    if (number <= row.done) continue;
    batch.push({ number, line: line.ok ? readLine(line.record, row.plan) : line });
    if (batch.length < BATCH) continue;
    if (!(await place(false)) || leaveOff()) return;
  }
  await place(true);
}

/** Every filled row of a sheet by its headers, or every card. Throws SheetError where the file is not what its name says. */
async function* linesOf(ctx: AppContext, path: string): AsyncGenerator<Line> {
  if (path.endsWith('.vcf')) {
    for await (const card of fileCards(ctx, path))
      yield card.ok
        ? { ok: true, record: Object.fromEntries(CARD_COLUMNS.map((name) => [name, card.record[name] ?? ''])) }
        : card;
    return;
  }
  let names: string[] | undefined;
  for await (const cells of fileRows(ctx, path, formatOf(path) ?? 'csv')) {
    if (!names) {
      names = columnNames(cells);
      continue;
    }
    const record = rowRecord(names, cells);
    if (record) yield { ok: true, record: record as Record<string, string> };
  }
}

interface Place {
  row: ImportRow;
  batch: readonly { number: number; line: ReadLine }[];
  seen: Set<string>;
  last: boolean;
  /** Lines that were placed before these. */
  done: number;
}

/** Returns whether there is more to do: somebody may have ended it meanwhile. */
async function placeBatch(
  ctx: AppContext,
  unit: Unit,
  { row: { id, plan, by }, batch, seen, last, done: placed }: Place,
): Promise<boolean> {
  const at = ctx.now();
  const now = await unit.imports.one({ id });
  if (now?.state !== 'examining' && now?.state !== 'running') return false;
  // Somebody changed the plan, or began the import, while this was under way: it begins anew, by what holds now.
  if (now.done !== placed || !isDeepStrictEqual(now.plan, plan)) return false;
  const write = now.state === 'running';
  const outcomes = await judge(unit, batch, plan, seen);
  if (write) await carryOut(unit, outcomes, { id, plan, by, at });
  await unit.importLines.insert(
    outcomes.map(({ number, outcome, reason, contact, before }) => ({
      import_id: id,
      line: number,
      outcome,
      reason: reason ?? null,
      contact_id: write ? (contact?.id ?? null) : null,
      before: write ? (before ?? null) : null,
    })),
  );
  const count = (outcome: ImportLineRow['outcome']) => outcomes.filter((entry) => entry.outcome === outcome).length;
  const done = now.done + batch.length;
  await unit.imports.change(
    { id },
    {
      done,
      lines: Math.max(now.lines, done),
      created: now.created + count('created'),
      merged: now.merged + count('merged'),
      unchanged: now.unchanged + count('unchanged'),
      refused: now.refused + count('refused'),
      ...(last ? { state: write ? ('done' as const) : ('preview' as const), ended_at: write ? at : null } : {}),
    },
  );
  await noteChanges(unit, at, [['import', id]]);
  return !last;
}

export interface ImportPage {
  row: ImportRow;
  /** The first lines that are refused, with their reasons. */
  refused: ImportLineRow[];
  samples: Record<string, string>[];
}

export async function listImports(ctx: AppContext, actor: Actor): Promise<View<ImportRow>[]> {
  requireRole(actor, 'administrator');
  return asViews(await ctx.store.imports.all(undefined, { order: [['id', 'DESC']], limit: 50 }));
}

export async function getImport(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { after = 0, most = 200 } = {},
): Promise<ImportPage> {
  requireRole(actor, 'administrator');
  const row = found(await ctx.store.imports.one({ id }), 'import');
  const refused = await ctx.store.select<ImportLineRow>(
    `SELECT * FROM import_lines WHERE import_id = :id AND outcome = 'refused' AND line > :after ORDER BY line LIMIT :most`,
    { id, after, most },
  );
  const samples: Record<string, string>[] = [];
  for await (const line of linesOf(ctx, pathOf(ctx, row))) {
    if (line.ok) samples.push(line.record);
    if (samples.length === 5) break;
  }
  return { row, refused, samples };
}

const ABANDONED = 86_400_000;

/** Removes files of imports that are no longer kept. */
export async function removeImportFiles(ctx: AppContext): Promise<void> {
  const folder = join(ctx.config.dataFolder, 'imports');
  const files = await readdir(folder).catch(() => []);
  if (files.length === 0) return;
  const known = new Set((await ctx.store.select<{ file: string }>('SELECT file FROM imports')).map(({ file }) => file));
  for (const file of files) {
    const path = join(folder, file);
    // One whose row is not written yet is young.
    if (known.has(file) || ctx.now() - (await stat(path)).mtimeMs < ABANDONED) continue;
    await rm(path);
  }
}
