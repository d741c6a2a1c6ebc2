/** Checks that need the whole house to be seen at once: what one part expects of another and does not get. Pure. */
import { displayAddress } from '../addresses/display';
import { type CauseCode, cause } from '../delivery/causes';
import type { Severity } from '../finding';
import type { Examined, ReadinessSubject } from './readiness';

export interface HouseFacts {
  now: number;
  channels: {
    id: string;
    name: string;
    address: string;
    accountId: string;
    accountName: string;
    /** When the provider stopped listing its number. */
    goneAt?: number;
    /** ISO 3166-1 codes the account may send to; undefined where the provider does not tell. */
    allowed?: readonly string[];
    /** People in conversations on it, by country. */
    people: Readonly<Record<string, number>>;
    /** Due longest of what it has to send, and how many wait. */
    waiting?: { since: number; count: number };
  }[];
  accounts: {
    id: string;
    name: string;
    balanceMicros?: number;
    currency?: string;
    /** Spent in the last seven days. */
    spentMicros: number;
  }[];
  apps: {
    id: string;
    name: string;
    /** Whether a live route tells it of what comes in. */
    told: boolean;
    /** Event types of each standing subscription. */
    subscribed: readonly (readonly string[])[];
    /** Keys that ended while they were in use. */
    endedKeys: readonly { name: string; endedAt: number }[];
    records?: { state: 'accepted' | 'refused' | 'unreachable'; cause?: CauseCode };
  }[];
  draft?: { changedAt: number; by: string };
  /** Routes switched off, with how much they took in the seven days before. */
  off: readonly { id: string; name: string; hits: number }[];
  automations: readonly { id: string; name: string; what: string; href: string; offAt: number; usedAt?: number }[];
}

const DAY = 86_400_000;
const WAITS_TOO_LONG = 2 * 60_000;
/** Credit for fewer days than this is said. */
const LOW_CREDIT = 3;
const MESSAGE_IN = 'windgap.message.received';

export function examineHouse(facts: HouseFacts): Examined[] {
  return [
    ...facts.channels.flatMap((channel) => ofChannel(channel, facts.now)),
    ...facts.accounts.flatMap(ofCredit),
    ...facts.apps.flatMap(ofApp),
    ...ofRoutes(facts),
    ...facts.automations.flatMap((automation) => ofAutomation(automation, facts.now)),
  ];
}

function known(
  code: CauseCode,
  severity: Severity,
  subject: ReadinessSubject,
  context: Parameters<ReturnType<typeof cause>['explain']>[0],
  more: Partial<Examined> = {},
): Examined {
  const { explain, mend } = cause(code);
  return { code, severity, problem: explain(context), mend, subject, affects: [subject.id], ...more };
}

function ofChannel(channel: HouseFacts['channels'][number], now: number): Examined[] {
  const { id, name, address, accountName, goneAt, allowed, people, waiting } = channel;
  const subject: ReadinessSubject = { kind: 'channel', id, name, href: `/connect/channels/${id}` };
  return [
    ...(goneAt === undefined
      ? []
      : [
          known(
            'number-gone',
            'error',
            subject,
            { who: accountName, subject: displayAddress(address) },
            { since: goneAt },
          ),
        ]),
    ...Object.entries(people).flatMap(([country, count]) => {
      if (!allowed || allowed.includes(country)) return [];
      const { mend } = cause('country-off');
      return [
        {
          code: 'country-off',
          severity: 'attention' as const,
          problem: `${count === 1 ? 'One person' : `${count} people`} in conversation here ${count === 1 ? 'has' : 'have'} a number of ${country}, where ${accountName} may not send.`,
          mend,
          subject,
          about: country,
          affects: [id],
        },
      ];
    }),
    ...(waiting && now - waiting.since > WAITS_TOO_LONG
      ? [
          known(
            'queue-behind',
            'attention',
            subject,
            { subject: name, said: `${waiting.count} wait` },
            { since: waiting.since },
          ),
        ]
      : []),
  ];
}

function ofCredit({ id, name, balanceMicros, spentMicros }: HouseFacts['accounts'][number]): Examined[] {
  if (balanceMicros === undefined || balanceMicros <= 0 || spentMicros <= 0) return [];
  const days = balanceMicros / (spentMicros / 7);
  if (days >= LOW_CREDIT) return [];
  const left = days < 1 ? 'less than a day' : days < 2 ? 'a day' : 'two days';
  const subject: ReadinessSubject = { kind: 'account', id, name, href: `/connect/providers/${id}` };
  return [known('credit-low', 'attention', subject, { who: name, said: left })];
}

function ofApp({ id, name, told, subscribed, endedKeys, records }: HouseFacts['apps'][number]): Examined[] {
  const subject: ReadinessSubject = { kind: 'app', id, name, href: `/apps/${id}` };
  const takes = subscribed.some((events) => events.includes(MESSAGE_IN));
  return [
    ...(told && !takes ? [known('event-not-subscribed', 'error', subject, { who: name })] : []),
    ...(!told && takes ? [known('app-not-routed', 'attention', subject, { who: name })] : []),
    ...endedKeys.map((key) =>
      known('key-expired', 'error', subject, { who: name }, { about: key.name, since: key.endedAt }),
    ),
    ...(records && records.state !== 'accepted' && records.cause
      ? [
          known(
            records.cause,
            records.state === 'refused' ? 'error' : 'attention',
            subject,
            { who: name },
            { about: 'records' },
          ),
        ]
      : []),
  ];
}

/** A draft is somebody at work; one that lies for a day was forgotten, or is thought to be live. */
function ofRoutes({ draft, off, now }: HouseFacts): Examined[] {
  const href = '/route/routes';
  return [
    ...(draft
      ? [
          known(
            'draft-unpublished',
            now - draft.changedAt > DAY ? 'attention' : 'notice',
            { kind: 'routes', id: 'draft', name: 'The routes', href },
            { who: draft.by },
            { since: draft.changedAt, affects: ['*'] },
          ),
        ]
      : []),
    ...off.flatMap(({ id, name, hits }) =>
      hits === 0
        ? []
        : [known('route-switched-off', 'notice', { kind: 'route', id, name, href }, { subject: `“${name}”` })],
    ),
  ];
}

const RECENT = 14 * DAY;

/** One that was in use and is off: it may be why something no longer happens. */
function ofAutomation(
  { id, name, what, href, offAt, usedAt }: HouseFacts['automations'][number],
  now: number,
): Examined[] {
  if (usedAt === undefined || now - offAt > RECENT || usedAt < offAt - RECENT) return [];
  const subject: ReadinessSubject = { kind: 'automation', id, name: `${name}, ${what}`, href };
  return [known('automation-off', 'notice', subject, { subject: `“${name}”` }, { since: offAt })];
}
