/**
 * Brackwater, the simulated SMS provider: what it knows and does. Strict as providers
 * are: it checks, charges, throttles, refuses, and posts signed callbacks with retries.
 */
import { randomBytes } from 'node:crypto';
import { after, now, stamp } from '../clock';
import type { HandsetFile, MobileNetwork, NumberOwner } from '../network';
import { describeText } from '../segments';
import { pause } from '../underWay';
import {
  type BrackwaterAccount,
  type BrackwaterNumber,
  type BrackwaterOffer,
  type BrackwaterText,
  type LogLine,
  NOWHERE,
} from './accounts';
import { Callbacks } from './callbacks';
import { type BrackwaterFaults, NO_FAULTS } from './faults';

/** Files it takes; anything else it refuses. */
const FILE_TYPES = ['image/png', 'image/jpeg', 'image/gif', 'video/mp4', 'application/pdf'];

/** Texts to other countries begin otherwise. */
const HOME = '+44';
const PRICE_PER_PART = 38_000;
const PRICE_PER_FILE = 120_000;

export interface SendRequest {
  from: string;
  to: string;
  text: string;
  file?: HandsetFile;
  reference?: string;
  report_to?: string;
  /** Given up when it was not shown within so many seconds. */
  valid_seconds?: number;
}

export type Refusal = { status: 400 | 402 | 403 | 404 | 409 | 429; code: string; text: string };

/** Countries by calling code, as far as the demonstration goes. */
const COUNTRY_BY_PREFIX: [string, string][] = [
  ['+44', 'GB'],
  ['+33', 'FR'],
  ['+46', 'SE'],
  ['+61', 'AU'],
  ['+1', 'US'],
];
/** Networks that take application traffic only from registered brands. */
const REGISTRATION_COUNTRIES = ['FR'];

export class Brackwater implements NumberOwner {
  faults: BrackwaterFaults = { ...NO_FAULTS };
  /** Whoever wrote STOP while the provider kept it, as `number phone`. */
  private readonly stopped = new Set<string>();
  /** Milliseconds a reviewer takes to look at a registration. */
  reviewMs = 1500;
  readonly texts: BrackwaterText[] = [];
  readonly log: LogLine[] = [];
  private readonly codes = new Map<string, string>();
  private readonly byReference = new Map<string, BrackwaterText>();
  private readonly recent = new Map<string, number[]>();
  readonly callbacks = new Callbacks(
    () => this.faults,
    (line) => this.note(line),
  );

  constructor(
    readonly accounts: BrackwaterAccount[],
    private readonly network: MobileNetwork,
    readonly offers: BrackwaterOffer[] = [],
  ) {
    network.owners.push(this);
  }

  private countryOf(number: string): string | undefined {
    return COUNTRY_BY_PREFIX.find(([prefix]) => number.startsWith(prefix))?.[1];
  }

  search(country: string, area: string, digits: string): BrackwaterOffer[] {
    const wanted = digits.replace(/\D/g, '');
    const national = (number: string) => number.replace(/^\+(44|33|46|61|1)/, '');
    return this.offers
      .filter((offer) => offer.country === country && national(offer.number).startsWith(area.replace(/^0/, '')))
      .filter((offer) => wanted === '' || [...wanted].some((digit) => offer.number.includes(digit)))
      .slice(0, 40);
  }

  claim(account: BrackwaterAccount, offerId: string): BrackwaterNumber | Refusal {
    const index = this.offers.findIndex((offer) => offer.offer === offerId);
    const offer = this.offers[index];
    if (!offer) return { status: 409, code: 'offer-gone', text: 'Somebody else has taken this number' };
    const cost = offer.price.once * 1e6;
    if (account.credit < cost)
      return { status: 402, code: 'credit-short', text: 'The credit does not cover this number' };
    account.credit -= cost;
    this.offers.splice(index, 1);
    const number: BrackwaterNumber = {
      handle: `n-${randomBytes(4).toString('hex')}`,
      number: offer.number,
      can: offer.can,
      inbound: { ...NOWHERE },
      price: offer.price,
    };
    account.numbers.push(number);
    return number;
  }

  release(account: BrackwaterAccount, handle: string): boolean {
    const index = account.numbers.findIndex((number) => number.handle === handle);
    if (index < 0) return false;
    account.numbers.splice(index, 1);
    return true;
  }

  /** Texts a code to a phone that a trial account wants to reach. */
  startPhone(account: BrackwaterAccount, phone: string) {
    const code = String(100_000 + (randomBytes(4).readUInt32BE() % 900_000));
    this.codes.set(`${account.id} ${phone}`, code);
    void this.network.carry('Brackwater', phone, `${code} is your Brackwater code.`);
  }

  confirmPhone(account: BrackwaterAccount, phone: string, code: string): boolean {
    if (this.codes.get(`${account.id} ${phone}`) !== code) return false;
    if (!account.verifiedPhones.includes(phone)) account.verifiedPhones.push(phone);
    return true;
  }

  /** A reviewer looks after a while: the brand first, then its use. Details that say nothing are declined. */
  register(account: BrackwaterAccount, step: 'brand' | 'use', country: string, details: string): Refusal | undefined {
    let entry = account.registrations.find((registration) => registration.country === country);
    if (!entry) {
      entry = { country, brand: 'none', use: 'none' };
      account.registrations.push(entry);
    }
    if (step === 'use' && entry.brand !== 'granted')
      return { status: 409, code: 'brand-first', text: 'The brand has to be granted before its use' };
    const registration = entry;
    registration[step] = 'waiting';
    registration.reason = undefined;
    after(this.reviewMs, () => {
      const sound = details.trim().length >= 20;
      registration[step] = sound ? 'granted' : 'declined';
      registration.reason = sound ? undefined : 'the description does not say what people will get';
    });
    return undefined;
  }

  account(id: string): BrackwaterAccount | undefined {
    return this.accounts.find((account) => account.id === id);
  }

  note(line: Omit<LogLine, 'at'>) {
    this.log.push({ at: stamp(), ...line });
    if (this.log.length > 400) this.log.splice(0, this.log.length - 400);
  }

  /** Takes a text for sending, or says why not. A known reference gets the first text again. */
  /** `reported` ends when what became of the text has been told to whoever wants to know. */
  send(
    account: BrackwaterAccount,
    request: SendRequest,
  ): { text: BrackwaterText; repeated: boolean; reported?: Promise<void> } | Refusal {
    if (this.tooFast(account) || this.faults.throttlesAll)
      return { status: 429, code: 'too-fast', text: `More than ${account.perSecond} texts a second` };
    const country = this.countryOf(request.to);
    const most = country === undefined ? undefined : account.perCountry?.[country];
    if (most !== undefined && this.overPace(`${account.id} ${country}`, most))
      return { status: 429, code: 'too-fast', text: `More than ${most} texts a second to ${country}` };
    const key = `${account.id} ${request.reference}`;
    const earlier = request.reference && !this.faults.ignoresReferences ? this.byReference.get(key) : undefined;
    if (earlier) return { text: earlier, repeated: true };
    if (!/^\+[1-9]\d{6,14}$/.test(request.to)) {
      return { status: 400, code: 'number-malformed', text: `"${request.to}" is not + and 7 to 15 digits` };
    }
    if (!request.text && !request.file) return { status: 400, code: 'text-refused', text: 'The text is empty' };
    if (request.file && !(FILE_TYPES.includes(request.file.type) && /^https?:\/\//.test(request.file.address)))
      return {
        status: 400,
        code: 'file-refused',
        text: `A file has an address and is one of ${FILE_TYPES.join(', ')}`,
      };
    if (this.faults.refusesOddly) return { status: 409, code: 'held-4711', text: 'Held by the desk for local numbers' };
    const sender = account.numbers.find((number) => number.number === request.from);
    if (!sender?.can.includes('text-out'))
      return { status: 403, code: 'sender-unknown', text: `${request.from} is not a sender of this account` };
    if (request.file && !sender.can.includes('media-out'))
      return { status: 403, code: 'sender-no-files', text: `${request.from} does not send files` };
    const barred = this.barred(account, request.to);
    if (barred) return barred;
    if (this.stopped.has(`${request.from} ${request.to}`))
      return { status: 403, code: 'recipient-stopped', text: `${request.to} wrote STOP to ${request.from}` };
    const { parts } = describeText(request.text);
    const price = parts * PRICE_PER_PART + (request.file ? PRICE_PER_FILE : 0);
    if (this.creditOf(account) < price)
      return { status: 402, code: 'credit-short', text: 'The credit does not cover this text' };
    account.credit -= price;
    const text: BrackwaterText = {
      id: `bwt_${randomBytes(9).toString('hex')}`,
      account: account.id,
      direction: 'out',
      from: request.from,
      to: request.to,
      text: request.text,
      file: request.file,
      parts,
      price,
      state: 'taken',
      reference: request.reference,
      reportTo: request.report_to,
      validSeconds: request.valid_seconds,
      at: stamp(),
    };
    this.keep(text);
    if (request.reference) this.byReference.set(key, text);
    return { text, repeated: false, reported: this.passOn(account, text) };
  }

  /** Credit, regions and trial as they are, or as a switched fault makes them. */
  creditOf({ credit }: BrackwaterAccount): number {
    return this.faults.creditGone ? 0 : credit;
  }

  regionsOf({ regions }: BrackwaterAccount): string[] {
    return this.faults.regionsOff ? regions.slice(0, 1) : regions;
  }

  onTrial({ trial }: BrackwaterAccount): boolean {
    return trial || this.faults.trialAgain;
  }

  private barred(account: BrackwaterAccount, to: string): Refusal | undefined {
    const country = this.countryOf(to);
    if (this.onTrial(account) && !account.verifiedPhones.includes(to))
      return { status: 403, code: 'trial-phone', text: 'A trial account reaches verified phones only' };
    if (!country || !this.regionsOf(account).includes(country))
      return { status: 403, code: 'region-off', text: `Texts to ${country ?? 'this country'} are switched off` };
    const registration = account.registrations.find((entry) => entry.country === country);
    if (REGISTRATION_COUNTRIES.includes(country) && registration?.use !== 'granted')
      return { status: 403, code: 'not-registered', text: `Brand and use are not registered for ${country}` };
    return undefined;
  }

  private tooFast(account: BrackwaterAccount): boolean {
    return this.overPace(account.id, account.perSecond);
  }

  private overPace(whose: string, perSecond: number): boolean {
    const at = now();
    const recent = (this.recent.get(whose) ?? []).filter((before) => at - before < 1000);
    recent.push(at);
    this.recent.set(whose, recent);
    return recent.length > perSecond;
  }

  private async passOn(account: BrackwaterAccount, text: BrackwaterText) {
    if (!this.faults.reportsBeforeAnswer) await pause(15);
    if (this.faults.losesTexts) return;
    if (this.faults.swallowsAbroad && !text.to.startsWith(HOME)) return;
    if (this.faults.delaysTexts) await pause(this.faults.delaysTexts);
    if (this.faults.carriesTwice) void this.network.carry(text.from, text.to, text.text, 'text', text.file);
    const fate = this.network.carry(text.from, text.to, text.text, 'text', text.file);
    const passedOn = { ...this.report(text, 'passed-on'), at: stamp() };
    text.state = 'passed-on';
    if (!this.faults.reportsReversed) await this.postReport(account, text, passedOn);
    const outcome = await fate;
    text.state = outcome.state;
    const lost = outcome.state === 'lost' ? outcome.code : undefined;
    // A handset that is off is waited for as long as the text is of use.
    const code = lost === 'handset-off' && text.validSeconds !== undefined ? 'too-old' : lost;
    if (code) text.code = code;
    await this.postReport(account, text, this.report(text, outcome.state, code));
    if (this.faults.reportsReversed) await this.postReport(account, text, passedOn);
    if (this.faults.strayReports)
      await this.postReport(account, text, { ...this.report(text, 'arrived'), id: 'bwt_stray', reference: undefined });
  }

  private report(text: BrackwaterText, state: string, code?: string) {
    return { kind: 'report', id: text.id, reference: text.reference, state, code, at: stamp() };
  }

  private async postReport(account: BrackwaterAccount, text: BrackwaterText, event: object) {
    if (!text.reportTo || this.faults.sendsNoReports) return;
    const target = { ...NOWHERE, primary: text.reportTo };
    await this.callbacks.post(account, () => target, { events: [event] }, `report on ${text.id}`);
  }

  owns(number: string): boolean {
    return this.accounts.some((account) => account.numbers.some((entry) => entry.number === number));
  }

  textIn(from: string, to: string, text: string, file?: HandsetFile) {
    for (const account of this.accounts) {
      const number = account.numbers.find((entry) => entry.number === to);
      if (!number) continue;
      const { parts } = describeText(text);
      const id = `bwt_${randomBytes(9).toString('hex')}`;
      const at = stamp();
      const entry: BrackwaterText = {
        id,
        account: account.id,
        direction: 'in',
        from,
        to,
        text,
        file,
        parts,
        price: 0,
        state: 'received',
        at,
      };
      this.keep(entry);
      if (!number.can.includes(file ? 'media-in' : 'text-in') || number.shared) {
        entry.state = 'dropped: this number cannot receive';
        continue;
      }
      const keeps = this.faults.keepsStops || this.faults.tellsStops;
      if (keeps && this.kept(from, to, text)) {
        entry.state = 'kept: a word to opt out or in (fault switch)';
        const word = { kind: 'word', id, from, to, word: text.trim().toLowerCase(), at };
        const inbound = number.inbound;
        if (this.faults.tellsStops)
          void this.callbacks.post(account, () => inbound, { events: [word] }, `${word.word} from ${from}`);
        continue;
      }
      if (this.faults.losesIncoming) {
        entry.state = 'kept back (fault switch)';
        continue;
      }
      if (!number.inbound.primary && !number.inbound.fallback) {
        entry.state = 'dropped: no inbound address';
        this.note({
          account: account.id,
          kind: 'callback',
          summary: `text from ${from}: the number has no inbound address`,
          status: '-',
        });
        continue;
      }
      const body = { events: [{ kind: 'text-in', id, from, to, text, file, parts, at }] };
      // Of a number that has left the account meanwhile, what came before goes where it would have gone.
      const target = () => account.numbers.find((each) => each.number === to)?.inbound ?? number.inbound;
      void this.callbacks.post(account, target, body, `text from ${from}`);
    }
  }

  /** STOP and START are the provider's own business where it keeps them. */
  private kept(from: string, to: string, text: string): boolean {
    const word = text.trim().toUpperCase();
    if (word === 'STOP') this.stopped.add(`${to} ${from}`);
    else if (word === 'START') this.stopped.delete(`${to} ${from}`);
    else return false;
    return true;
  }

  private keep(text: BrackwaterText) {
    this.texts.push(text);
    if (this.texts.length > 200_000) this.texts.splice(0, 50_000);
  }
}
