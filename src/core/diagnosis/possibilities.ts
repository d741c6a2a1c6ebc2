/**
 * The possible causes, in the order of the way, with what speaks for each. One line reads:
 * causes of these codes, each so often behind these symptoms, are named by the examination of
 * the set-up in this share of the cases, by what became of a message in that share, and go
 * with these observations in these shares.
 */
import { type CauseCode, causeCodes } from '../delivery/causes';
import type { ObservationId } from './observations';
import { FITTED } from './shares';
import type { Symptom } from './symptoms';
import type { Place } from './way';

export const STAGES = ['asked', 'account', 'outbox', 'network', 'address', 'route', 'app'] as const;
export type Stage = (typeof STAGES)[number];

export interface Possibility {
  code: string;
  stage: Stage;
  /** Which line it is of: shares are fitted by the line. */
  line: string;
  /** How often it is behind a symptom, against the others; absent means never. */
  behind: Partial<Record<Symptom, number>>;
  /** The share in which the examination of the set-up names it when it is to blame, and when it is not. */
  setUp: readonly [so: number, otherwise: number];
  /** The same of what became of messages, requests and calls. */
  told: readonly [so: number, otherwise: number];
  signs: Partial<Record<ObservationId, number>>;
  /** What is seen of this cause and of no other, so that it is not merely left over. */
  shows: Partial<Record<ObservationId, boolean>>;
  /** The two neighbours on the way it lies between. */
  between?: readonly [Place, Place];
}

interface Line {
  stage: Stage;
  behind: Possibility['behind'];
  setUp?: Possibility['setUp'];
  told?: Possibility['told'];
  signs?: Possibility['signs'];
  shows?: Possibility['shows'];
  between?: Possibility['between'];
  codes: readonly string[];
}

const NEVER = [0, 0] as const;
const CERTAIN = [0.95, 0.002] as const;
/** Read from the provider itself a moment ago. */
const READ = [0.98, 0.01] as const;
const MOSTLY = [0.85, 0.003] as const;
const LIKELY = [0.85, 0.02] as const;
/** Told by those of its messages that show it. */
const PARTLY = [0.6, 0.02] as const;
/** What never arrives tells nothing. */
const SELDOM = [0.3, 0.01] as const;
/** True of many a set-up whose messages arrive all the same. */
const HARMLESS = [0.9, 0.3] as const;

const NOT_TAKEN = { 'out-asked': 0.98, 'out-taken': 0.04, 'out-delivered': 0.03, 'bench-out': 0.05 };
const NOT_TAKEN_FOR_SOME = {
  'out-asked': 0.98,
  'out-taken': 0.1,
  'out-delivered': 0.05,
  'others-delivered': 0.75,
  'bench-out': 0.6,
};
const LOST_AFTERWARDS = { 'out-asked': 0.98, 'out-taken': 0.97, 'out-delivered': 0.05 };
const NOTHING_IN = {
  'in-arrived': 0.05,
  'bench-in': 0.04,
  'in-routed': 0.3,
  'provider-log-has-it': 0.95,
  'wrote-here': 0.95,
  'shown-sent': 0.97,
};
const IN_AND_LOST = {
  'in-arrived': 0.96,
  'bench-in': 0.95,
  'in-called': 0.96,
  'wrote-here': 0.97,
  'shown-sent': 0.97,
  'provider-log-has-it': 0.95,
};

const LINES: readonly Line[] = [
  {
    stage: 'asked',
    behind: { 'app-cannot-send': 4, 'worked-before': 1 },
    told: MOSTLY,
    setUp: LIKELY,
    signs: {},
    codes: [
      'key-expired',
      'key-revoked',
      'call-refused',
      'hook-off',
      'hook-guard-refused',
      'hook-name-mismatch',
      'hook-other-shape',
      'hook-record-refused',
      'hook-unreadable',
      'feed-not-read',
      'sheet-not-read',
      'automation-failed',
      'records-not-connected',
    ],
  },
  {
    stage: 'asked',
    behind: { 'app-cannot-send': 3, 'worked-before': 0.5 },
    // Whose key it was nobody knows: it may be somebody else's.
    told: [0.9, 0.1],
    signs: { 'out-asked': 0.02 },
    codes: ['call-key-unknown'],
  },
  {
    stage: 'asked',
    behind: { 'app-cannot-send': 2, 'worked-before': 0.5 },
    told: SELDOM,
    setUp: LIKELY,
    codes: ['automation-off'],
  },
  {
    stage: 'asked',
    behind: { 'app-cannot-send': 1, 'nothing-arrives': 0.4 },
    told: NEVER,
    setUp: NEVER,
    signs: { 'out-asked': 0.02, 'out-taken': 0.3, 'bench-out': 0.96 },
    shows: { 'out-asked': false },
    codes: ['never-asked'],
  },
  {
    stage: 'account',
    behind: { 'nothing-arrives': 3, 'worked-before': 3, 'app-cannot-send': 1, 'only-some': 0.2 },
    told: CERTAIN,
    setUp: CERTAIN,
    signs: NOT_TAKEN,
    codes: [
      'credential-refused',
      'credential-id-unknown',
      'credential-secret-wrong',
      'credential-swapped',
      'credential-expired',
      'credential-lacks-permission',
      'account-disabled',
      'trunk-bind-wrong',
      'encryption-refused',
      'trunk-bound-elsewhere',
      'trunk-down',
      'credit-gone',
      'payment-missing',
      'number-taken',
      'number-code-needed',
      'number-gone',
    ],
  },
  {
    stage: 'account',
    behind: { 'nothing-arrives': 1, 'worked-before': 1.5, 'only-some': 3, 'app-cannot-send': 0.5 },
    told: CERTAIN,
    setUp: PARTLY,
    signs: NOT_TAKEN_FOR_SOME,
    codes: [
      'country-off',
      'registration-missing',
      'trial-unverified',
      'account-on-trial',
      'mode-development',
      'test-mode-on',
    ],
  },
  {
    stage: 'outbox',
    behind: {
      'nothing-arrives': 2,
      'worked-before': 2,
      'app-cannot-send': 1,
      'replies-missing': 0.5,
      'app-silent': 0.5,
    },
    told: NEVER,
    setUp: CERTAIN,
    signs: { 'out-taken': 0.03, 'out-delivered': 0.03, 'bench-out': 0.03, 'bench-in': 0.1, 'in-arrived': 0.1 },
    codes: ['engine-silent', 'loop-failing', 'queue-stuck', 'sealing-key-lost', 'disk-low', 'database-locked'],
  },
  {
    stage: 'outbox',
    behind: {
      'nothing-arrives': 0.7,
      'worked-before': 1,
      'replies-missing': 0.7,
      'app-silent': 0.5,
      'app-cannot-send': 0.3,
    },
    told: NEVER,
    setUp: CERTAIN,
    codes: ['clock-off'],
  },
  {
    stage: 'outbox',
    behind: { 'nothing-arrives': 2, 'worked-before': 2, 'only-some': 0.3, 'app-cannot-send': 0.5 },
    told: CERTAIN,
    setUp: SELDOM,
    signs: NOT_TAKEN,
    codes: [
      'provider-unreachable',
      'provider-timeout',
      'provider-error',
      'answered-by-other',
      'throttled',
      'queue-behind',
      'gave-up',
      'request-refused',
      'sender-not-owned',
      'sender-wrong-direction',
      'outcome-unknown',
    ],
  },
  {
    stage: 'outbox',
    behind: { 'only-some': 3, 'nothing-arrives': 1, 'worked-before': 1.5, 'app-cannot-send': 1 },
    told: CERTAIN,
    setUp: NEVER,
    signs: NOT_TAKEN_FOR_SOME,
    codes: [
      'opted-out',
      'address-malformed',
      'content-refused',
      'window-closed',
      'allowance-used',
      'may-only-reply',
      'carrier-unknown',
      'gateway-unknown',
      'sender-name-refused',
      'sender-name-unregistered',
      'purpose-forbids',
      'trunk-long-text-refused',
      'template-language-missing',
      'template-values-wrong',
    ],
  },
  {
    stage: 'outbox',
    behind: { 'nothing-arrives': 1, 'worked-before': 1.5, 'app-cannot-send': 1.5, 'only-some': 0.5 },
    told: CERTAIN,
    setUp: LIKELY,
    signs: NOT_TAKEN_FOR_SOME,
    codes: ['template-not-submitted', 'template-not-approved', 'template-paused', 'template-unknown', 'template-gone'],
  },
  {
    stage: 'network',
    behind: { 'nothing-arrives': 1.5, 'only-some': 2.5, 'worked-before': 0.7 },
    told: CERTAIN,
    setUp: NEVER,
    signs: { ...LOST_AFTERWARDS, 'others-delivered': 0.7, 'bench-out': 0.9, 'phone-gets-others': 0.1 },
    codes: ['handset-unreachable', 'number-not-in-service', 'message-expired'],
  },
  {
    stage: 'network',
    behind: { 'nothing-arrives': 1, 'only-some': 1, 'worked-before': 1 },
    told: CERTAIN,
    setUp: NEVER,
    signs: { ...LOST_AFTERWARDS, 'phone-gets-others': 0.95 },
    codes: ['carrier-refused', 'undelivered-unknown', 'mail-bounced'],
  },
  {
    stage: 'network',
    behind: { 'nothing-arrives': 0.6, 'worked-before': 0.4 },
    told: CERTAIN,
    setUp: LIKELY,
    signs: { 'out-taken': 0.97, 'out-delivered': 0.03, 'bench-out': 0.97 },
    codes: ['receipt-id-base'],
  },
  {
    // The provider says so when it is asked: what is missing is the receipt, on its way back.
    stage: 'address',
    behind: { 'nothing-arrives': 0.6, 'only-some': 0.4, 'worked-before': 0.4 },
    told: CERTAIN,
    setUp: NEVER,
    signs: { 'out-taken': 0.97, 'out-delivered': 0.95, 'bench-out': 0.97 },
    codes: ['receipts-not-coming'],
  },
  {
    stage: 'network',
    behind: { 'nothing-arrives': 0.3, 'only-some': 0.5 },
    told: NEVER,
    setUp: NEVER,
    signs: {
      'out-asked': 0.98,
      'out-taken': 0.98,
      'out-delivered': 0.97,
      'bench-out': 0.97,
      'phone-gets-others': 0.95,
    },
    between: ['phone', 'person'],
    codes: ['phone-hides'],
  },
  {
    stage: 'network',
    behind: { 'arrives-wrong': 3 },
    told: LIKELY,
    setUp: LIKELY,
    signs: { 'letters-wrong': 0.95, 'values-wrong': 0.05, 'bench-same': 0.1 },
    codes: ['trunk-alphabet'],
  },
  {
    stage: 'asked',
    behind: { 'arrives-wrong': 3 },
    told: PARTLY,
    setUp: NEVER,
    signs: { 'letters-wrong': 0.03, 'values-wrong': 0.95, 'bench-same': 0.95 },
    shows: { 'values-wrong': true },
    codes: ['values-missing'],
  },
  {
    stage: 'asked',
    behind: { 'arrives-twice': 3 },
    told: CERTAIN,
    setUp: NEVER,
    signs: { 'ordered-twice': 0.96, 'handed-twice': 0.03, 'bench-once': 0.95 },
    codes: ['asked-twice'],
  },
  {
    stage: 'outbox',
    behind: { 'arrives-twice': 2 },
    told: CERTAIN,
    setUp: NEVER,
    signs: { 'ordered-twice': 0.02, 'handed-twice': 0.96, 'bench-once': 0.6 },
    codes: ['handed-twice'],
  },
  {
    stage: 'network',
    behind: { 'arrives-twice': 1.5 },
    told: NEVER,
    setUp: NEVER,
    signs: { 'ordered-twice': 0.02, 'handed-twice': 0.02, 'bench-once': 0.1 },
    shows: { 'bench-once': false },
    codes: ['network-repeats'],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 3, 'worked-before': 1.5, 'app-silent': 0.3 },
    told: CERTAIN,
    setUp: NEVER,
    signs: { ...NOTHING_IN, 'in-called': 0.95 },
    codes: [
      'signature-missing',
      'signature-wrong',
      'signature-stale',
      'inbound-too-large',
      'inbound-unreadable',
      'arrived-on-another-number',
      'number-not-a-channel',
      'chat-origin-refused',
    ],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 3, 'worked-before': 1.5, 'app-silent': 0.2 },
    told: SELDOM,
    setUp: READ,
    signs: { ...NOTHING_IN, 'in-called': 0.3 },
    codes: [
      'inbound-method',
      'challenge-wrong',
      'address-missing',
      'address-not-ours',
      'address-on-another-number',
      'events-not-subscribed',
      'callback-unverified',
      'test-mode-on',
      'mode-development',
      'number-gone',
      'trunk-down',
      'trunk-bind-wrong',
      'encryption-refused',
      'trunk-bound-elsewhere',
    ],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 0.4, 'worked-before': 0.3, 'app-silent': 0.1 },
    told: NEVER,
    setUp: CERTAIN,
    signs: { ...NOTHING_IN, 'in-called': 0.1 },
    codes: [
      'door-unreachable',
      'door-answered-by-other',
      'door-another-installation',
      'door-header-lost',
      'door-body-altered',
    ],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 0.3 },
    told: NEVER,
    setUp: HARMLESS,
    signs: NOTHING_IN,
    codes: [
      'fallback-empty',
      'inbound-partly-unreadable',
      'inbound-silent',
      'receipts-stopped',
      'submits-fell',
      'app-answers-fell',
      'delivery-test-fails',
      'broadcast-held',
      'heartbeat-not-accepted',
      'change-reverted',
      'change-not-reverted',
      'one-way-sender',
      'credential-expires',
      'account-disabled',
    ],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 4, 'worked-before': 0.6 },
    told: NEVER,
    setUp: NEVER,
    signs: { ...NOTHING_IN, 'in-called': 0.04 },
    codes: ['provider-silent'],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 2, 'worked-before': 0.4 },
    told: NEVER,
    setUp: NEVER,
    signs: { ...NOTHING_IN, 'in-called': 0.04, 'provider-log-has-it': 0.03 },
    between: ['person', 'provider'],
    codes: ['number-moved'],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 1.2 },
    told: NEVER,
    setUp: NEVER,
    signs: { 'bench-in': 0.97, 'wrote-here': 0.05, 'provider-log-has-it': 0.05 },
    shows: { 'wrote-here': false },
    between: ['person', 'provider'],
    codes: ['wrote-elsewhere'],
  },
  {
    stage: 'address',
    behind: { 'replies-missing': 0.9 },
    told: NEVER,
    setUp: NEVER,
    signs: { 'bench-in': 0.97, 'wrote-here': 0.97, 'shown-sent': 0.04, 'provider-log-has-it': 0.03 },
    shows: { 'shown-sent': false },
    between: ['person', 'provider'],
    codes: ['not-sent-by-phone'],
  },
  {
    stage: 'route',
    behind: { 'replies-missing': 2, 'app-silent': 2.5, 'worked-before': 1 },
    told: CERTAIN,
    setUp: LIKELY,
    signs: { ...IN_AND_LOST, 'in-routed': 0.05, 'app-told': 0.03 },
    codes: ['no-route', 'auto-reply-loop', 'no-routes', 'channel-without-route'],
  },
  {
    stage: 'route',
    behind: { 'app-silent': 2, 'replies-missing': 1, 'worked-before': 1 },
    told: CERTAIN,
    setUp: NEVER,
    signs: IN_AND_LOST,
    codes: ['look-up-failed'],
  },
  {
    stage: 'route',
    behind: { 'replies-missing': 1, 'app-silent': 2, 'worked-before': 1 },
    told: NEVER,
    setUp: CERTAIN,
    signs: { ...IN_AND_LOST, 'in-routed': 0.8, 'app-told': 0.05 },
    codes: ['draft-unpublished', 'route-switched-off', 'route-shadowed', 'route-contradicts-itself', 'app-not-routed'],
  },
  {
    stage: 'app',
    behind: { 'app-silent': 3, 'replies-missing': 1.5, 'worked-before': 1.5 },
    told: CERTAIN,
    setUp: LIKELY,
    signs: { ...IN_AND_LOST, 'in-routed': 0.95, 'app-told': 0.03 },
    codes: [
      'app-unreachable',
      'app-timeout',
      'app-error',
      'app-signature-refused',
      'app-refused',
      'app-answers-page',
      'app-redirects',
      'app-address-unknown',
      'app-clock-off',
      'app-gone',
      'address-not-allowed',
      'webhook-paused',
      'event-not-subscribed',
    ],
  },
  {
    stage: 'app',
    behind: { 'app-silent': 1, 'replies-missing': 0.4 },
    told: NEVER,
    setUp: NEVER,
    signs: { ...IN_AND_LOST, 'in-routed': 0.95, 'app-told': 0.98 },
    between: ['app', 'screen'],
    codes: ['app-hides'],
  },
];

/** Causes the catalogue has for automations and records are behind what apps complain of. */
const LISTED = new Set(LINES.flatMap(({ codes }) => codes));
const REST: Line = {
  stage: 'asked',
  behind: { 'app-cannot-send': 1, 'app-silent': 1, 'worked-before': 0.7, 'nothing-arrives': 0.2, 'only-some': 0.2 },
  told: CERTAIN,
  setUp: SELDOM,
  codes: causeCodes().filter((code: CauseCode) => !LISTED.has(code)),
};

/** Where the causes of a stage lie, by the way the complaint is about. */
export const BETWEEN: Readonly<Partial<Record<Stage, readonly [Place, Place]>>> = {
  asked: ['asker', 'windgap'],
  account: ['windgap', 'provider'],
  outbox: ['windgap', 'provider'],
  network: ['provider', 'phone'],
  address: ['provider', 'door'],
  route: ['windgap', 'app'],
  app: ['windgap', 'app'],
};

/** The same code may stand on two lines, for its two directions; each symptom then reads the line it is on. */
export const POSSIBILITIES: readonly Possibility[] = [...LINES, REST].flatMap((each) => {
  const { stage, setUp = NEVER, told = NEVER, signs = {}, shows = {}, between = BETWEEN[stage], codes } = each;
  const line = each === REST ? 'rest' : `${stage}/${codes[0]}`;
  const behind = fittedShares(line, each.behind);
  return codes.map((code) => ({
    code,
    stage,
    line,
    behind,
    setUp,
    told,
    signs,
    shows,
    ...(between ? { between } : {}),
  }));
});

/** The shares as they were set by hand, times what was learnt from cases that had happened. */
function fittedShares(line: string, behind: Possibility['behind']): Possibility['behind'] {
  const factors = FITTED[line] ?? {};
  return Object.fromEntries(
    Object.entries(behind).map(([symptom, share]) => [symptom, share * (factors[symptom as Symptom] ?? 1)]),
  );
}

/** Behind every symptom there may be any cause: nobody has seen everything. */
export const LEAST = 0.002;

/** They say where, in somebody's words, and not why: a cause that names no cause. */
const SAYS_ONLY_WHERE: ReadonlySet<string> = new Set<CauseCode>([
  'undelivered-unknown',
  'request-refused',
  'app-refused',
  'answered-by-other',
  'outcome-unknown',
  'gave-up',
]);

export const saysOnlyWhere = (code: string): boolean => SAYS_ONLY_WHERE.has(code);
