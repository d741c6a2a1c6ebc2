/**
 * Who is told of an alert, and when: that it began, once it has lasted; that nobody took it; that it ended, to those
 * who heard that it began. What one and the same way is told of at one moment is told together.
 */

export type AlertSeverity = 'error' | 'attention';

export interface AlertFact {
  id: number;
  /** The same for one that comes back. */
  key: string;
  code: string;
  severity: AlertSeverity;
  subjectId: string;
  /** The team its subject belongs to. */
  team?: string;
  /** Epoch milliseconds. */
  began: number;
  ended?: number;
  /** When somebody said that they see to it. */
  taken?: number;
}

/** One way to tell somebody. */
export type TellWay =
  /** An e-mail address, `administrators`, or `team` and its id. */
  | { by: 'mail'; to: string }
  | { by: 'text'; phone: string }
  /** An event for an app. */
  | { by: 'app'; app: string };

export interface QuietHours {
  /** Minutes since midnight, in the zone; from 22:00 to 07:00 goes over midnight. */
  from: number;
  until: number;
  /** IANA. */
  zone: string;
  /** What is broken is told all the same. */
  butErrors: boolean;
}

export interface AlertRule {
  id: string;
  name: string;
  /** The least that is told: what is broken, or what is at risk as well. */
  from: AlertSeverity;
  /** Only of what belongs to this team; absent for all. */
  team?: string;
  ways: readonly TellWay[];
  /** It has to last so long; minutes. */
  afterMinutes: number;
  quiet?: QuietHours;
  /** Told to others where nobody has taken it so long after it was told. */
  escalate?: { afterMinutes: number; ways: readonly TellWay[] };
}

/** A time in which work is done on something and nobody is told of it. */
export interface WorkWindow {
  from: number;
  until: number;
  /** Of one subject only; absent for all. */
  subjectId?: string;
}

export type Told = 'began' | 'escalated' | 'ended';

export interface TellingBefore {
  alert: number;
  rule: string;
  what: Told;
  /** `wayKey` of the way. */
  way: string;
  at: number;
}

export interface Telling {
  rule: AlertRule;
  way: TellWay;
  what: Told;
  alerts: AlertFact[];
}

export interface AlertsNow {
  now: number;
  alerts: readonly AlertFact[];
  rules: readonly AlertRule[];
  windows: readonly WorkWindow[];
  told: readonly TellingBefore[];
}

const MINUTE = 60_000;
/** One that comes back so soon after it ended has to last so long before it is told again. */
export const COMES_BACK_WITHIN = 30 * MINUTE;
export const LASTS_THEN = 10 * MINUTE;

export function wayKey(way: TellWay): string {
  return way.by === 'mail' ? `mail ${way.to}` : way.by === 'text' ? `text ${way.phone}` : `app ${way.app}`;
}

export function tellingsDue({ now, alerts, rules, windows, told }: AlertsNow): Telling[] {
  const heard = new Map<string, TellingBefore>();
  for (const each of told) heard.set(`${each.alert} ${each.what} ${each.way}`, each);
  const before = (alert: AlertFact, what: Told, key: string) => heard.get(`${alert.id} ${what} ${key}`);
  const due = new Map<string, Telling>();
  // Two rules that lead to one and the same way tell it once.
  const saidNow = new Set<string>();
  const say = (rule: AlertRule, way: TellWay, what: Told, alert: AlertFact) => {
    const key = wayKey(way);
    const once = `${alert.id} ${what} ${key}`;
    if (heard.has(once) || saidNow.has(once)) return;
    saidNow.add(once);
    const group = `${rule.id} ${what} ${key}`;
    const telling = due.get(group) ?? { rule, way, what, alerts: [] };
    telling.alerts.push(alert);
    due.set(group, telling);
  };
  const latest = lastEnds(alerts);
  for (const rule of rules)
    for (const alert of alerts) {
      if (rule.from === 'error' && alert.severity !== 'error') continue;
      if (isQuiet(rule.quiet, alert.severity, now) || isWorkedOn(windows, alert, now)) continue;
      const escalation = rule.escalate?.ways ?? [];
      if (alert.ended !== undefined) {
        for (const way of [...rule.ways, ...escalation]) {
          const key = wayKey(way);
          if (before(alert, 'began', key) || before(alert, 'escalated', key)) say(rule, way, 'ended', alert);
        }
        continue;
      }
      if (rule.team !== undefined && alert.team !== rule.team) continue;
      const lasts = comesBack(alert, latest)
        ? Math.max(LASTS_THEN, rule.afterMinutes * MINUTE)
        : rule.afterMinutes * MINUTE;
      if (now - alert.began < lasts) continue;
      for (const way of rule.ways) say(rule, way, 'began', alert);
      if (!rule.escalate || alert.taken !== undefined) continue;
      const first = rule.ways.flatMap((way) => before(alert, 'began', wayKey(way))?.at ?? []);
      if (first.length === 0 || now - Math.min(...first) < rule.escalate.afterMinutes * MINUTE) continue;
      for (const way of escalation) say(rule, way, 'escalated', alert);
    }
  return [...due.values()];
}

/** By key, when alerts of it ended. */
function lastEnds(alerts: readonly AlertFact[]): ReadonlyMap<string, readonly number[]> {
  const ends = new Map<string, number[]>();
  for (const { key, ended } of alerts) if (ended !== undefined) ends.set(key, [...(ends.get(key) ?? []), ended]);
  return ends;
}

function comesBack({ key, began }: AlertFact, ends: ReadonlyMap<string, readonly number[]>): boolean {
  return (ends.get(key) ?? []).some((end) => end <= began && began - end < COMES_BACK_WITHIN);
}

function isWorkedOn(windows: readonly WorkWindow[], { subjectId }: AlertFact, now: number): boolean {
  return windows.some(
    ({ from, until, subjectId: only }) => from <= now && now < until && (only === undefined || only === subjectId),
  );
}

function isQuiet(quiet: QuietHours | undefined, severity: AlertSeverity, now: number): boolean {
  if (!quiet || (quiet.butErrors && severity === 'error') || quiet.from === quiet.until) return false;
  const minute = minuteOfDay(now, quiet.zone);
  return quiet.from < quiet.until
    ? quiet.from <= minute && minute < quiet.until
    : minute >= quiet.from || minute < quiet.until;
}

function minuteOfDay(at: number, zone: string): number {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  });
  const [hour, minute] = parts.format(at).split(':').map(Number);
  return (hour ?? 0) * 60 + (minute ?? 0);
}
