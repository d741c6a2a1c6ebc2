/**
 * Judges one round of a delivery test by what was seen: each expectation holds, fails, or is
 * still open until its time is over. Presence counts only where absence was seen before.
 */
import { type CauseCode, cause } from '../delivery/causes';
import type { Expectation } from './deliveryTest';
import { expectationWords, type TestNames } from './wording';

export interface Seen {
  /** Epoch milliseconds: when the stimulus was given, and now. */
  began: number;
  now: number;
  /** Why the stimulus itself was refused. */
  refused?: { cause?: CauseCode; said: string };
  /** The message that came in. */
  message?: { id: string; at: number };
  routing?: { outcome: string; routes: readonly { id: string; name: string }[]; cause?: CauseCode };
  /** Messages that left because of the stimulus. */
  sent: readonly {
    id: string;
    to: string;
    text: string;
    state: string;
    cause?: CauseCode;
    /** When the receipt says that it arrived. */
    deliveredAt?: number;
  }[];
  /** What appeared on handsets that can be seen; only texts this test caused. */
  arrivals: readonly { phone: string; text: string; at: number }[];
  /** Handsets that can be seen. */
  visible: readonly string[];
  /** What apps were told of the message that came in. */
  told: readonly { app: string; at?: number; body: unknown; cause?: CauseCode }[];
  /** Records of a phone in an app: how many before, and now. */
  records: readonly { app: string; record: string; phone: string; before?: number; now?: number; at?: number }[];
  /** Texts on the handsets shortly before it began that no message of the installation explains. */
  presentBefore: readonly { phone: string; text: string }[];
}

export interface Verdict {
  holds: boolean | undefined;
  /** What was expected, as a sentence. */
  expected: string;
  /** What was seen, as a sentence. */
  said: string;
  /** From the stimulus until it was settled, milliseconds. */
  tookMs?: number;
  cause?: CauseCode;
}

export interface Round {
  began: number;
  ended?: number;
  verdicts: Verdict[];
  /** Messages by which the way can be read. */
  messages: string[];
  refused?: string;
}

/** `holds` is undefined while it may still come true or fail. */
export function judgeRound(expectations: readonly Expectation[], seen: Seen, names: TestNames): Verdict[] {
  return expectations.map((each) => ({ expected: expectationWords(each, names), ...judge(each, seen, names) }));
}

type Judged = Omit<Verdict, 'expected'>;

function judge(expectation: Expectation, seen: Seen, names: TestNames): Judged {
  if (expectation.expect === 'refused') return judgeRefusal(expectation.cause, seen);
  if (seen.refused && expectation.expect !== 'silence' && expectation.expect !== 'once')
    return {
      holds: false,
      said: `It was refused: ${seen.refused.said}`,
      ...(seen.refused.cause && { cause: seen.refused.cause }),
    };
  switch (expectation.expect) {
    case 'arrives':
      return judgeArrival(expectation, seen);
    case 'routed':
      return judgeRouting(expectation.route, seen, names);
    case 'told':
      return judgeTold(expectation, seen);
    case 'record':
      return judgeRecord(expectation, seen);
    case 'delivered':
      return judgeReceipt(expectation.within, seen);
    case 'round-trip':
      // There and back: what was written came in, and what answers it arrived.
      return seen.message
        ? judgeReceipt(expectation.within, seen)
        : open(seen, expectation.within, 'Nothing has come in that could be answered');
    case 'once':
      return judgeOnce(expectation.during, seen);
    case 'silence':
      return judgeSilence(expectation, seen);
  }
}

const over = ({ began, now }: Seen, within: number) => now - began > within * 1000;
const took = ({ began }: Seen, at: number) => Math.max(0, at - began);

function open(seen: Seen, within: number, said: string, why?: CauseCode): Judged {
  return { holds: over(seen, within) ? false : undefined, said, ...(why && { cause: why }) };
}

function failedOn({ sent, routing, told }: Seen): CauseCode | undefined {
  return (
    sent.find((message) => message.cause)?.cause ?? routing?.cause ?? told.find((delivery) => delivery.cause)?.cause
  );
}

function judgeArrival(expected: Extract<Expectation, { expect: 'arrives' }>, seen: Seen): Judged {
  if (seen.presentBefore.some(({ phone, text }) => phone === expected.phone && fits(expected, text)))
    return {
      holds: false,
      said: 'The like of it came from elsewhere before the test began, so its presence proves nothing',
    };
  const here = seen.visible.includes(expected.phone)
    ? seen.arrivals.filter(({ phone }) => phone === expected.phone)
    : seen.sent.flatMap(({ to, text, deliveredAt }) =>
        to === expected.phone && deliveredAt !== undefined ? [{ phone: to, text, at: deliveredAt }] : [],
      );
  const right = here.find(({ text, at }) => fits(expected, text) && at - seen.began <= expected.within * 1000);
  if (right)
    return {
      holds: true,
      said: `Arrived: “${short(right.text)}”${seen.visible.includes(expected.phone) ? '' : ', by its receipt'}`,
      tookMs: took(seen, right.at),
    };
  const late = here.find(({ text }) => fits(expected, text));
  if (late) return { holds: false, said: 'It arrived too late', tookMs: took(seen, late.at) };
  const why = failedOn(seen);
  if (why) return open(seen, expected.within, cause(why).title, why);
  const other = here[0];
  return open(
    seen,
    expected.within,
    other
      ? `Something else arrived: “${short(other.text)}”`
      : seen.sent.some(({ to }) => to === expected.phone)
        ? 'It left and has not arrived'
        : 'Nothing has left for this phone',
  );
}

function fits({ way, text }: Extract<Expectation, { expect: 'arrives' }>, got: string): boolean {
  if (way === 'anything') return true;
  return way === 'is' ? got === text : got.toLowerCase().includes(text.toLowerCase());
}

/** Routing is a matter of moments; a message nobody routed after half a minute is not going to be. */
const ROUTED_WITHIN = 30;

function judgeRouting(route: string, seen: Seen, names: TestNames): Judged {
  const { routing, message } = seen;
  if (!routing)
    return open(
      seen,
      ROUTED_WITHIN,
      message ? 'It came in and is not decided yet' : 'It has not come in',
      failedOn(seen),
    );
  const at = message ? took(seen, message.at) : undefined;
  const took_ = routing.routes.map(({ name }) => `“${name}”`).join(', then ') || 'no route';
  const right = route === '' ? routing.routes.length === 0 : routing.routes.some(({ id }) => id === route);
  return {
    holds: right,
    said: right ? `Handled by ${took_}` : `Handled by ${took_}, and not by ${names.route(route)}`,
    tookMs: at,
    ...(!right && routing.cause && { cause: routing.cause }),
  };
}

function judgeTold(expected: Extract<Expectation, { expect: 'told' }>, seen: Seen): Judged {
  const told = seen.told.filter(({ app }) => app === expected.app);
  const taken = told.find(({ at }) => at !== undefined && at - seen.began <= expected.within * 1000);
  if (!taken) {
    const why = told.find((each) => each.cause)?.cause;
    if (why) return open(seen, expected.within, cause(why).title, why);
    return open(seen, expected.within, told.length > 0 ? 'The event is on its way' : 'No event is on its way to it');
  }
  const at = took(seen, taken.at ?? seen.began);
  if (!expected.field) return { holds: true, said: 'It accepted the event', tookMs: at };
  const value = fieldOf(taken.body, expected.field);
  const right = value !== undefined && String(value) === expected.value;
  return {
    holds: right,
    said:
      value === undefined
        ? `The event has no field “${expected.field}”`
        : `“${expected.field}” was “${short(String(value))}”`,
    tookMs: at,
  };
}

/** A field by its path, such as `data.message.text`. */
export function fieldOf(body: unknown, path: string): unknown {
  return path
    .split('.')
    .reduce<unknown>(
      (value, key) =>
        value !== null && typeof value === 'object' ? (value as Record<string, unknown>)[key] : undefined,
      body,
    );
}

function judgeRecord(expected: Extract<Expectation, { expect: 'record' }>, seen: Seen): Judged {
  const look = seen.records.find(
    ({ app, record, phone }) => app === expected.app && record === expected.record && phone === expected.phone,
  );
  if (!look || look.before === undefined)
    return open(seen, expected.within, 'The app did not say what it had before the test began');
  if (look.now === undefined) return open(seen, expected.within, 'The app does not answer', failedOn(seen));
  if (look.now > look.before)
    return {
      holds: true,
      said: `There ${look.before === 1 ? 'was 1' : `were ${look.before}`} before and ${look.now} now`,
      tookMs: took(seen, look.at ?? seen.now),
    };
  return open(
    seen,
    expected.within,
    look.before > 0 ? `There were ${look.before} before and none was added` : 'There is none yet',
    failedOn(seen),
  );
}

function judgeReceipt(within: number, seen: Seen): Judged {
  const arrived = seen.sent.find(
    ({ deliveredAt }) => deliveredAt !== undefined && deliveredAt - seen.began <= within * 1000,
  );
  if (arrived) return { holds: true, said: 'Its receipt says delivered', tookMs: took(seen, arrived.deliveredAt ?? 0) };
  const lost = seen.sent.find(({ state }) => state === 'failed');
  const why = failedOn(seen);
  if (lost) return { holds: false, said: why ? cause(why).title : 'It was reported lost', ...(why && { cause: why }) };
  return open(
    seen,
    within,
    why ? cause(why).title : seen.sent.length > 0 ? 'No receipt has come' : 'Nothing has left',
    why,
  );
}

function judgeOnce(during: number, seen: Seen): Judged {
  const counted = new Map<string, number>();
  for (const { phone, text } of seen.arrivals)
    counted.set(`${phone} ${text}`, (counted.get(`${phone} ${text}`) ?? 0) + 1);
  const most = Math.max(0, ...counted.values());
  if (most > 1) return { holds: false, said: `It arrived ${most} times` };
  if (!over(seen, during)) return { holds: undefined, said: most === 1 ? 'Once so far' : 'Not once yet' };
  return most === 1
    ? { holds: true, said: `Once in ${during} seconds` }
    : { holds: false, said: 'It did not arrive at all', ...causeIn(seen) };
}

function judgeSilence({ phone, during }: Extract<Expectation, { expect: 'silence' }>, seen: Seen): Judged {
  const broken = seen.arrivals.find((arrival) => arrival.phone === phone);
  if (broken) return { holds: false, said: `“${short(broken.text)}” arrived`, tookMs: took(seen, broken.at) };
  return over(seen, during)
    ? { holds: true, said: `Nothing in ${during} seconds` }
    : { holds: undefined, said: 'Nothing so far' };
}

const REFUSED_WITHIN = 30;

function judgeRefusal(code: string, seen: Seen): Judged {
  const why = seen.refused?.cause ?? seen.sent.find((message) => message.cause)?.cause;
  const said = seen.refused?.said ?? (why && cause(why).title);
  if (said !== undefined) {
    const right = code === '' || why === code;
    return {
      holds: right,
      said: right ? `Refused, as it must be: ${said}` : `Refused for another cause: ${said}`,
      ...(why && !right && { cause: why }),
    };
  }
  if (seen.sent.some(({ deliveredAt }) => deliveredAt !== undefined))
    return { holds: false, said: 'It was not refused: it arrived' };
  return open(seen, REFUSED_WITHIN, 'It has not been refused');
}

function causeIn(seen: Seen): { cause?: CauseCode } {
  const why = failedOn(seen);
  return why ? { cause: why } : {};
}

const short = (text: string) => (text.length > 60 ? `${text.slice(0, 59)}…` : text);
