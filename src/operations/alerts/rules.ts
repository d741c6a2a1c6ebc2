/** Who is told of alerts: rules that administrators keep, times of work, and who sees to an alert. */
import { normaliseAddress } from '../../core/addresses/address';
import { type AlertRule, type AlertSeverity, type TellWay, wayKey } from '../../core/alerts/tellings';
import { newId } from '../../store/ids';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
} from '../context';
import { tellTest } from './tell';

const MINUTE = 60_000;
const MOST_MINUTES = 24 * 60;
const MOST_WAYS = 20;
const LONGEST_WINDOW_HOURS = 14 * 24;

export interface RuleInput {
  id?: string;
  name: string;
  from: string;
  /** Only of what belongs to this team; empty for all. */
  team: string;
  /** Addresses, `administrators` and names of teams, in lines. */
  mailTo: string;
  /** Phones, separated by commas. */
  phones: string;
  /** Ids of apps. */
  apps: readonly string[];
  afterMinutes: string;
  /** `22:00`; both empty for none. */
  quietFrom: string;
  quietUntil: string;
  zone: string;
  quietButErrors: boolean;
  /** Empty for no escalation. */
  escalateAfter: string;
  escalateMailTo: string;
  escalatePhones: string;
  enabled: boolean;
}

export interface RuleView extends AlertRule {
  enabled: boolean;
}

export async function listRules(ctx: AppContext, actor: Actor): Promise<RuleView[]> {
  requireRole(actor, 'administrator');
  const rows = await ctx.store.alertRules.all(undefined, { order: [['name', 'ASC']] });
  return rows.map(({ id, name, content, enabled }) => ({ id, name, ...content, enabled: enabled === 1 }));
}

export async function saveRule(ctx: AppContext, actor: Actor, input: RuleInput): Promise<void> {
  requireRole(actor, 'administrator');
  const name = input.name.trim().slice(0, 80);
  if (!name) throw invalidText('name', 'The rule has no name.', 'Name it after whom it tells of what.');
  const ways: TellWay[] = [
    ...(await mailWays(ctx, 'mailTo', input.mailTo)),
    ...phoneWays('phones', input.phones),
    ...(await appWays(ctx, input.apps)),
  ];
  if (ways.length === 0) throw invalidText('mailTo', 'The rule tells nobody.', 'Give an address, a phone or an app.');
  if (ways.length > MOST_WAYS) throw invalidText('mailTo', 'The rule tells too many.', 'Make a team of them.');
  const quiet = quietOf(input);
  const escalate =
    input.escalateAfter.trim() === ''
      ? undefined
      : {
          afterMinutes: minutesOf('escalateAfter', input.escalateAfter, 1),
          ways: [
            ...(await mailWays(ctx, 'escalateMailTo', input.escalateMailTo)),
            ...phoneWays('escalatePhones', input.escalatePhones),
          ],
        };
  if (escalate && escalate.ways.length === 0)
    throw invalidText('escalateMailTo', 'Nobody is told where nobody takes it.', 'Give an address or a phone.');
  const content = {
    ...(input.team ? { team: found(await ctx.store.teams.one({ name: input.team }), 'team').name } : {}),
    from: (input.from === 'attention' ? 'attention' : 'error') satisfies AlertSeverity as AlertSeverity,
    ways,
    afterMinutes: minutesOf('afterMinutes', input.afterMinutes, 0),
    ...(quiet ? { quiet } : {}),
    ...(escalate ? { escalate } : {}),
  };
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const id = input.id ?? newId('alr', at);
    if (input.id) found(await unit.alertRules.one({ id }), 'rule');
    await unit.alertRules.put({
      id,
      name,
      content,
      enabled: input.enabled ? 1 : 0,
      changed_at: at,
      changed_by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: input.id ? 'alert-rule.changed' : 'alert-rule.added',
      subject: id,
      summary: `${input.id ? 'Changed' : 'Added'} the alert rule “${name}”: ${ways.map(wayKey).join(', ')}`.slice(
        0,
        300,
      ),
    });
    await noteChanges(unit, at, [['readiness', 'rules']]);
  });
}

export async function removeRule(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const { name } = found(await unit.alertRules.one({ id }), 'rule');
    await unit.alertRules.remove({ id });
    await recordAudit(unit, actor, at, {
      action: 'alert-rule.removed',
      subject: id,
      summary: `Removed the alert rule “${name}”`,
    });
    await noteChanges(unit, at, [['readiness', 'rules']]);
  });
}

/** Tells everybody of a rule of an alert that is a test. Returns the ways that cannot be used, in words. */
export async function testRule(ctx: AppContext, actor: Actor, id: string): Promise<string[]> {
  requireRole(actor, 'administrator');
  const row = found(await ctx.store.alertRules.one({ id }), 'rule');
  const rule: AlertRule = { id: row.id, name: row.name, ...row.content };
  const at = ctx.now();
  const shut: string[] = [];
  await ctx.store.write(async (unit) => {
    for (const way of [...rule.ways, ...(rule.escalate?.ways ?? [])])
      if (!(await tellTest(ctx, unit, rule, way, at))) shut.push(`${wayKey(way)}: ${WHY_NOT[way.by]}`);
    await recordAudit(unit, actor, at, {
      action: 'alert-rule.tested',
      subject: id,
      summary: `Tested the alert rule “${rule.name}”`,
    });
  });
  ctx.engineWakeUp.ring('runs');
  ctx.engineWakeUp.ring('webhooks');
  return shut;
}

const WHY_NOT: Readonly<Record<TellWay['by'], string>> = {
  mail: 'no mail account is set, or nobody is behind it',
  text: 'no channel that reaches phones is proven',
  app: 'the app has no webhook that asks for alerts',
};

async function mailWays(ctx: AppContext, field: string, written: string): Promise<TellWay[]> {
  const teams = new Set((await ctx.store.teams.all()).map(({ name }) => name));
  return linesOf(written).map((line): TellWay => {
    if (/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(line)) return { by: 'mail', to: line };
    if (line.toLowerCase() === 'administrators') return { by: 'mail', to: 'administrators' };
    if (teams.has(line)) return { by: 'mail', to: `team ${line}` };
    throw invalidText(
      field,
      `“${line}” is no address and no team.`,
      'An e-mail address, “administrators”, or a team’s name.',
    );
  });
}

function phoneWays(field: string, written: string): TellWay[] {
  return linesOf(written).map((line): TellWay => {
    const read = normaliseAddress(line);
    if (!read.ok || !read.address.value.startsWith('+'))
      throw invalidText(field, `“${line}” is no phone number.`, 'With its country code, such as +44 7700 900101.');
    return { by: 'text', phone: read.address.value };
  });
}

async function appWays(ctx: AppContext, ids: readonly string[]): Promise<TellWay[]> {
  const apps = new Set((await ctx.store.apps.all()).map(({ id }) => id));
  return ids.filter((id) => apps.has(id)).map((app) => ({ by: 'app', app }));
}

const linesOf = (written: string) => [
  ...new Set(
    written
      .split(/[\n,;]/)
      .map((line) => line.trim())
      .filter(Boolean),
  ),
];

function minutesOf(field: string, written: string, least: number): number {
  const minutes = Number(written.trim() || 0);
  if (!Number.isInteger(minutes) || minutes < least || minutes > MOST_MINUTES)
    throw invalidText(field, 'This is no number of minutes.', `From ${least} to ${MOST_MINUTES}.`);
  return minutes;
}

function quietOf({ quietFrom, quietUntil, zone, quietButErrors }: RuleInput): AlertRule['quiet'] {
  if (!quietFrom.trim() && !quietUntil.trim()) return undefined;
  const read = (field: string, written: string) => {
    const time = /^([01]\d|2[0-3]):([0-5]\d)$/.exec(written.trim());
    if (!time) throw invalidText(field, 'This is no time of day.', 'Such as 22:00.');
    return Number(time[1]) * 60 + Number(time[2]);
  };
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone.trim() || 'UTC' });
  } catch {
    throw invalidText('zone', 'Nobody knows this time zone.', 'Such as Europe/London.');
  }
  return {
    from: read('quietFrom', quietFrom),
    until: read('quietUntil', quietUntil),
    zone: zone.trim() || 'UTC',
    butErrors: quietButErrors,
  };
}

/** Says that one sees to an alert: nobody else is told that nobody does. */
export async function takeAlert(ctx: AppContext, actor: Actor, id: number): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = found(await unit.alerts.one({ id }), 'alert');
    if (row.closed_at !== null) throw new OperationError('conflict', 'It has ended meanwhile.');
    if (row.taken_by !== null) throw new OperationError('conflict', `${row.taken_by} sees to it already.`);
    await unit.alerts.change({ id }, { taken_at: at, taken_by: actor.name });
    await recordAudit(unit, actor, at, {
      action: 'alert.taken',
      subject: row.subject_id,
      summary: `Sees to “${row.problem.slice(0, 160)}”`,
    });
    await noteChanges(unit, at, [['readiness', 'taken']]);
  });
}

export interface WindowView {
  id: string;
  from: number;
  until: number;
  subject?: string;
  reason: string;
  by: string;
}

export async function listWindows(ctx: AppContext, actor: Actor): Promise<WindowView[]> {
  requireRole(actor, 'administrator');
  const rows = await ctx.store.workWindows.all(undefined, { order: [['from_at', 'ASC']] });
  const now = ctx.now();
  return rows
    .filter(({ until_at }) => until_at > now)
    .map(({ id, from_at, until_at, subject_name, reason, by }) => ({
      id,
      from: from_at,
      until: until_at,
      ...(subject_name === null ? {} : { subject: subject_name }),
      reason,
      by,
    }));
}

/** From now on nobody is told of alerts, of everything or of one account or channel. */
export async function addWindow(
  ctx: AppContext,
  actor: Actor,
  input: { hours: string; subject: string; reason: string },
): Promise<void> {
  requireRole(actor, 'administrator');
  const hours = Number(input.hours);
  if (!(hours > 0) || hours > LONGEST_WINDOW_HOURS)
    throw invalidText('hours', 'This is no number of hours.', `More than 0, up to ${LONGEST_WINDOW_HOURS}.`);
  const reason = input.reason.trim().slice(0, 300);
  if (!reason) throw invalidText('reason', 'The reason is missing.', 'Write what is worked on, for whoever wonders.');
  const at = ctx.now();
  const channel = input.subject ? await ctx.store.channels.one({ id: input.subject }) : undefined;
  const account = input.subject && !channel ? await ctx.store.accounts.one({ id: input.subject }) : undefined;
  if (input.subject) found(channel ?? account, 'account or channel');
  await ctx.store.write(async (unit) => {
    const id = newId('wwd', at);
    await unit.workWindows.insert([
      {
        id,
        from_at: at,
        until_at: at + hours * 60 * MINUTE,
        subject_id: input.subject || null,
        subject_name: channel?.name ?? account?.name ?? null,
        reason,
        by: actor.name,
        at,
      },
    ]);
    await recordAudit(unit, actor, at, {
      action: 'work-window.added',
      subject: input.subject || 'all',
      summary: `Nobody is told of ${channel?.name ?? account?.name ?? 'anything'} for ${hours} hours: ${reason}`,
    });
    await noteChanges(unit, at, [['readiness', 'windows']]);
  });
}

export async function endWindow(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    found(await unit.workWindows.one({ id }), 'time of work');
    await unit.workWindows.change({ id }, { until_at: at });
    await recordAudit(unit, actor, at, { action: 'work-window.ended', subject: id, summary: 'Ended a time of work' });
    await noteChanges(unit, at, [['readiness', 'windows']]);
  });
}
