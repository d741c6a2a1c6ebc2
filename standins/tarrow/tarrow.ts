/**
 * Tarrow, the simulated business-chat platform. Verification of an address and ordering of
 * events are two things to it; a business is in development or live, a line may be on trial
 * with a join word, and nothing that starts a conversation goes out without a way to pay.
 */
import { createHmac, randomBytes, randomInt } from 'node:crypto';
import { now, stamp } from '../clock';
import type { MobileNetwork, NumberOwner } from '../network';
import { during, pause, rest } from '../underWay';
import { type Pattern, type PatternEdition, type PatternRefusal, Patterns } from './patterns';
import { Starts } from './starts';

export interface TarrowLine {
  id: string;
  phone: string;
  standing: 'usable' | 'wants-code' | 'elsewhere';
  /** Only people who sent the join word are heard. */
  trial: { open: boolean; since: string; joinWord: string; joined: string[] };
  /** Conversations the business may start in a day. */
  startsADay: number;
  code?: string;
}

export interface TarrowBusiness {
  id: string;
  name: string;
  token: { value: string; ends: string; may: string[] };
  signingKey: string;
  stage: 'building' | 'live';
  /** People who take part while the business is being built. */
  testers: string[];
  billing: 'set' | 'absent';
  callback: { url: string; word: string; confirmed: boolean };
  events: string[];
  lines: TarrowLine[];
}

export interface TarrowMessage {
  id: string;
  business: string;
  line: string;
  direction: 'in' | 'out';
  person: string;
  text: string;
  state: string;
  ref?: string;
  at: string;
}

export interface TarrowFaults {
  down: boolean;
  signsWithAnotherKey: boolean;
  postsTwice: boolean;
  answers500: boolean;
  /** What a business can run into without anybody touching Windgap. */
  tokenEnded: boolean;
  eventsDropped: boolean;
  developmentAgain: boolean;
  paymentGone: boolean;
  windowsShut: boolean;
  losesEvents: boolean;
}

export const TARROW_WELL: TarrowFaults = {
  down: false,
  signsWithAnotherKey: false,
  postsTwice: false,
  answers500: false,
  tokenEnded: false,
  eventsDropped: false,
  developmentAgain: false,
  paymentGone: false,
  windowsShut: false,
  losesEvents: false,
};
export const TARROW_EVENTS = ['message', 'progress'] as const;

const WINDOW = 24 * 3_600_000;
/** What a handset types to hear no more of a business. */
const BLOCK = 'BLOCK';
const RETRIES = [400, 1000, 2000, 4000, 8000, 15_000];

export type TarrowRefusal = PatternRefusal | { status: 402 | 403 | 429; reason: string; words: string };

export class Tarrow implements NumberOwner {
  readonly way = 'chat' as const;
  faults: TarrowFaults = { ...TARROW_WELL };
  readonly messages: TarrowMessage[] = [];
  readonly patterns: Patterns;
  readonly log: { at: string; business: string; what: string; status: number | string }[] = [];
  private readonly heardAt = new Map<string, number>();
  private readonly starts = new Starts();
  private readonly byRef = new Map<string, TarrowMessage>();

  constructor(
    readonly businesses: TarrowBusiness[],
    private readonly network: MobileNetwork,
    patterns: Pattern[] = [],
  ) {
    this.patterns = new Patterns((pattern, edition) => void this.tellOf(pattern, edition), patterns);
    network.owners.push(this);
  }

  byToken(token: string): TarrowBusiness | undefined {
    return this.businesses.find((business) => business.token.value === token);
  }

  /** A business as it is, or as a switched fault makes it. */
  stageOf({ stage }: TarrowBusiness): TarrowBusiness['stage'] {
    return this.faults.developmentAgain ? 'building' : stage;
  }

  billingOf({ billing }: TarrowBusiness): TarrowBusiness['billing'] {
    return this.faults.paymentGone ? 'absent' : billing;
  }

  eventsOf({ events }: TarrowBusiness): string[] {
    return this.faults.eventsDropped ? [] : events;
  }

  note(business: string, what: string, status: number | string) {
    this.log.push({ at: stamp(), business, what, status });
    if (this.log.length > 300) this.log.splice(0, 100);
  }

  /** Keeps the address and calls it once with the word; it is confirmed when the echo comes back. */
  async setCallback(business: TarrowBusiness, url: string, word: string): Promise<boolean> {
    business.callback = { url, word, confirmed: false };
    const echo = randomBytes(8).toString('hex');
    const address = new URL(url);
    address.searchParams.set('tarrow.ask', 'confirm');
    address.searchParams.set('tarrow.word', word);
    address.searchParams.set('tarrow.echo', echo);
    const answer = await fetch(address, { signal: AbortSignal.timeout(5000) }).catch(() => undefined);
    const heard = answer?.ok ? (await answer.text()).trim() : '';
    business.callback.confirmed = heard === echo;
    this.note(
      business.id,
      `asked ${url.slice(0, 60)}… to confirm`,
      business.callback.confirmed ? 'confirmed' : (answer?.status ?? 'no answer'),
    );
    return business.callback.confirmed;
  }

  send(
    business: TarrowBusiness,
    line: TarrowLine,
    request: { to: string; text: string; ref?: string; pattern?: Parameters<Patterns['fill']>[1] },
  ): TarrowMessage | TarrowRefusal {
    const key = `${business.id} ${request.ref}`;
    const earlier = request.ref ? this.byRef.get(key) : undefined;
    if (earlier) return earlier;
    if (!/^\+[1-9]\d{6,14}$/.test(request.to))
      return { status: 400, reason: 'person_malformed', words: 'to is not + and digits' };
    const filled = request.pattern ? this.patterns.fill(business.id, request.pattern) : undefined;
    if (filled && 'reason' in filled) return filled;
    const text = filled?.words ?? request.text;
    if (!text) return { status: 400, reason: 'text_empty', words: 'The text is empty' };
    if (line.standing !== 'usable')
      return {
        status: 409,
        reason: line.standing === 'elsewhere' ? 'line_elsewhere' : 'line_wants_code',
        words: 'This line cannot be used yet',
      };
    if (this.stageOf(business) === 'building' && !business.testers.includes(request.to))
      return {
        status: 403,
        reason: 'stage_building',
        words: 'While the business is being built only its testers are reached',
      };
    if (this.billingOf(business) === 'absent')
      return { status: 402, reason: 'billing_absent', words: 'No way to pay is set' };
    const heard = this.faults.windowsShut ? 0 : (this.heardAt.get(`${line.id} ${request.to}`) ?? 0);
    if (!filled && now() - heard > WINDOW)
      return { status: 409, reason: 'window_shut', words: 'More than 24 hours since this person wrote' };
    const start = now() - heard > WINDOW ? this.starts.begin(line, request.to, now()) : undefined;
    if (start === false)
      return { status: 429, reason: 'starts_used', words: `All ${line.startsADay} starts of the day are used` };
    const message = this.keep(business, line, 'out', request.to, text, 'taken', request.ref);
    if (request.ref) this.byRef.set(key, message);
    if (request.pattern?.id) this.starts.gave(request.pattern.id, line, request.to);
    void this.passOn(business, line, message).then(() => {
      if (start) start.reached = message.state !== 'not-reached';
    });
    return message;
  }

  private async passOn(business: TarrowBusiness, line: TarrowLine, message: TarrowMessage) {
    await pause(15);
    const fate = await this.network.carry(line.phone, message.person, message.text, 'chat');
    message.state = fate.state === 'arrived' ? 'on-phone' : 'not-reached';
    await this.progress(business, line, message, fate.state === 'lost' ? fate.code : undefined);
    if (fate.state !== 'arrived') return;
    // A person looks at the phone a moment later.
    await pause(400);
    message.state = 'seen';
    await this.progress(business, line, message);
  }

  private async progress(business: TarrowBusiness, line: TarrowLine, message: TarrowMessage, why?: string) {
    if (!this.eventsOf(business).includes('progress')) return;
    const entry = { id: message.id, ref: message.ref, line: line.id, state: message.state, why, when: seconds() };
    await this.post(business, { business: business.id, progress: [entry] }, `progress of ${message.id}`);
  }

  private async tellOf(pattern: Pattern, edition: PatternEdition) {
    const business = this.businesses.find(({ id }) => id === pattern.business);
    if (!business?.callback.confirmed || !this.eventsOf(business).includes('progress')) return;
    const entry = { ...reviewOf(pattern, edition), when: seconds() };
    await this.post(
      business,
      { business: business.id, patterns: [entry] },
      `pattern ${pattern.title}: ${edition.standing}`,
    );
  }

  owns(phone: string): boolean {
    return this.businesses.some((business) => business.lines.some((line) => line.phone === phone));
  }

  textIn(from: string, to: string, text: string) {
    for (const business of this.businesses) {
      const line = business.lines.find((entry) => entry.phone === to);
      if (!line) continue;
      const drop = (why: string) => {
        this.keep(business, line, 'in', from, text, `not passed on: ${why}`);
        this.note(business.id, `message from ${from}: ${why}`, '-');
      };
      if (line.standing !== 'usable') return drop('the line is not usable');
      if (line.trial.open) {
        if (text.trim().toLowerCase() === line.trial.joinWord.toLowerCase()) {
          line.trial.joined.push(from);
          void this.network.carry(to, from, 'You have joined the trial of this line.', 'chat');
          return;
        }
        if (!line.trial.joined.includes(from)) return drop('the line is on trial and this person has not joined');
      }
      if (this.stageOf(business) === 'building' && !business.testers.includes(from))
        return drop('the business is being built');
      if (text.trim() === BLOCK) {
        const pattern = this.starts.block(line, from);
        if (pattern) this.patterns.halt(pattern);
        return drop('this person blocked the business');
      }
      this.heardAt.set(`${line.id} ${from}`, now());
      const message = this.keep(business, line, 'in', from, text, 'received');
      if (!business.callback.confirmed) return drop('no confirmed address');
      if (this.faults.losesEvents) return drop('kept back (fault switch)');
      if (!this.eventsOf(business).includes('message')) return drop('nobody ordered the event “message”');
      const name = this.network.handsets.get(from)?.owner;
      const entry = { id: message.id, line: line.id, from, to, name, said: { words: text }, when: seconds() };
      void this.post(business, { business: business.id, messages: [entry] }, `message from ${from}`);
    }
  }

  private async post(business: TarrowBusiness, content: object, about: string) {
    for (let time = 0; time < (this.faults.postsTwice ? 2 : 1); time++) {
      for (let round = 0; ; round++) {
        const status = await this.postOnce(business, JSON.stringify(content));
        this.note(business.id, about, status);
        if (typeof status === 'number' && status >= 200 && status < 300) break;
        const delay = RETRIES[round];
        if (delay === undefined) return;
        await rest(delay);
      }
    }
  }

  private async postOnce(business: TarrowBusiness, body: string): Promise<number | string> {
    const time = seconds();
    const key = this.faults.signsWithAnotherKey ? 'another' : business.signingKey;
    const mac = createHmac('sha256', key).update(`${time}:${body}`).digest('base64');
    try {
      return await during(async () => {
        const answer = await fetch(business.callback.url, {
          method: 'POST',
          headers: { 'content-type': 'application/json', 'tarrow-seal': `at=${time};mac=${mac}` },
          body,
          signal: AbortSignal.timeout(8000),
        });
        await answer.arrayBuffer();
        return answer.status;
      });
    } catch (error) {
      return (error as { cause?: { code?: string } }).cause?.code ?? (error as Error).name;
    }
  }

  /** Sends a code to the phone behind the line, where there is a handset; it is also in the console. */
  startCode(line: TarrowLine) {
    line.code = String(randomInt(100_000, 1_000_000));
    void this.network.carry('Tarrow', line.phone, `Your code is ${line.code}`);
  }

  private keep(
    business: TarrowBusiness,
    line: TarrowLine,
    direction: 'in' | 'out',
    person: string,
    text: string,
    state: string,
    ref?: string,
  ): TarrowMessage {
    const message: TarrowMessage = {
      id: `tm-${randomBytes(8).toString('hex')}`,
      business: business.id,
      line: line.id,
      direction,
      person,
      text,
      state,
      ref,
      at: stamp(),
    };
    this.messages.push(message);
    if (this.messages.length > 10_000) this.messages.splice(0, 2000);
    return message;
  }

  /** For tests: lets the time since a person last wrote be long. */
  forget(person: string) {
    for (const key of this.heardAt.keys()) if (key.endsWith(person)) this.heardAt.delete(key);
  }
}

/** What is told of a review, at the callback and to whoever asks. */
export function reviewOf({ id, title }: Pattern, { edition, standing, use, objections, decided }: PatternEdition) {
  return { id, title, edition, standing, use, objections, decided: decided ?? null };
}

function seconds(): number {
  return Math.floor(now() / 1000);
}
