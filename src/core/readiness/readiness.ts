/** What stands between the set-up and its messages: findings in the order in which they cost most, with what is muted apart. */
import type { RemedyAction } from '../connect/examine';
import type { Finding, Severity } from '../finding';

export interface ReadinessSubject {
  kind: 'account' | 'channel' | 'app' | 'automation' | 'route' | 'routes' | 'engine';
  id: string;
  name: string;
  /** Where it can be fixed. */
  href: string;
}

/** Something an examination found, before it is weighed. */
export interface Examined extends Finding {
  subject: ReadinessSubject;
  /** Tells several findings of one code about one subject apart: a hop, another subject. */
  about?: string;
  /** Since when it is known to be so, epoch milliseconds. */
  since?: number;
  /** Channels and apps whose messages it endangers, by id; `*` for all. */
  affects: readonly string[];
  /** What a button beside it can do: of `subject` below, or of another. */
  action?: { kind: RemedyAction; id: string };
}

export interface SubjectChange {
  subject: string;
  at: number;
  by: string;
  summary: string;
}

export interface Mute {
  key: string;
  reason: string;
  by: string;
  /** Epoch milliseconds at which it speaks again. */
  until: number;
}

export interface ReadinessFinding extends Examined {
  /** The same for the same finding, however often it is made. */
  key: string;
  /** Messages a day over what it endangers. */
  perDay: number;
  /** About how many went this way since it is known to be so. */
  atRisk: number;
  /** What was changed about its subject since it last worked, newest first. */
  changes: SubjectChange[];
  mute?: Mute;
}

export interface Readiness {
  open: ReadinessFinding[];
  muted: ReadinessFinding[];
}

const RANK: Record<Severity, number> = { error: 0, attention: 1, notice: 2 };
const SHOWN_CHANGES = 3;
const DAY = 86_400_000;
/** A change shortly before something broke may be why; one long before is not. */
const BEFORE = DAY;

export function keyOf({ code, subject, about }: Pick<Examined, 'code' | 'subject' | 'about'>): string {
  return [code, subject.id, about].filter(Boolean).join(' ');
}

/** Worst first; of equals those with most messages at risk, then those known longest. One finding is told once. */
export function weigh(
  examined: readonly Examined[],
  {
    changes,
    mutes,
    traffic,
    now,
  }: {
    changes: readonly SubjectChange[];
    mutes: readonly Mute[];
    /** Messages a day of channels and apps, and of `*`. */
    traffic: Readonly<Record<string, number>>;
    now: number;
  },
): Readiness {
  const standing = new Map(mutes.filter(({ until }) => until > now).map((mute) => [mute.key, mute]));
  const told = new Map<string, ReadinessFinding>();
  for (const finding of examined) {
    const key = keyOf(finding);
    const known = told.get(key);
    if (known && RANK[known.severity] <= RANK[finding.severity]) continue;
    const mute = standing.get(key);
    const perDay = finding.affects.reduce((sum, id) => sum + (traffic[id] ?? 0), 0);
    const days = finding.since === undefined ? 0 : Math.max(0, now - finding.since) / DAY;
    told.set(key, {
      ...finding,
      key,
      perDay,
      atRisk: Math.round(perDay * days),
      changes: changesOf(finding, changes),
      ...(mute ? { mute } : {}),
    });
  }
  const sorted = [...told.values()].sort(
    (a, b) =>
      RANK[a.severity] - RANK[b.severity] ||
      b.perDay - a.perDay ||
      (a.since ?? now) - (b.since ?? now) ||
      a.key.localeCompare(b.key),
  );
  return { open: sorted.filter(({ mute }) => !mute), muted: sorted.filter(({ mute }) => mute) };
}

function changesOf({ subject, since }: Examined, changes: readonly SubjectChange[]): SubjectChange[] {
  const from = since === undefined ? Number.NEGATIVE_INFINITY : since - BEFORE;
  return changes
    .filter((change) => change.subject === subject.id && change.at >= from)
    .sort((a, b) => b.at - a.at)
    .slice(0, SHOWN_CHANGES);
}
