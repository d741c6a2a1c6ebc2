/** Tells people and apps of alerts, as the rules say, each once: in the unit that notes that they were told. */
import {
  type AlertFact,
  type AlertRule,
  type Telling,
  type TellingBefore,
  type TellWay,
  type Told,
  tellingsDue,
  type WorkWindow,
  wayKey,
} from '../../core/alerts/tellings';
import { channelKind } from '../../core/connect/channelKinds';
import { isCauseCode, cause as known } from '../../core/delivery/causes';
import type { Step } from '../../core/steps/steps';
import { wordsOfLength } from '../../core/text/length';
import type { AlertRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type AlertEventType, emitAlertEvent } from '../apps/webhooks';
import { type AppContext, noteChanges } from '../context';
import { MAIL_SETTING } from '../people';
import { beginRuns, type RunInput } from '../runs';

const DAY = 86_400_000;
/** Ends of alerts are told within so long; one that ended while nothing ran is told late rather than not at all. */
const ENDED_WITHIN = 2 * DAY;
const LOOK_EVERY = 5000;
/** Alerts that stand in full in one telling; of the rest it is said how many. */
const SHOWN = 8;
/** A text of an alert is one, and short. */
const LONGEST_TEXT = 300;

export interface AlertTeller {
  round(): Promise<number | undefined>;
}

export function createAlertTeller(ctx: AppContext): AlertTeller {
  let lookedAt = 0;
  return {
    async round() {
      const now = ctx.now();
      if (now - lookedAt < LOOK_EVERY && now >= lookedAt) return undefined;
      lookedAt = now;
      await tellAlerts(ctx);
      return undefined;
    },
  };
}

/** Tells what is due. Returns how many tellings there were. */
export async function tellAlerts(ctx: AppContext): Promise<number> {
  const now = ctx.now();
  const rules = await readRules(ctx);
  if (rules.length === 0) return 0;
  const rows = await ctx.store.select<AlertRow>(
    'SELECT * FROM alerts WHERE closed_at IS NULL OR closed_at > :since ORDER BY id',
    { since: now - ENDED_WITHIN },
  );
  if (rows.length === 0) return 0;
  const facts = await factsOf(ctx, now, rows);
  const mails = (await ctx.store.settings.one({ name: MAIL_SETTING })) !== undefined;
  // What nobody could be told yet is told once it can be.
  const teams = await teamsOf(ctx);
  const alerts = rows.map((row) => factOf(row, teams.get(row.subject_id)));
  const due = tellingsDue({ now, alerts, rules, ...facts }).filter(({ way }) => way.by !== 'mail' || mails);
  if (due.length === 0) return 0;
  const told: Telling[] = [];
  await ctx.store.write(async (unit) => {
    const runs: { input: RunInput; telling: Telling }[] = [];
    const byId = new Map(rows.map((row) => [row.id ?? 0, row]));
    for (const telling of due) {
      const about = telling.alerts.flatMap(({ id }) => byId.get(id) ?? []);
      const step = await stepFor(ctx, unit, telling, about, now);
      if (step) runs.push({ input: runOf(telling, step), telling });
      const { way, what } = telling;
      if (step || (way.by === 'app' && (await emitAlertEvent(unit, EVENTS[what], way.app, about.map(toldOf), now))))
        told.push(telling);
    }
    const ids = await beginRuns(
      unit,
      runs.map(({ input }) => input),
      now,
    );
    await unit.alertTellings.insert(
      told.flatMap((telling) => {
        const place = runs.findIndex((run) => run.telling === telling);
        return telling.alerts.map(({ id }) => ({
          alert_id: id,
          rule_id: telling.rule.id,
          rule_name: telling.rule.name,
          what: telling.what,
          way: wayKey(telling.way),
          at: now,
          said: subjectOf(telling, [byId.get(id) as AlertRow]),
          run_id: ids[place] ?? null,
        }));
      }),
    );
    if (told.length > 0) await noteChanges(unit, now, [['readiness', 'told']]);
  });
  ctx.engineWakeUp.ring('runs');
  ctx.engineWakeUp.ring('webhooks');
  return told.length;
}

const EVENTS: Readonly<Record<Told, AlertEventType>> = {
  began: 'windgap.alert.began',
  escalated: 'windgap.alert.escalated',
  ended: 'windgap.alert.ended',
};

/** Rules in force. */
async function readRules(ctx: AppContext): Promise<AlertRule[]> {
  const rows = await ctx.store.alertRules.readable();
  return rows.filter(({ enabled }) => enabled === 1).map(({ id, name, content }) => ({ id, name, ...content }));
}

async function factsOf(
  ctx: AppContext,
  now: number,
  alerts: readonly AlertRow[],
): Promise<{ windows: WorkWindow[]; told: TellingBefore[] }> {
  const [windows, told] = await Promise.all([
    ctx.store.select<{ from_at: number; until_at: number; subject_id: string | null }>(
      'SELECT from_at, until_at, subject_id FROM work_windows WHERE from_at <= :now AND until_at > :now',
      { now },
    ),
    ctx.store.select<{ alert_id: number; rule_id: string; what: Told; way: string; at: number }>(
      'SELECT alert_id, rule_id, what, way, at FROM alert_tellings WHERE alert_id IN (:ids)',
      { ids: alerts.flatMap(({ id }) => id ?? []) },
    ),
  ]);
  return {
    windows: windows.map(({ from_at, until_at, subject_id }) => ({
      from: from_at,
      until: until_at,
      ...(subject_id === null ? {} : { subjectId: subject_id }),
    })),
    told: told.map(({ alert_id, rule_id, ...rest }) => ({ alert: alert_id, rule: rule_id, ...rest })),
  };
}

/** By channel, app and account, the team it belongs to: an account to that of its channels, where they have one. */
async function teamsOf({ store }: AppContext): Promise<ReadonlyMap<string, string>> {
  const rows = await store.select<{ id: string; team: string }>(
    `SELECT id, team FROM channels WHERE team IS NOT NULL UNION ALL SELECT id, team FROM apps WHERE team IS NOT NULL
      UNION ALL SELECT account_id, min(team) FROM channels GROUP BY account_id
        HAVING count(DISTINCT team) = 1 AND count(team) = count(*)`,
  );
  return new Map(rows.map(({ id, team }) => [id, team]));
}

function factOf(row: AlertRow, team: string | undefined): AlertFact {
  return {
    id: row.id ?? 0,
    key: row.key,
    code: row.code,
    severity: row.severity === 'error' ? 'error' : 'attention',
    subjectId: row.subject_id,
    ...(team === undefined ? {} : { team }),
    began: row.opened_at,
    ...(row.closed_at === null ? {} : { ended: row.closed_at }),
    ...(row.taken_at === null ? {} : { taken: row.taken_at }),
  };
}

function toldOf(row: AlertRow) {
  const { id, code, severity, subject_name: subject, problem, remedy, opened_at, closed_at, taken_by } = row;
  return {
    id: id ?? 0,
    code,
    severity: severity === 'error' ? 'error' : 'attention',
    subject,
    problem,
    remedy: remedy ?? '',
    began: opened_at,
    ...(closed_at === null ? {} : { ended: closed_at }),
    ...(taken_by === null ? {} : { takenBy: taken_by }),
  };
}

function runOf({ way, alerts }: Telling, step: Step): RunInput {
  return {
    appId: '',
    source: 'notice',
    sourceId: wayKey(way),
    subjectId: `alert ${alerts[0]?.id ?? ''}`,
    steps: [step],
  };
}

/** The mail or text of a telling; undefined where there is nobody to tell, or no way to. */
async function stepFor(
  ctx: AppContext,
  unit: Unit,
  telling: Telling,
  about: readonly AlertRow[],
  now: number,
): Promise<Step | undefined> {
  const { way } = telling;
  if (way.by === 'mail') {
    const to = await addressesOf(unit, way.to);
    if (to.length === 0 || !(await unit.settings.one({ name: MAIL_SETTING }))) return undefined;
    return { kind: 'notify', to, subject: subjectOf(telling, about), text: textOf(ctx, telling, about, now) };
  }
  if (way.by !== 'text') return undefined;
  const channel = await provenChannel(unit, now);
  const text = `${subjectOf(telling, about)} ${ctx.config.publicUrl}/watch/alerts`.slice(0, LONGEST_TEXT);
  return channel
    ? { kind: 'send', to: way.phone, text, sender: { by: 'channel', channel }, tags: ['alert'], usefulUntil: now + DAY }
    : undefined;
}

async function addressesOf(unit: Unit, to: string): Promise<string[]> {
  if (to.includes('@')) return [to];
  const rows = await unit.select<{ email: string }>(
    to === 'administrators'
      ? `SELECT email FROM users WHERE role IN ('owner', 'administrator') AND disabled_at IS NULL`
      : 'SELECT u.email FROM users u JOIN team_members t ON t.user_id = u.id WHERE t.team = :team AND u.disabled_at IS NULL',
    to === 'administrators' ? {} : { team: to.replace(/^team /, '') },
  );
  return rows.map(({ email }) => email);
}

/** The channel that reaches any phone and was last shown to send, where nothing is wrong with it: what is broken tells of nothing. */
async function provenChannel(unit: Unit, now: number): Promise<string | undefined> {
  const rows = await unit.select<{ id: string; kind: string }>(
    `SELECT c.id, c.kind FROM channels c JOIN provider_accounts a ON a.id = c.account_id AND a.disabled_at IS NULL
       JOIN hop_proofs p ON p.subject_id = c.id AND p.hop = 'outbound' AND p.state = 'proven'
      WHERE NOT EXISTS (SELECT 1 FROM alerts l WHERE l.closed_at IS NULL AND l.severity = 'error' AND l.subject_id IN (c.id, c.account_id))
      ORDER BY p.evidence_at > :day DESC, p.evidence_at DESC`,
    { day: now - DAY },
  );
  return rows.find(({ kind }) => channelKind(kind as never).reachesAnyPhone)?.id;
}

const title = ({ code, problem }: AlertRow) =>
  (isCauseCode(code) ? known(code).title : problem.split(/[.:]/)[0]) ?? problem;

/** Such as “Broken: The credit is used up (Main account)”. */
function subjectOf({ what }: Pick<Telling, 'what'>, about: readonly AlertRow[]): string {
  const [first] = about as [AlertRow, ...AlertRow[]];
  const of = about.filter(({ code }) => code === first.code);
  const names = [...new Set(of.map(({ subject_name }) => subject_name))];
  const shown = names.length > 3 ? `${names.slice(0, 2).join(', ')} and ${names.length - 2} more` : names.join(', ');
  const more = about.length > of.length ? `, and ${about.length - of.length} others` : '';
  const word =
    what === 'ended'
      ? 'Over'
      : what === 'escalated'
        ? 'Nobody has taken it'
        : first.severity === 'error'
          ? 'Broken'
          : 'At risk';
  return `${word}: ${title(first)} (${shown})${more}`;
}

function textOf(ctx: AppContext, { what, rule }: Telling, about: readonly AlertRow[], now: number): string {
  const lines = about.slice(0, SHOWN).map((row) => {
    const until = row.closed_at ?? now;
    const when = `${new Date(row.opened_at).toISOString().slice(0, 16).replace('T', ' ')} UTC`;
    const lasted = wordsOfLength(Math.max(0, until - row.opened_at));
    return [
      `${row.subject_name}: ${row.problem}`,
      ...(what === 'ended'
        ? [`It began ${when} and lasted ${lasted}.`]
        : [`Since ${when}, for ${lasted}.`, ...(row.remedy ? [row.remedy] : [])]),
      ...(row.taken_by ? [`${row.taken_by} sees to it.`] : []),
      ...(row.href ? [`${ctx.config.publicUrl}${row.href}`] : []),
    ].join('\n');
  });
  const rest = about.length > SHOWN ? [`And ${about.length - SHOWN} more.`] : [];
  return [
    ...lines,
    ...rest,
    `All alerts, and to take one: ${ctx.config.publicUrl}/watch/alerts`,
    `You are told by the rule “${rule.name}”.`,
  ].join('\n\n');
}

/** Tells a way of a made-up alert, to show that it arrives; nothing is noted but that. */
export async function tellTest(
  ctx: AppContext,
  unit: Unit,
  rule: AlertRule,
  way: TellWay,
  now: number,
): Promise<boolean> {
  const row: AlertRow = {
    id: 0,
    key: 'test',
    code: 'test',
    subject_id: 'test',
    subject_name: 'a test',
    severity: 'error',
    problem: 'This is a test of the rule by hand. Nothing is wrong.',
    remedy: null,
    opened_at: now,
    closed_at: null,
    href: null,
    taken_at: null,
    taken_by: null,
  };
  const telling: Telling = { rule, way, what: 'began', alerts: [factOf(row, undefined)] };
  if (way.by === 'app') return emitAlertEvent(unit, 'windgap.alert.began', way.app, [toldOf(row)], now);
  const step = await stepFor(ctx, unit, telling, [row], now);
  if (step) await beginRuns(unit, [runOf(telling, step)], now);
  return step !== undefined;
}
