/**
 * The held link of a trunk: binds, keeps alive, reconnects with growing delay, and lets
 * texts through within window and pace. Sources: SMPP 3.4 §2.2 (bind states), §2.7
 * (windows), §4.11 (enquire_link).
 *
 * What was written to a connection that then broke may or may not have been taken. Such a
 * text ends as "outcome unknown" and is never written again by the link.
 *
 * A carrier may keep answering enquire_link while the service behind it takes nothing. A submit
 * that is not answered in time frees its place in the window; after several in a row the link is
 * bound anew, and then lets one text through at a time until one is answered.
 */

import smpp, { type Session } from 'smpp';
import type { Timer } from '../../clock/clock';
import { cause } from '../../core/delivery/causes';
import { bulkPace, queueUp } from '../../core/pacing/bulk';
import { askedAhead, createLastLook } from '../../core/pacing/lastLook';
import { textsAhead } from '../../core/pacing/prefetch';
import { newRateLimiter, noteSent, noteUsed, paceNow, take } from '../../core/pacing/rateLimiter';
import { levelId } from '../../core/trunk/receipts';
import { explainStatus } from '../../core/trunk/refusals';
import { planSubmits, type SubmitPart } from '../../core/trunk/submits';
import { outsideUnit } from '../../core/unitOfWork';
import type { Accepted, Exchange, Failure, Outcome, TrunkEvents, TrunkLink, TrunkText } from '../connector';
import type { Outside } from '../outside/outside';
import type { TrunkSettings } from './dialect';
import {
  answerOf,
  bindPdu,
  deliverAsRequest,
  type LinkAddress,
  type PDU,
  readableFields,
  submitPdu,
  textual,
  urlOf,
} from './pdus';
import { connectSession, failureOf, NOT_ALLOWED, readyEvent } from './session';

const FIRST_DELAY = 500;
const LONGEST_DELAY = 60_000;
/** Pause of the whole link after the carrier asked for one. */
const THROTTLE_PAUSE = 1000;
/** How often one part may be throttled when others of its text are taken already. */
const MOST_THROTTLED = 20;
/** A question that failed is asked again after so many milliseconds. */
const ASK_AGAIN = 200;
const CLOSING_PATIENCE = 5000;
const SWEEP_EVERY = 100;
const CLOSING: Failure = { cause: 'trunk-down', said: 'the trunk is being closed' };
/** Submits in a row without an answer after which the link is taken for half-dead. */
const HALF_DEAD_AFTER = 3;

/** One text on its way over the link; its parts follow one another, each when the one before is taken. */
interface Passage {
  text: TrunkText;
  parts: PDU[];
  /** Carrier's ids of the parts taken so far. */
  ids: string[];
  /** When its first part was written, epoch milliseconds. */
  began: number;
  /** The same by the clock's durations. */
  since: number;
  answer?: Exchange['response'];
  settled: boolean;
  resolve(outcome: Outcome<Accepted>): void;
}

interface Submit {
  passage: Passage;
  index: number;
  throttled: number;
  /** When it was written, by the clock's durations. */
  sentAt?: number;
  /** Given up as unknown; only a late answer can still say something. */
  expired?: boolean;
}

export function openLink(
  address: LinkAddress,
  settings: TrunkSettings,
  events: TrunkEvents,
  { network, clock }: Pick<Outside, 'network' | 'clock'>,
): TrunkLink {
  const waiting: Submit[] = [];
  const rateLimiter = newRateLimiter();
  const ofBulk = newRateLimiter();
  const lastLook = createLastLook<Submit>(
    clock.elapsed,
    async ({ passage }) => (await passage.text.stillLeaves?.()) ?? true,
    heardOf,
  );
  const url = urlOf(address);
  const answerMs = settings.answerSeconds * 1000;
  const concealed = new WeakSet<PDU>();
  let connection: Connection | undefined;
  let attempts = 0;
  let closing = false;
  let pausedUntil = 0;
  /** Submits in a row that were not answered in time. */
  let unheard = 0;
  /** Until a submit is answered after the link was half-dead. */
  let onTrial = false;
  let lastFailure: string | undefined;
  let pumpTimer: Timer | undefined;
  let reconnectTimer: Timer | undefined;
  const sweeper = clock.every(SWEEP_EVERY, () => connection?.sweep());

  connect();

  function connect() {
    events.changed({ state: 'binding' });
    connection = openConnection({
      bound() {
        if (!onTrial) attempts = 0;
        unheard = 0;
        // Bound, and not yet seen to take anything again.
        events.changed(onTrial ? { state: 'bound', cause: 'trunk-half-dead', said: lastFailure } : { state: 'bound' });
        pump();
      },
      lost(failure, lost) {
        connection = undefined;
        onTrial ||= failure.cause === 'trunk-half-dead';
        lastFailure = failure.said;
        for (const submit of lost) giveUp(submit, { cause: 'trunk-down', said: failure.said, outcomeUnknown: true });
        if (closing) return;
        const delay = reconnectDelay(attempts++, failure);
        const state = cause(failure.cause).transient ? 'waiting' : 'refused';
        events.changed({ state, cause: failure.cause, said: failure.said, nextTryAt: clock.now() + delay });
        // Nothing that waits here was written: it goes back and is asked for again when the link stands.
        for (const submit of waiting.splice(0))
          giveUp(submit, refusalOf(submit.passage, { cause: 'trunk-down', said: failure.said }));
        reconnectTimer = clock.after(delay, connect);
      },
    });
  }

  function pump() {
    pumpTimer?.cancel();
    while (waiting.length > 0 && connection?.bound) {
      const now = clock.elapsed();
      if (now < pausedUntil) return later(pausedUntil - now);
      if (waiting[0]?.passage.settled) {
        waiting.shift();
        continue;
      }
      const room = (onTrial ? 1 : settings.window) - connection.unanswered();
      if (room <= 0) return;
      const next = waiting[0] as Submit;
      const bulk = beginsBulk(next);
      const ofAll = take(rateLimiter, settings.pace, 0, now).waitMs;
      const waitMs = bulk ? Math.max(ofAll, take(ofBulk, bulkPace(settings.pace), 0, now).waitMs) : ofAll;
      if (waitMs > 0) return later(waitMs);
      if (isAsked(next) && !lastLook.isSure(next)) {
        lastLook.at(waiting.slice(0, askedAhead(settings.pace)).filter(isAsked));
        return;
      }
      take(rateLimiter, settings.pace, 1, now);
      if (next.passage.text.bulk) noteSent(ofBulk, now);
      waiting.shift();
      write(connection, next);
    }
  }

  /** Bulk yields as long as nothing of it is written; a text that has begun goes out whole. */
  const beginsBulk = ({ passage, index }: Submit) => passage.text.bulk === true && index === 0;
  const isAsked = ({ passage, index }: Submit) => passage.text.stillLeaves !== undefined && index === 0;

  function heardOf(submit: Submit, leaves: boolean | undefined) {
    if (leaves === undefined) return later(ASK_AGAIN);
    const place = leaves ? -1 : waiting.indexOf(submit);
    if (place >= 0) {
      waiting.splice(place, 1);
      giveUp(submit, { cause: 'taken-back' });
    }
    pump();
  }

  function later(ms: number) {
    pumpTimer = clock.after(Math.max(1, ms), pump);
  }

  function write(over: Connection, submit: Submit) {
    const since = clock.elapsed();
    submit.sentAt = since;
    if (submit.index === 0) Object.assign(submit.passage, { began: clock.now(), since });
    const pdu = submit.passage.parts[submit.index] as PDU;
    over.submit(pdu, submit, (answer) => {
      answered(submit, answer);
      pump();
    });
    const written = clock.elapsed();
    submit.sentAt = written;
    noteUsed(rateLimiter, written);
  }

  function answered(submit: Submit, answer: PDU) {
    const { passage, index } = submit;
    unheard = 0;
    attempts = 0;
    if (onTrial) events.changed({ state: 'bound' });
    onTrial = false;
    passage.answer = answerOf(answer);
    if (answer.command_status === 0) {
      passage.ids.push(levelId(String(answer.message_id ?? '')));
      if (passage.ids.length === passage.parts.length) accept(passage, submit.expired === true);
      else if (!passage.settled) waiting.unshift({ passage, index: index + 1, throttled: 0 });
      return;
    }
    const { cause: code, name } = explainStatus(answer.command_status);
    if (code === 'throttled') {
      pausedUntil = clock.elapsed() + THROTTLE_PAUSE;
      if (passage.ids.length > 0 && submit.throttled < MOST_THROTTLED) {
        passage.parts[index] = copyOf(passage, index);
        waiting.unshift({ passage, index, throttled: submit.throttled + 1 });
        return;
      }
    }
    giveUp(
      submit,
      refusalOf(passage, { cause: code, said: name, retryAfter: code === 'throttled' ? THROTTLE_PAUSE : undefined }),
    );
  }

  function pduOf(text: Passage['text'], part: SubmitPart, index: number): PDU {
    const pdu = submitPdu(text, part, (text.mark + index) & 0xffff);
    if (text.shown !== undefined) concealed.add(pdu);
    return pdu;
  }

  /** For records: without the octets of a text that is for its recipient alone. */
  function recorded(pdu: PDU): Record<string, unknown> {
    const { short_message, message_payload, ...rest } = readableFields(pdu);
    if (concealed.has(pdu)) return rest;
    return { ...rest, ...(short_message ? { short_message } : {}), ...(message_payload ? { message_payload } : {}) };
  }

  /** The package numbers a PDU when it is first written; a second writing needs a fresh one. */
  function copyOf({ text, parts }: Passage, index: number): PDU {
    const part = planSubmits(text.text, settings, text.mark)[index];
    return part ? pduOf(text, part, index) : (parts[index] as PDU);
  }

  /** When parts are taken already the text must not be tried again as a whole. */
  function refusalOf({ ids, parts }: Passage, failure: Failure): Failure {
    if (ids.length === 0) return failure;
    return { cause: 'partly-taken', said: `${failure.said}; ${ids.length} of ${parts.length} parts were taken` };
  }

  function accept(passage: Passage, late: boolean) {
    const { ids } = passage;
    const accepted: Accepted = { providerMessageId: ids[0] ?? '', parts: ids.length > 1 ? ids : undefined };
    if (passage.settled) {
      if (late) events.answeredLate(passage.text.reference, accepted);
      return;
    }
    settle(passage, { ok: true, value: accepted, exchange: exchangeOf(passage) });
  }

  function giveUp({ passage }: Submit, failure: Failure) {
    if (!passage.settled) settle(passage, { ok: false, failure, exchange: exchangeOf(passage) });
  }

  function settle(passage: Passage, outcome: Outcome<Accepted>) {
    passage.settled = true;
    passage.resolve(outcome);
  }

  function exchangeOf(passage: Passage): Exchange {
    const first = passage.parts[0] as PDU;
    const headers = textual(recorded(first));
    if (passage.parts.length > 1) headers.parts = String(passage.parts.length);
    return {
      at: passage.began,
      elapsedMs: Math.round(clock.elapsed() - passage.since),
      request: { method: 'submit_sm', url, headers, body: passage.text.shown ?? passage.text.text },
      response: passage.answer ?? null,
    };
  }

  interface Callbacks {
    bound(): void;
    lost(failure: Failure, unanswered: Submit[]): void;
  }

  interface Connection {
    readonly bound: boolean;
    unanswered(): number;
    /** What the carrier brought and was not answered yet; left so, it would be brought again over the next link. */
    storing(): number;
    submit(pdu: PDU, submit: Submit, answered: (answer: PDU) => void): void;
    /** Looks for what is overdue. */
    sweep(): void;
    unbind(): Promise<void>;
    /** Ends it at once; what was not answered is unknown. */
    abandon(): void;
  }

  /** One life of the link, from connecting to its end: a session, or two for a transmitter and a receiver. */
  function openConnection(callbacks: Callbacks): Connection {
    const pending = new Map<PDU, Submit>();
    const commands = settings.bind === 'transceiver' ? ['bind_transceiver'] : ['bind_transmitter', 'bind_receiver'];
    const sessions: Session[] = [];
    const corked = new Set<Session>();
    /** Of the pending ones those that may still be answered in time; the others hold no place in the window. */
    let unanswered = 0;
    let storing = 0;
    let standing = 0;
    let over = false;
    let heardAt = clock.elapsed();
    let enquiredAt: number | undefined;
    const openedAt = clock.elapsed();

    for (const command of commands) open(command);

    function open(command: string) {
      const session = connectSession(address, settings, network);
      // Told once there is a connection to tell it of.
      if (!session) return setImmediate(() => end(NOT_ALLOWED));
      sessions.push(session);
      session.on('error', (error: NodeJS.ErrnoException) => end(failureOf(error)));
      session.on('close', () => end({ cause: 'trunk-down', said: 'the carrier closed the connection' }));
      session.on('pdu', (pdu: PDU) => heard(session, pdu));
      session.on(readyEvent(settings), () => {
        session.socket.setNoDelay(true);
        send(session, bindPdu(command, address), (answer) => {
          if (answer.command_status !== 0) {
            const { cause: code, name } = explainStatus(answer.command_status);
            return end({ cause: code, said: `${name} to ${command}` });
          }
          standing += 1;
          if (standing === commands.length && !over) callbacks.bound();
        });
      });
    }

    /** What is sent in one turn leaves in one write. */
    function send(session: Session, pdu: PDU, answered?: (answer: PDU) => void): boolean {
      if (!corked.has(session)) {
        corked.add(session);
        session.socket.cork();
        setImmediate(() => {
          corked.delete(session);
          session.socket.uncork();
        });
      }
      const sent = session.send(pdu, answered);
      if (sent) note('out', pdu);
      return sent;
    }

    function heard(session: Session, pdu: PDU) {
      heardAt = clock.elapsed();
      note('in', pdu);
      if (pdu.isResponse()) return;
      if (pdu.command === 'enquire_link') send(session, pdu.response());
      else if (pdu.command === 'deliver_sm') void deliver(session, pdu);
      else if (pdu.command === 'unbind') {
        send(session, pdu.response());
        end({ cause: 'trunk-down', said: 'the carrier unbound' });
      } else send(session, pdu.response({ command_status: 3 }));
    }

    /** Stored first, answered second. When it cannot be stored, the carrier is asked to bring it again. */
    async function deliver(session: Session, pdu: PDU) {
      const request = deliverAsRequest(pdu, url);
      const arrival = `${openedAt.toString(36)}-${pdu.sequence_number}`;
      storing += 1;
      try {
        await events.arrived({ ...request, headers: { ...request.headers, windgap_arrival: arrival } });
        send(session, pdu.response());
      } catch {
        send(session, pdu.response({ command_status: 8 }));
      } finally {
        storing -= 1;
      }
    }

    function end(failure: Failure) {
      if (over) return;
      over = true;
      for (const session of sessions) session.destroy();
      const lost = [...pending.values()].filter((submit) => !submit.expired);
      pending.clear();
      unanswered = 0;
      callbacks.lost(failure, lost);
    }

    function enquire() {
      if (enquiredAt !== undefined) return;
      enquiredAt = clock.elapsed();
      let missing = sessions.length;
      for (const session of sessions) {
        send(session, new smpp.PDU('enquire_link'), () => {
          missing -= 1;
          if (missing === 0) enquiredAt = undefined;
        });
      }
    }

    return {
      get bound() {
        return !over && standing === commands.length;
      },
      unanswered: () => unanswered,
      storing: () => storing,
      submit(pdu, submit, onAnswer) {
        const session = sessions[0] as Session;
        pending.set(pdu, submit);
        unanswered += 1;
        const sent = send(session, pdu, (answer) => {
          if (!pending.delete(pdu)) return;
          if (!submit.expired) unanswered -= 1;
          onAnswer(answer);
        });
        if (!sent) end({ cause: 'trunk-down', said: 'the connection is gone' });
      },
      sweep() {
        const now = clock.elapsed();
        if (standing < commands.length) {
          if (now - openedAt > answerMs * 2) end({ cause: 'provider-timeout', said: 'no answer to the bind' });
          return;
        }
        for (const submit of pending.values()) {
          if (submit.expired || now - (submit.sentAt ?? now) < answerMs) continue;
          submit.expired = true;
          unanswered -= 1;
          unheard += 1;
          giveUp(submit, {
            cause: 'provider-timeout',
            said: `no answer within ${settings.answerSeconds} s`,
            outcomeUnknown: true,
          });
          enquire();
        }
        if (unheard >= Math.min(HALF_DEAD_AFTER, settings.window)) {
          const said = `${unheard} submits in a row were not answered within ${settings.answerSeconds} s`;
          return end({ cause: 'trunk-half-dead', said });
        }
        pump();
        if (now - heardAt > settings.keepAliveSeconds * 1000) enquire();
        if (enquiredAt !== undefined && now - enquiredAt > answerMs)
          end({ cause: 'trunk-down', said: 'no answer to enquire_link' });
      },
      abandon: () => end({ cause: 'trunk-down', said: 'the trunk was closed before the carrier answered' }),
      unbind: () =>
        new Promise((resolve) => {
          const done = () => {
            over = true;
            for (const session of sessions) session.destroy();
            resolve();
          };
          clock.limit(2000, done).unref();
          let missing = sessions.length;
          for (const session of sessions) {
            const sent = send(session, new smpp.PDU('unbind'), () => {
              missing -= 1;
              if (missing === 0) done();
            });
            if (!sent) done();
          }
        }),
    };
  }

  function note(way: 'in' | 'out', pdu: PDU) {
    events.pdu({
      at: clock.now(),
      way,
      command: pdu.command,
      status: pdu.command_status,
      sequence: pdu.sequence_number,
      fields: () => recorded(pdu),
    });
  }

  return {
    get bound() {
      return connection?.bound ?? false;
    },
    get unanswered() {
      return connection?.unanswered() ?? 0;
    },
    paceNow: () => paceNow(rateLimiter, clock.elapsed()),
    room(claimMs, bulk = true) {
      if (!connection?.bound || closing) return 0;
      if (onTrial) return connection.unanswered() + waiting.length > 0 ? 0 : 1;
      const most = settings.window + textsAhead(settings.pace, claimMs);
      const before = bulk ? waiting.length : waiting.filter((submit) => !beginsBulk(submit)).length;
      const held = connection.unanswered() + before;
      // A claim costs a commit: it is worth one when the window has places free, or for many.
      return held < settings.window || held <= most / 2 ? most - held : 0;
    },
    submit(text) {
      outsideUnit('a submit');
      return new Promise((resolve) => {
        const plan = planSubmits(text.text, settings, text.mark);
        const parts = plan.map((part, index) => pduOf(text, part, index));
        const passage: Passage = {
          text,
          parts,
          ids: [],
          began: clock.now(),
          since: clock.elapsed(),
          settled: false,
          resolve,
        };
        if (closing) return giveUp({ passage, index: 0, throttled: 0 }, CLOSING);
        if (!connection?.bound) return giveUp({ passage, index: 0, throttled: 0 }, { cause: 'trunk-down' });
        queueUp(waiting, { passage, index: 0, throttled: 0 }, beginsBulk);
        pump();
      });
    },
    async close() {
      closing = true;
      reconnectTimer?.cancel();
      // A text of which parts are taken goes out whole; the others have not begun.
      for (const submit of waiting.splice(0)) {
        if (submit.passage.ids.length > 0) waiting.push(submit);
        else giveUp(submit, CLOSING);
      }
      const deadline = clock.elapsed() + CLOSING_PATIENCE;
      const busy = () => connection && connection.unanswered() + connection.storing() + waiting.length > 0;
      while (busy() && clock.elapsed() < deadline) await clock.pause(20);
      sweeper.cancel();
      pumpTimer?.cancel();
      for (const submit of waiting.splice(0)) giveUp(submit, refusalOf(submit.passage, CLOSING));
      if (connection?.bound && connection.unanswered() === 0) await connection.unbind();
      connection?.abandon();
      events.changed({ state: 'off' });
    },
  };
}

/** Grows from half a second to a minute, with jitter; a refusal that will not pass by itself is asked again slowly. */
function reconnectDelay(attempts: number, failure: Failure): number {
  const base = cause(failure.cause).transient
    ? Math.min(FIRST_DELAY * 2 ** attempts, LONGEST_DELAY)
    : LONGEST_DELAY / 2;
  return Math.round(base * (0.75 + Math.random() / 2));
}
