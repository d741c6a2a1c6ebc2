/** Examines an app's connection: what is about to stop, or has been stopped, before somebody misses it. Pure. */
import { type CauseCode, cause } from '../delivery/causes';
import type { Finding } from '../finding';

export interface KeyFacts {
  name: string;
  /** Epoch milliseconds. */
  expiresAt: number | null;
  lastUsedAt: number | null;
}

export interface SubscriptionFacts {
  url: string;
  pausedWhy: 'failing' | 'gone' | 'by-hand' | 'unreadable' | null;
}

export interface AutomationFacts {
  /** Such as “send hook”. */
  what: string;
  name: string;
  /** Why its mark is broken. */
  brokenBy?: CauseCode;
}

const DAY = 24 * 3_600_000;
/** A key that ends within this is warned about. */
export const KEY_ENDS_SOON = 14 * DAY;

/** `keys` are those in force, `subscriptions` those that have not ended. */
export interface AppFinding extends Finding {
  of: 'key' | 'subscription' | 'automation';
  /** Which of them: its name or its address. */
  about: string;
}

export function examineApp(
  keys: readonly KeyFacts[],
  subscriptions: readonly SubscriptionFacts[],
  now: number,
  automations: readonly AutomationFacts[] = [],
): AppFinding[] {
  return [
    ...keys.flatMap((key) => examineKey(key, keys, now)),
    ...subscriptions.flatMap(examineSubscription),
    ...automations.flatMap(examineAutomation),
  ];
}

/** One that is broken says by what; one that is switched off is silent unless something still comes to it. */
function examineAutomation({ what, name, brokenBy }: AutomationFacts): AppFinding[] {
  if (!brokenBy) return [];
  const { title, remedy } = cause(brokenBy);
  return [
    {
      of: 'automation',
      about: name,
      code: brokenBy,
      severity: 'error',
      problem: `The ${what} “${name}”: ${lowerFirst(title)}.`,
      remedy,
    },
  ];
}

function lowerFirst(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1);
}

/** A key nobody uses may end in peace, as an old one does after another took over from it. */
function examineKey({ name, expiresAt, lastUsedAt }: KeyFacts, keys: readonly KeyFacts[], now: number): AppFinding[] {
  if (expiresAt === null || expiresAt - now > KEY_ENDS_SOON) return [];
  if (lastUsedAt === null || now - lastUsedAt > 2 * DAY) return [];
  const tookOver = (key: KeyFacts) =>
    (key.lastUsedAt ?? 0) > lastUsedAt && (key.expiresAt === null || key.expiresAt > expiresAt);
  if (keys.some(tookOver)) return [];
  const days = Math.floor((expiresAt - now) / DAY);
  const when = days === 0 ? 'within a day' : days === 1 ? 'in a day' : `in ${days} days`;
  return [
    {
      of: 'key',
      about: name,
      code: 'key-ends-soon',
      severity: 'attention',
      problem: `The API key “${name}” is in use and ends ${when}.`,
      remedy: 'Replace it on the app’s page and put the new one in its place; both work meanwhile.',
    },
  ];
}

const PAUSED = {
  failing: {
    problem: (url: string) => `Events to ${url} are paused: three days of attempts failed.`,
    remedy: 'Fix what the last attempt says, then resume. Nothing is lost.',
  },
  gone: {
    problem: (url: string) => `Events to ${url} are paused: the app wants no more there.`,
    remedy: 'Ask its people for the new address, change it and resume. Nothing is lost.',
  },
  'by-hand': {
    problem: (url: string) => `Events to ${url} are paused by hand.`,
    remedy: 'Resume when the app is ready; what happened meanwhile goes to it then.',
  },
  unreadable: {
    problem: (url: string) => `Events to ${url} are paused: its settings or its secret cannot be read.`,
    remedy: 'Replace its secret, then resume; if that does not help, end it and subscribe anew. Nothing is lost.',
  },
};

function examineSubscription({ url, pausedWhy }: SubscriptionFacts): AppFinding[] {
  if (pausedWhy === null) return [];
  const { problem, remedy } = PAUSED[pausedWhy];
  const severity = pausedWhy === 'by-hand' ? 'attention' : 'error';
  return [{ of: 'subscription', about: url, code: 'webhook-paused', severity, problem: problem(url), remedy }];
}
