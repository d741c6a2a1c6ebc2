/** Alerts: what became broken or is about to, with its beginning and its end, as the engine wrote it down. */
import type { Told } from '../../core/alerts/tellings';
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
  /** Who sees to it. */
  takenBy?: string;
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
  return reached(rows.map(viewOf));
}

export interface ToldView {
  alert: number;
  what: Told;
  /** Such as `mail administrators`. */
  way: string;
  rule: string;
  at: number;
  /** What became of the mail or text; absent for an event. */
  state?: string;
}

/** Who was told of these alerts, in the order in which they were: with their addresses, so for administrators. */
export async function toldOfAlerts(ctx: AppContext, actor: Actor, ids: readonly number[]): Promise<ToldView[]> {
  requireRole(actor, 'administrator');
  const rows = await ctx.store.select<Omit<ToldView, 'state'> & { state: string | null }>(
    `SELECT t.alert_id AS alert, t.what, t.way, t.rule_name AS rule, t.at, r.state FROM alert_tellings t
       LEFT JOIN runs r ON r.id = t.run_id WHERE t.alert_id IN (:ids) ORDER BY t.id`,
    { ids: [...ids] },
  );
  return rows.map(({ state, ...row }) => ({ ...row, ...(state === null ? {} : { state }) }));
}

function viewOf({
  id,
  problem,
  remedy,
  severity,
  subject_name,
  href,
  opened_at,
  closed_at,
  taken_by,
}: AlertRow): AlertView {
  return {
    id: id ?? 0,
    problem,
    remedy: remedy ?? '',
    severity,
    subject: subject_name,
    href: href ?? '/prove/readiness',
    began: opened_at,
    ...(closed_at !== null ? { ended: closed_at } : {}),
    ...(taken_by !== null ? { takenBy: taken_by } : {}),
  };
}
