/** Alerts: what became broken or is about to, with its beginning and its end, as the engine wrote it down. */
import type { AlertRow } from '../../store/schema/rows';
import { type Actor, type AppContext, reachesPage, reachOf, requireRole } from '../context';

export interface AlertView {
  id: number;
  problem: string;
  remedy: string;
  severity: AlertRow['severity'];
  subject: string;
  href: string;
  /** Epoch milliseconds. */
  began: number;
  /** Absent while it lasts. */
  ended?: number;
}

const SHOWN = 300;

/** Those that last, worst and latest first. */
export async function openAlerts(ctx: AppContext, most = SHOWN): Promise<AlertView[]> {
  const rows = await ctx.store.select<AlertRow>(
    `SELECT * FROM alerts WHERE closed_at IS NULL ORDER BY severity = 'error' DESC, opened_at DESC LIMIT :most`,
    { most },
  );
  return rows.map(viewOf);
}

/** For a page: those that last, or those that ended, the latest first. */
export async function listAlerts(ctx: AppContext, actor: Actor, ended: boolean): Promise<AlertView[]> {
  requireRole(actor, 'viewer');
  const reach = await reachOf(ctx.store, actor);
  const reached = (views: AlertView[]) => views.filter(({ href }) => reachesPage(reach, href));
  if (!ended) return reached(await openAlerts(ctx));
  const rows = await ctx.store.select<AlertRow>(
    `SELECT * FROM alerts WHERE closed_at IS NOT NULL ORDER BY closed_at DESC LIMIT ${SHOWN}`,
  );
  return rows.map(viewOf);
}

function viewOf({ id, problem, remedy, severity, subject_name, href, opened_at, closed_at }: AlertRow): AlertView {
  return {
    id: id ?? 0,
    problem,
    remedy: remedy ?? '',
    severity,
    subject: subject_name,
    href: href ?? '/prove/readiness',
    began: opened_at,
    ...(closed_at !== null ? { ended: closed_at } : {}),
  };
}
