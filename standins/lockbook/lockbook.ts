/** Lockbook, the simulated passage-booking application: gets events, answers boaters through the API. */

import { CloudEvent } from 'cloudevents';
import { Webhook } from 'standardwebhooks';
import { now, stamp } from '../clock';
import { during } from '../underWay';

export interface LockbookSettings {
  /** Signing secret of the subscription, as copied from Windgap. */
  secret: string;
  apiUrl: string;
  apiKey: string;
  /** Texts that start with LOCK are answered without a person. */
  confirmsByItself: boolean;
  /** Where booked passages are posted; empty for nowhere. */
  bookingsTo?: string;
}

export interface LockbookEvent {
  at: string;
  id: string;
  verified: boolean;
  problem?: string;
  type?: string;
  message?: { id: string; from: string; to: string; text: string; state: string; direction: string };
}

export interface LockbookCall {
  at: string;
  what: string;
  status: number | string;
  answer: string;
}

export interface Booking {
  lock: string;
  time: string;
  skipper: string;
  mobile: string;
  boat: string;
}

export interface LockbookFaults {
  answers500: boolean;
  neverAnswers: boolean;
  /** Cannot be reached; has another secret; has moved its address; wants people to sign in; wants no more. */
  down: boolean;
  anotherSecret: boolean;
  answers404: boolean;
  redirects: boolean;
  answersPage: boolean;
  answers410: boolean;
  /** Takes events and shows nothing; its automation does not post bookings. */
  forgets: boolean;
}

export const LOCKBOOK_WELL: LockbookFaults = {
  answers500: false,
  neverAnswers: false,
  down: false,
  anotherSecret: false,
  answers404: false,
  redirects: false,
  answersPage: false,
  answers410: false,
  forgets: false,
};

/** Standard Webhooks, "Verifying the timestamp". */
const TOLERANCE = 5 * 60_000;

export class Lockbook {
  faults: LockbookFaults = { ...LOCKBOOK_WELL };
  readonly events: LockbookEvent[] = [];
  readonly calls: LockbookCall[] = [];
  private readonly seen = new Set<string>();

  constructor(readonly settings: LockbookSettings) {}

  /** Verifies, reads and keeps one webhook. Returns the status to give. */
  receive(headers: Record<string, string>, body: string): number {
    const entry: LockbookEvent = { at: stamp(), id: headers['webhook-id'] ?? '', verified: false };
    if (this.faults.answers500) {
      this.keep({ ...entry, problem: 'answered 500 (fault switch)' });
      return 500;
    }
    if (this.faults.forgets) return 204;
    const secret = this.faults.anotherSecret ? `whsec_${Buffer.alloc(24, 7).toString('base64')}` : this.settings.secret;
    try {
      const data = verified(secret, headers, body);
      const event = new CloudEvent(data as never);
      const repeated = this.seen.has(entry.id);
      this.seen.add(entry.id);
      const message = event.data as LockbookEvent['message'];
      this.keep({
        ...entry,
        verified: true,
        type: event.type,
        message,
        problem: repeated ? 'seen before, ignored' : undefined,
      });
      if (!repeated && message && event.type.endsWith('message.received')) this.considerConfirming(message);
      return 204;
    } catch (error) {
      this.keep({ ...entry, problem: `not verified: ${(error as Error).message}` });
      return 401;
    }
  }

  private considerConfirming(message: NonNullable<LockbookEvent['message']>) {
    const request = /^lock\s+(.{1,60})/i.exec(message.text);
    if (!this.settings.confirmsByItself || !request) return;
    void this.send(
      { inReplyTo: message.id, text: `Passage booked: ${request[1]}. Show this text to the keeper.` },
      `confirm-${message.id}`,
    );
  }

  /** Calls the messages API. The idempotency key makes a repeat harmless. */
  async send(
    body: { to?: string; inReplyTo?: string; text: string; from?: string },
    idempotencyKey: string,
  ): Promise<void> {
    await this.call(`POST /messages ${JSON.stringify(body)}`, () =>
      fetch(`${this.settings.apiUrl}/messages`, {
        method: 'POST',
        headers: {
          authorization: `Bearer ${this.settings.apiKey}`,
          'content-type': 'application/json',
          'idempotency-key': idempotencyKey,
        },
        body: JSON.stringify(body),
        signal: AbortSignal.timeout(10_000),
      }),
    );
  }

  /** A keeper books a passage; the record goes to whoever wants to know. */
  async book(booking: Booking): Promise<void> {
    const address = this.settings.bookingsTo;
    if (!address) return;
    const record = {
      passage: { lock: booking.lock, time: booking.time },
      skipper: { full_name: booking.skipper, mobile: booking.mobile },
      boat: booking.boat,
    };
    const body = JSON.stringify(record);
    await this.call(`POST ${address} ${body}`, () =>
      fetch(address, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body,
        signal: AbortSignal.timeout(10_000),
      }),
    );
  }

  private async call(what: string, make: () => Promise<Response>): Promise<void> {
    const call: LockbookCall = { at: stamp(), what, status: '…', answer: '' };
    this.calls.push(call);
    if (this.calls.length > 500) this.calls.shift();
    try {
      await during(async () => {
        const answer = await make();
        call.status = answer.status;
        call.answer = (await answer.text()).slice(0, 600);
      });
    } catch (error) {
      call.status = (error as Error).name;
      call.answer = String((error as { cause?: unknown }).cause ?? error);
    }
  }

  private keep(event: LockbookEvent) {
    this.events.push(event);
    if (this.events.length > 5000) this.events.shift();
  }
}

/** What was signed, read. The library's own check of the time knows only the machine's, so the time is checked here. */
function verified(secret: string, headers: Record<string, string>, body: string): Record<string, unknown> {
  const { 'webhook-id': id = '', 'webhook-timestamp': seconds = '', 'webhook-signature': given = '' } = headers;
  const signedAt = Number(seconds) * 1000;
  if (!(Math.abs(now() - signedAt) <= TOLERANCE)) throw new Error('the timestamp is too far off');
  const right = new Webhook(secret).sign(id, new Date(signedAt), body);
  if (!given.split(' ').includes(right)) throw new Error('no signature fits');
  return JSON.parse(body) as Record<string, unknown>;
}
