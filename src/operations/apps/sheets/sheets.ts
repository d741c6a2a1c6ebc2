/** Sheets: files and addresses whose new rows become messages, and files that messages are appended to. */

import { readdirSync } from 'node:fs';
import { basename, join } from 'node:path';
import { formatOf } from '../../../connectors/sheets/sheetFile';
import type { KnownPeople } from '../../../core/contacts/attributes';
import { examineHook, type HookExamination } from '../../../core/hooks/examineHook';
import { mergeText } from '../../../core/text/merge';
import { newId } from '../../../store/ids';
import type { HeldDecision, RunRow, SeenRowRow, SheetColumn, SheetRow } from '../../../store/schema/rows';
import { knownIn, withPeople } from '../../contacts';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  invalid,
  invalidText,
  OperationError,
  requireReached,
  requireRole,
  type View,
} from '../../context';
import { beginProofs, groupProofs, type HopProof } from '../../proofs';
import { noteAutomation } from '../../runs';
import { definitionOf, type HookInput, readMessage } from '../hooks';
import { EXAMPLE } from '../records';

/** A name in the folder for sheets; never a way out of it. */
export function sheetPath(ctx: AppContext, source: string): string {
  return join(ctx.config.sheetsFolder, basename(source));
}

export function isAddress(source: string): boolean {
  return /^https?:\/\//.test(source);
}

function readSource(text: string): string {
  const source = text.trim();
  if (!formatOf(source)) {
    const remedy = 'Its name ends in .csv or .xlsx.';
    throw invalidText('source', `“${source}” is no sheet that can be read.`, remedy);
  }
  if (!isAddress(source) && source !== basename(source))
    throw invalidText('source', 'A file is given by its name alone.', 'Put it into the folder for sheets.');
  return source;
}

function hopsOf({ way }: Pick<SheetRow, 'way'>) {
  return way === 'watch' ? (['call-in'] as const) : (['call-out'] as const);
}

export interface WatchInput {
  name: string;
  source: string;
  begin: 'new' | 'all';
  keyColumn?: string;
}

/** Begins to watch a sheet. Its message is written afterwards, when its columns are known; until then no row is sent. */
export async function watchSheet(
  ctx: AppContext,
  actor: Actor,
  appId: string,
  input: WatchInput,
): Promise<{ id: string }> {
  return addSheet(ctx, actor, appId, {
    ...blank(input.name),
    way: 'watch',
    source: readSource(input.source),
    begin_with: input.begin,
    key_column: input.keyColumn?.trim() || null,
  });
}

export interface AppendInput {
  name: string;
  source: string;
  columns: SheetColumn[];
  channels?: string[];
}

export async function appendToSheet(
  ctx: AppContext,
  actor: Actor,
  appId: string,
  input: AppendInput,
): Promise<{ id: string }> {
  const columns = input.columns
    .map(({ header, fill }) => ({ header: header.replace(/\s+/g, ' ').trim(), fill: fill.trim() }))
    .filter(({ header }) => header !== '');
  if (columns.length === 0) throw invalidText('columns', 'The sheet has no column.', 'Name at least one.');
  for (const { header, fill } of columns) {
    const [finding] = mergeText(fill, EXAMPLE, { tokensMayStay: true }).findings;
    if (finding && finding.code !== 'field-empty')
      throw invalid('columns', { ...finding, problem: `${header}: ${finding.problem}` });
  }
  const source = readSource(input.source);
  if (isAddress(source))
    throw invalidText('source', 'Rows can be added to a file only.', 'Give its name in the folder for sheets.');
  const channels = input.channels?.length ? input.channels : null;
  return addSheet(ctx, actor, appId, { ...blank(input.name), way: 'append', source, columns, channels });
}

type Fresh = Omit<SheetRow, 'id' | 'app_id' | 'created_at' | 'changed_at'>;

function blank(name: string): Omit<Fresh, 'way' | 'source'> {
  return {
    name: name.trim(),
    by_route: 0,
    text: '',
    phone_field: '',
    country: null,
    sender: null,
    media_field: null,
    tags: [],
    template: null,
    key_column: null,
    columns: [],
    channels: null,
    begin_with: 'new',
    file_mark: null,
    scanned_at: null,
    failures: 0,
    failed_mark: null,
    retry_at: null,
    row_count: 0,
    samples: [],
    problem: null,
    header: null,
    identity: null,
    known_rows: 0,
    held: null,
    decision: null,
    holds_jumps: 1,
    disabled_at: null,
  };
}

async function addSheet(ctx: AppContext, actor: Actor, appId: string, fresh: Fresh): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'app', appId);
  const app = found(await ctx.store.apps.one({ id: appId }), 'app');
  if (!fresh.name) throw invalidText('name', 'The sheet has no name.', 'Say what it is, such as “Closures”.');
  const at = ctx.now();
  const id = newId('sht', at);
  await ctx.store.write(async (unit) => {
    await unit.sheets.insert([{ id, app_id: app.id, ...fresh, created_at: at, changed_at: at }]);
    await beginProofs(unit, id, hopsOf(fresh), at);
    await noteAutomation(
      unit,
      actor,
      at,
      { id, app_id: app.id },
      { action: 'sheet.added', summary: `Added the sheet “${fresh.name}”` },
    );
  });
  ctx.engineWakeUp.ring('sheets');
  return { id };
}

/** What the rows of a watched sheet become. */
export async function changeSheet(ctx: AppContext, actor: Actor, id: string, input: HookInput): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.sheets.one({ id }), 'sheet');
    await requireReached(unit, actor, 'app', before.app_id);
    const message = await readMessage(unit, input);
    const name = input.name.trim() || before.name;
    // It is read again, so that rows that waited for the message are sent.
    await unit.sheets.change({ id }, { ...message, name, file_mark: null, retry_at: null, changed_at: at });
    await noteAutomation(unit, actor, at, before, {
      action: 'sheet.changed',
      summary: `Changed what rows of “${name}” become`,
      touches: hopsOf(before),
      note: 'its message was changed',
    });
  });
  ctx.engineWakeUp.ring('sheets');
}

export async function switchSheet(ctx: AppContext, actor: Actor, id: string, on: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.sheets.one({ id }), 'sheet');
    await requireReached(unit, actor, 'app', before.app_id);
    await unit.sheets.change({ id }, { disabled_at: on ? null : at });
    const word = on ? 'on' : 'off';
    await noteAutomation(unit, actor, at, before, {
      action: `sheet.${word}`,
      summary: `Switched the sheet “${before.name}” ${word}`,
      touches: hopsOf(before),
      note: `it was switched ${word}`,
    });
  });
  ctx.engineWakeUp.ring('sheets');
}

/**
 * Says what the rows are that a sheet holds: to be sent, or known already and left. `print` is
 * that of the rows somebody saw; where others are held by now, they are asked about anew.
 */
export async function decideHeldRows(
  ctx: AppContext,
  actor: Actor,
  id: string,
  { what, print }: Pick<HeldDecision, 'what' | 'print'>,
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const sheet = found(await unit.sheets.one({ id }), 'sheet');
    await requireReached(unit, actor, 'app', sheet.app_id);
    if (sheet.held?.print !== print)
      throw new OperationError('conflict', 'The rows that are held have changed meanwhile. Look at them again.');
    const rows = sheet.held.rows === 1 ? '1 row' : `${sheet.held.rows} rows`;
    await unit.sheets.change(
      { id },
      { decision: { what, print, by: actor.name }, file_mark: null, retry_at: null, changed_at: at },
    );
    await noteAutomation(unit, actor, at, sheet, {
      action: `sheet.rows-${what}`,
      summary:
        what === 'send'
          ? `Released ${rows} of “${sheet.name}” to be sent`
          : `Marked ${rows} of “${sheet.name}” as known, not to be sent`,
      touches: hopsOf(sheet),
      note: 'what was held was decided',
    });
  });
  ctx.engineWakeUp.ring('sheets');
}

/** Whether unusually many new rows are held until somebody decides, as is right unless a sheet is replaced as a whole each time. */
export async function holdJumps(ctx: AppContext, actor: Actor, id: string, hold: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const sheet = found(await unit.sheets.one({ id }), 'sheet');
    await requireReached(unit, actor, 'app', sheet.app_id);
    await unit.sheets.change({ id }, { holds_jumps: hold ? 1 : 0 });
    await noteAutomation(unit, actor, at, sheet, {
      action: 'sheet.holds-jumps',
      summary: hold
        ? `Unusually many new rows of “${sheet.name}” are held from now on`
        : `All new rows of “${sheet.name}” are sent at once from now on`,
    });
  });
}

export interface SheetRowView {
  row: View<SeenRowRow>;
  run?: View<Pick<RunRow, 'state' | 'results' | 'due_at' | 'subject_id' | 'created_at'>>;
}

export interface SheetView {
  sheet: View<SheetRow>;
  /** Those whom the latest rows name. */
  people: KnownPeople;
  proofs: HopProof[];
  examination?: HookExamination;
  counts: { before: number; taken: number; refused: number; repeated: number };
  /** The latest rows of a watched sheet, or the latest messages of an appended one. */
  rows: SheetRowView[];
}

const ROWS_SHOWN = 20;

export async function listSheets(ctx: AppContext, actor: Actor, appId: string): Promise<SheetView[]> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'app', appId);
  const sheets = await ctx.store.sheets.all({ app_id: appId }, { order: [['id', 'ASC']] });
  const proofs = groupProofs(await ctx.store.proofs.all({ subject_id: sheets.map(({ id }) => id) }), ctx.now());
  return Promise.all(sheets.map((sheet) => viewSheet(ctx, sheet, proofs.get(sheet.id) ?? [])));
}

async function viewSheet(ctx: AppContext, sheet: SheetRow, proofs: HopProof[]): Promise<SheetView> {
  const counted = await ctx.store.select<{ state: SeenRowRow['state']; n: number }>(
    'SELECT state, count(*) AS n FROM sheet_rows WHERE sheet_id = :id GROUP BY state',
    { id: sheet.id },
  );
  const counts = {
    before: 0,
    taken: 0,
    refused: 0,
    repeated: 0,
    ...Object.fromEntries(counted.map(({ state, n }) => [state, n])),
  };
  const written = await definitionOf(ctx.store, sheet);
  const definition = written && (await withPeople(ctx.store, written, sheet.samples));
  return {
    sheet: asView(sheet),
    people: await knownIn(ctx.store, sheet.samples, sheet.country ?? undefined),
    proofs,
    counts,
    examination: definition && sheet.samples.length > 0 ? examineHook(definition, sheet.samples) : undefined,
    rows: sheet.way === 'watch' ? await latestRows(ctx, sheet) : await latestAppended(ctx, sheet),
  };
}

async function latestRows(ctx: AppContext, sheet: SheetRow): Promise<SheetRowView[]> {
  const rows = await ctx.store.select<SeenRowRow>(
    `SELECT * FROM sheet_rows WHERE sheet_id = :id AND state <> 'before' ORDER BY seen_at DESC, line DESC LIMIT ${ROWS_SHOWN}`,
    { id: sheet.id },
  );
  const ids = rows.flatMap(({ run_id }) => run_id ?? []);
  const runs = new Map((await ctx.store.runs.allBy('id', ids)).map((run) => [run.id, asView(run)]));
  return rows.map((row) => ({ row: asView(row), run: runs.get(row.run_id ?? '') }));
}

async function latestAppended(ctx: AppContext, sheet: SheetRow): Promise<SheetRowView[]> {
  const runs = await ctx.store.runs.all({ source_id: sheet.id }, { order: [['id', 'DESC']], limit: ROWS_SHOWN });
  return runs.map((run) => ({
    run: asView(run),
    row: {
      sheetId: sheet.id,
      rowKey: run.id,
      line: 0,
      state: 'taken',
      result: null,
      runId: run.id,
      seenAt: run.created_at,
      writtenAt: run.ended_at,
    },
  }));
}

/** Files that lie in the folder for sheets. */
export function sheetFiles(ctx: AppContext): string[] {
  return readdirSync(ctx.config.sheetsFolder)
    .filter((name) => formatOf(name) && !name.endsWith('.windgap-new'))
    .sort();
}
