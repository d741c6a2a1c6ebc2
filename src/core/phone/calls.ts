/**
 * Phone events: what a telephone system posts about a call, and whether staff are alerted or
 * the caller gets an answer. Pure.
 */
import { normaliseAddress } from '../addresses/address';
import type { Finding } from '../finding';
import { missingField, type PostedRecord, plainText } from '../text/fields';
import { measureText } from '../text/measure';

export const CALL_EVENTS = ['incoming', 'missed', 'voicemail-box'] as const;
export type CallEvent = (typeof CALL_EVENTS)[number];

/** In words; that a call came to the voicemail box does not mean that anything was said there. */
export const CALL_WORDS: Record<CallEvent, string> = {
  incoming: 'is calling',
  missed: 'called and was not answered',
  'voicemail-box': 'called and came to the voicemail box; whether a message was left is not known',
};

export interface Call {
  event: CallEvent;
  /** As posted; empty when it was withheld. */
  caller: string;
  called: string;
  /** The telephone system's own id of the call, by which a repeat is known. */
  callId?: string;
}

export type ReadCall = { ok: true; call: Call } | { ok: false; finding: Finding };

const FIELDS = ['event', 'caller', 'called'] as const;

export function readCall(record: PostedRecord): ReadCall {
  for (const field of FIELDS)
    if (!Object.hasOwn(record, field)) return { ok: false, finding: missingField(record, field) };
  const [event = '', caller = '', called = '', callId = ''] = [...FIELDS, 'call'].map((name) =>
    Object.hasOwn(record, name) ? (plainText(record[name]) ?? '').trim() : '',
  );
  const known = CALL_EVENTS.find((name) => name === event.toLowerCase());
  if (known) return { ok: true, call: { event: known, caller, called, callId: callId || undefined } };
  return {
    ok: false,
    finding: {
      code: 'call-event-unknown',
      severity: 'error',
      problem: `“${event}” is no event that is known here.`,
      remedy: `Have the telephone system post ${CALL_EVENTS.join(', ')}.`,
    },
  };
}

export interface CallFacts {
  /** ISO 3166-1 alpha-2, for callers without a country code. */
  country?: string;
  /** Our own numbers, in E.164. */
  own: readonly string[];
  /** When this caller was last answered. */
  answeredAt?: number;
  /** Milliseconds in which a caller is answered at most once. */
  once: number;
  now: number;
}

export type Answerable = { yes: true; to: string } | { yes: false; why: string };

const HIDDEN = /^(anonymous|withheld|private|hidden|unknown|unavailable|restricted|no ?number|\+?266696687)$/i;

/** Whether the caller may be answered with a text, and why not. */
export function answerable(caller: string, { country, own, answeredAt, once, now }: CallFacts): Answerable {
  const no = (why: string): Answerable => ({ yes: false, why });
  if (caller === '' || HIDDEN.test(caller)) return no('The caller’s number is hidden.');
  if (/^\d{3,8}$/.test(caller) && !caller.startsWith('0'))
    return no(`${caller} is a short code, which no person calls from.`);
  const number = normaliseAddress(caller, { defaultCountry: country });
  if (!number.ok) return no(`The caller’s number cannot be answered. ${number.finding.problem}`);
  const { value, kind } = number.address;
  if (own.includes(value))
    return no('The call came from one of our own numbers: an answer could go round in a circle.');
  if (kind === 'fixed') return no(`${value} is a fixed line, which gets no texts as a rule.`);
  if (answeredAt !== undefined && now - answeredAt < once)
    return no(`This caller was answered within the last ${Math.round(once / 3_600_000)} hours.`);
  return { yes: true, to: value };
}

/** What is wrong with an answer as text: it is to be one part, so that a call that comes unasked never costs more. */
export function examineAnswer(text: string): Finding | undefined {
  const { parts, encoding, forcing, units } = measureText(text);
  if (parts.length === 1) return undefined;
  const [first] = forcing;
  const remedy = first
    ? `“${first.char}” is outside the SMS alphabet, so a part holds 70 units instead of 160${first.substitute ? `; write ${first.substitute} instead` : ''}.`
    : `Shorten it by ${units - 160}.`;
  return {
    code: 'answer-too-long',
    severity: 'error',
    problem: `The answer has ${units} units of ${encoding} and needs ${parts.length} parts; one is allowed.`,
    remedy,
    place: first && { from: first.at, to: first.at + first.char.length },
  };
}
