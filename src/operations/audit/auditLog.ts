/** The record of who did what, read: filtered, searched, page by page, and as a file. */
import { stringify } from 'csv-stringify/sync';
import { neutralised } from '../../core/sheets/rows';
import type { AuditRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  areAdministratorsByTeam,
  asViews,
  recordAudit,
  requireRole,
  type View,
} from '../context';

export interface AuditFilter {
  /** Id of whoever did it. */
  who?: string;
  /** What it was about: the part of an action before its point, such as `person`. */
  area?: string;
  /** Id of what it was done to. */
  subject?: string;
  /** Epoch milliseconds; from and before. */
  since?: number;
  until?: number;
  /** Part of what was written, or of a name. */
  search?: string;
  /** Id of the last entry already seen; older ones follow. */
  before?: string;
  limit?: number;
}

export interface AuditPage {
  entries: View<AuditRow>[];
  /** Give as `before` for the next page. */
  next?: string;
}

/** The record tells of everything, so where administrators see what their teams reach it is for owners. */
async function requireRecord(ctx: AppContext, actor: Actor): Promise<void> {
  requireRole(actor, (await areAdministratorsByTeam(ctx.store)) ? 'owner' : 'administrator');
}

/** Newest first. */
export async function listAudit(ctx: AppContext, actor: Actor, filter: AuditFilter = {}): Promise<AuditPage> {
  await requireRecord(ctx, actor);
  const { rows, next } = await auditRows(ctx, filter);
  return { entries: asViews(rows), ...(next ? { next } : {}) };
}

async function auditRows(ctx: AppContext, filter: AuditFilter): Promise<{ rows: AuditRow[]; next?: string }> {
  const limit = Math.min(filter.limit ?? 100, 1000);
  const conditions = [
    filter.who && 'actor_id = :who',
    filter.area && `action LIKE :area || '.%'`,
    filter.subject && 'subject_id = :subject',
    filter.since !== undefined && 'at >= :since',
    filter.until !== undefined && 'at < :until',
    filter.search?.trim() && '(summary LIKE :like OR actor_name LIKE :like OR action LIKE :like)',
    filter.before && 'id < :before',
  ].filter(Boolean);
  const found = await ctx.store.select<AuditRow>(
    `SELECT * FROM audit_entries ${conditions.length > 0 ? `WHERE ${conditions.join(' AND ')}` : ''}
      ORDER BY id DESC LIMIT :most`,
    { ...filter, like: `%${(filter.search ?? '').trim().replace(/[%_]/g, '')}%`, most: limit + 1 },
  );
  const rows = ctx.store.audit.read(found.slice(0, limit));
  return { rows, next: found.length > limit ? rows.at(-1)?.id : undefined };
}

export interface AuditChoices {
  people: [string, string][];
  areas: string[];
}

/** What the record can be narrowed by: only what occurs. */
export async function auditChoices(ctx: AppContext, actor: Actor): Promise<AuditChoices> {
  await requireRecord(ctx, actor);
  const [people, areas] = await Promise.all([
    ctx.store.select<{ id: string; name: string }>(
      `SELECT actor_id AS id, max(actor_name) AS name FROM audit_entries GROUP BY actor_id ORDER BY name LIMIT 300`,
    ),
    ctx.store.select<{ area: string }>(
      `SELECT DISTINCT substr(action, 1, instr(action, '.') - 1) AS area FROM audit_entries WHERE instr(action, '.') > 1 ORDER BY 1`,
    ),
  ]);
  return { people: people.map(({ id, name }) => [id, name]), areas: areas.map(({ area }) => area) };
}

const COLUMNS = ['place', 'time', 'who', 'who_id', 'action', 'subject', 'what', 'digest'];

/** The record as a file, piece by piece while it is read; that it was taken out is on record, too. */
export async function* exportAudit(
  ctx: AppContext,
  actor: Actor,
  { format, ...filter }: AuditFilter & { format: 'csv' | 'jsonl' },
): AsyncGenerator<string, void, undefined> {
  await requireRecord(ctx, actor);
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'audit.exported',
      subject: 'audit',
      summary: `Exported the audit as ${format}`,
    }),
  );
  if (format === 'csv') yield `\ufeff${stringify([COLUMNS])}`;
  let { before } = filter;
  for (;;) {
    const page = await auditRows(ctx, { ...filter, before, limit: 1000 });
    if (page.rows.length === 0) return;
    yield format === 'jsonl'
      ? page.rows.map((row) => `${JSON.stringify({ ...row, at: new Date(row.at).toISOString() })}\n`).join('')
      : stringify(page.rows.map(cellsOf));
    if (!page.next) return;
    before = page.next;
  }
}

function cellsOf({ place, at, actor_name, actor_id, action, subject_id, summary, digest }: AuditRow): string[] {
  const written = [actor_name, actor_id, action, subject_id, summary].map(neutralised);
  return [String(place ?? ''), new Date(at).toISOString(), ...written, digest ?? ''];
}
