/**
 * Ostrel, the simulated carrier with an SMPP 3.4 trunk. Strict as carriers are: it checks
 * logins, bind types, senders, codings, lengths, pace and window, and refuses with the
 * standard's own status codes. What it has accepted is in a journal, so that a restart
 * forgets nothing.
 */
import { appendFileSync, existsSync, readFileSync } from 'node:fs';
import type { Server, Socket } from 'node:net';
import smpp, { type PDU, type Session } from 'smpp';
import { after, now, stamp } from '../clock';
import type { MobileNetwork, NumberOwner } from '../network';
import { pause } from '../underWay';
import { type DefaultAlphabet, decode, encode } from './alphabets';

// The package would decode short_message in an alphabet of its own choice.
smpp.filters.message.decode = (value) => value;

export interface OstrelLogin {
  systemId: string;
  password: string;
  name: string;
  binds: 'transceiver' | 'separate';
  window: number;
  perSecond: number;
  alphabet: DefaultAlphabet;
  /** How parts of long texts may be marked. */
  longText: ('header' | 'sar' | 'payload')[];
  receipts: 'text' | 'tlv' | 'both';
  /** The base of ids in answers and in receipts. */
  ids: { answers: 'hex' | 'decimal'; receipts: 'hex' | 'decimal' };
  numbers: string[];
}

export interface OstrelFaults {
  /** Nobody answers at the port. */
  down: boolean;
  /** Connections stand and nothing is answered on them. */
  silent: boolean;
  /** Milliseconds before each answer. */
  slowAnswers: number;
  throttles: boolean;
  /** Accepts submits and cuts the connection before answering every tenth. */
  cutsBeforeAnswer: boolean;
  /** Answers binds and enquire_link, and takes no submit: the service behind the connection is gone. */
  halfDead: boolean;
  refusesBinds: boolean;
  losesTexts: boolean;
  sendsNoReceipts: boolean;
}

export const OSTREL_WELL: OstrelFaults = {
  down: false,
  silent: false,
  slowAnswers: 0,
  throttles: false,
  cutsBeforeAnswer: false,
  halfDead: false,
  refusesBinds: false,
  losesTexts: false,
  sendsNoReceipts: false,
};

/** One accepted submit. */
export interface Accepted {
  number: number;
  login: string;
  from: string;
  to: string;
  text: string;
  mark?: number;
  at: number;
  state: string;
  reportDue: boolean;
}

interface Line {
  at: string;
  login: string;
  way: 'in' | 'out';
  what: string;
  status: string;
}

interface Bound {
  session: Session;
  login: OstrelLogin;
  receives: boolean;
  sends: boolean;
  unanswered: number;
}

const STATUS = {
  ok: 0,
  length: 1,
  bindState: 4,
  alreadyBound: 5,
  system: 8,
  source: 10,
  destination: 11,
  password: 14,
  systemId: 15,
  esmClass: 67,
  throttled: 88,
  option: 193,
  coding: 260,
} as const;

interface Waiting {
  login: string;
  fields: Record<string, unknown>;
}

export class Ostrel implements NumberOwner {
  faults: OstrelFaults = { ...OSTREL_WELL };
  readonly accepted: Accepted[] = [];
  readonly log: Line[] = [];
  private readonly bound = new Set<Bound>();
  private readonly recent = new Map<string, number[]>();
  private readonly joining = new Map<string, (string | undefined)[]>();
  /** What handsets sent and receipts that are due, until the other side has answered them. */
  private readonly waiting: Waiting[] = [];
  private readonly sockets = new Set<Socket>();
  private counter = 0x1a2b00;
  private inboundReference = 0;
  private submits = 0;
  /** Brought to whoever is bound, and not answered yet. */
  private brought = 0;

  constructor(
    readonly logins: OstrelLogin[],
    private readonly network: MobileNetwork,
    private readonly journal?: string,
  ) {
    network.owners.push(this);
    this.remember();
    setInterval(() => this.deliverWaiting(), 50).unref();
  }

  listen(port: number): Promise<Server> {
    const server = smpp.createServer((session) => this.serve(session));
    server.on('connection', (socket: Socket) => {
      this.sockets.add(socket);
      socket.on('close', () => this.sockets.delete(socket));
      if (this.faults.down) socket.destroy();
    });
    return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve(server)));
  }

  /** Ends all connections at once, as a crashed carrier would. */
  cut() {
    for (const socket of this.sockets) socket.destroy();
  }

  sessionsOf(systemId: string): number {
    return [...this.bound].filter((entry) => entry.login.systemId === systemId).length;
  }

  private serve(session: Session) {
    let bound: Bound | undefined;
    session.on('error', () => session.destroy());
    session.on('close', () => bound && this.bound.delete(bound));
    session.on('pdu', (pdu: PDU) => {
      if (pdu.isResponse() || this.faults.silent || this.faults.down) return;
      if (pdu.command.startsWith('bind_')) bound = this.bind(session, pdu) ?? bound;
      else if (pdu.command === 'enquire_link') session.send(pdu.response());
      else if (pdu.command === 'unbind') {
        session.send(pdu.response());
        session.close();
      } else if (pdu.command === 'submit_sm') void this.submit(session, bound, pdu);
      else session.send(pdu.response({ command_status: 3 }));
    });
  }

  private bind(session: Session, pdu: PDU): Bound | undefined {
    const login = this.logins.find((entry) => entry.systemId === pdu.system_id);
    const refuse = (status: number) => {
      this.note(String(pdu.system_id), 'in', pdu.command, status);
      session.send(pdu.response({ command_status: status }), () => undefined);
      setTimeout(() => session.close(), 50);
      return undefined;
    };
    if (!login) return refuse(STATUS.systemId);
    if (login.password !== pdu.password || this.faults.refusesBinds) return refuse(STATUS.password);
    const both = pdu.command === 'bind_transceiver';
    if (both !== (login.binds === 'transceiver')) return refuse(STATUS.bindState);
    const same = [...this.bound].some(
      (entry) => entry.login === login && (both || entry.sends === (pdu.command === 'bind_transmitter')),
    );
    if (same) return refuse(STATUS.alreadyBound);
    const entry: Bound = {
      session,
      login,
      receives: both || pdu.command === 'bind_receiver',
      sends: both || pdu.command === 'bind_transmitter',
      unanswered: 0,
    };
    this.bound.add(entry);
    this.note(login.systemId, 'in', pdu.command, 0);
    session.send(pdu.response({ system_id: 'OSTREL' }));
    return entry;
  }

  private async submit(session: Session, bound: Bound | undefined, pdu: PDU) {
    if (this.faults.halfDead) return;
    const answer = async (fields: Record<string, unknown>) => {
      if (this.faults.slowAnswers) await pause(this.faults.slowAnswers);
      session.send(pdu.response(fields));
      if (bound) bound.unanswered -= 1;
    };
    if (!bound?.sends) return session.send(pdu.response({ command_status: STATUS.bindState }));
    bound.unanswered += 1;
    const status = this.judge(bound, pdu);
    if (status !== 0) {
      this.note(bound.login.systemId, 'in', `submit_sm to ${pdu.destination_addr}`, status);
      return answer({ command_status: status });
    }
    const entry = this.take(bound.login, pdu);
    if (this.faults.cutsBeforeAnswer && ++this.submits % 10 === 0) return session.destroy();
    return answer({ message_id: idIn(entry.number, bound.login.ids.answers) });
  }

  private judge(bound: Bound, pdu: PDU): number {
    const { login } = bound;
    if (this.faults.throttles || bound.unanswered > login.window || this.tooFast(login)) return STATUS.throttled;
    if (!login.numbers.includes(`+${pdu.source_addr}`) && !login.numbers.includes(String(pdu.source_addr)))
      return STATUS.source;
    if (!/^[1-9]\d{6,14}$/.test(String(pdu.destination_addr))) return STATUS.destination;
    const coding = Number(pdu.data_coding);
    if (coding !== 0 && coding !== 8) return STATUS.coding;
    const header = (Number(pdu.esm_class) & 0x40) !== 0;
    if (header && !login.longText.includes('header')) return STATUS.esmClass;
    if (pdu.sar_total_segments !== undefined && !login.longText.includes('sar')) return STATUS.option;
    if (pdu.message_payload !== undefined && !login.longText.includes('payload')) return STATUS.option;
    const size = (pdu.short_message as Buffer).length;
    return size > (coding === 8 || login.alphabet === 'latin-1' ? 140 : 160) ? STATUS.length : STATUS.ok;
  }

  private tooFast(login: OstrelLogin): boolean {
    const at = now();
    const recent = (this.recent.get(login.systemId) ?? []).filter((before) => at - before < 1000);
    recent.push(at);
    this.recent.set(login.systemId, recent);
    return recent.length > login.perSecond;
  }

  private take(login: OstrelLogin, pdu: PDU): Accepted {
    const number = ++this.counter;
    const read = this.read(login, pdu);
    const entry: Accepted = {
      number,
      login: login.systemId,
      from: login.numbers.includes(`+${pdu.source_addr}`) ? `+${pdu.source_addr}` : String(pdu.source_addr),
      to: `+${pdu.destination_addr}`,
      text: read.text,
      mark: pdu.user_message_reference as number | undefined,
      at: now(),
      state: 'accepted',
      reportDue: Number(pdu.registered_delivery) === 1,
    };
    this.keep(entry);
    this.write({ take: entry });
    const whole = read.part ? this.join(entry, read.part) : entry.text;
    void this.pass(login, entry, whole);
    return entry;
  }

  private read(login: OstrelLogin, pdu: PDU) {
    const payload = pdu.message_payload as Buffer | undefined;
    const body = payload ?? (pdu.short_message as Buffer);
    const coding = Number(pdu.data_coding);
    if (Number(pdu.esm_class) & 0x40) {
      const length = (body[0] ?? 0) + 1;
      const part = { reference: body[3] ?? 0, total: body[4] ?? 1, sequence: body[5] ?? 1 };
      return { text: decode(body.subarray(length), coding, login.alphabet), part };
    }
    const total = pdu.sar_total_segments as number | undefined;
    const part = total
      ? { reference: pdu.sar_msg_ref_num as number, total, sequence: pdu.sar_segment_seqnum as number }
      : undefined;
    return { text: decode(body, coding, login.alphabet), part };
  }

  /** The whole text once its last part is here; undefined before. */
  private join(entry: Accepted, part: { reference: number; total: number; sequence: number }): string | undefined {
    const key = `${entry.from} ${entry.to} ${part.reference} ${part.total}`;
    const parts = this.joining.get(key) ?? Array.from({ length: part.total }, () => undefined);
    parts[part.sequence - 1] = entry.text;
    this.joining.set(key, parts);
    if (parts.some((text) => text === undefined)) return undefined;
    this.joining.delete(key);
    return parts.join('');
  }

  private async pass(login: OstrelLogin, entry: Accepted, whole: string | undefined) {
    // A part alone shows nothing on a handset; its receipt tells whether the phone took it.
    if (this.faults.losesTexts) return;
    const fate =
      whole === undefined ? await this.network.reach(entry.to) : await this.network.carry(entry.from, entry.to, whole);
    entry.state = fate.state === 'arrived' ? 'DELIVRD' : 'UNDELIV';
    const error = fate.state === 'arrived' ? '000' : fate.code === 'handset-off' ? '027' : '001';
    if (entry.reportDue && !this.faults.sendsNoReceipts)
      this.waiting.push({ login: login.systemId, fields: receiptFields(login, entry, error) });
    this.write({ done: entry.number, state: entry.state });
  }

  owns(number: string): boolean {
    return this.logins.some((login) => login.numbers.includes(number));
  }

  textIn(from: string, to: string, text: string) {
    const login = this.logins.find((entry) => entry.numbers.includes(to));
    if (!login) return;
    const { octets, coding } = encode(text, login.alphabet);
    const most = coding === 8 ? 134 : 153;
    const single = coding === 8 ? 140 : 160;
    const parts = octets.length <= single ? [octets] : split(octets, most, coding);
    const reference = ++this.inboundReference & 0xff;
    for (const [index, part] of parts.entries()) {
      const header = Buffer.from([5, 0, 3, reference, parts.length, index + 1]);
      this.waiting.push({
        login: login.systemId,
        fields: {
          source_addr_ton: 1,
          source_addr_npi: 1,
          source_addr: from.replace('+', ''),
          dest_addr_ton: 1,
          dest_addr_npi: 1,
          destination_addr: to.replace('+', ''),
          data_coding: coding,
          esm_class: parts.length > 1 ? 0x40 : 0,
          short_message: parts.length > 1 ? Buffer.concat([header, part]) : part,
        },
      });
    }
  }

  /** Brings what waits to whoever is bound to receive; it goes only when it was answered with success. */
  private deliverWaiting() {
    if (this.faults.silent || this.faults.down) return;
    for (const entry of this.waiting.splice(0)) {
      const receiver = [...this.bound].find((bound) => bound.receives && bound.login.systemId === entry.login);
      const again = () => this.waiting.push(entry);
      if (!receiver) {
        again();
        continue;
      }
      let answered = false;
      this.brought += 1;
      const sent = receiver.session.send(new smpp.PDU('deliver_sm', { ...entry.fields }), (answer) => {
        answered = true;
        this.brought -= 1;
        if (answer.command_status !== 0) after(500, again);
      });
      this.note(entry.login, 'out', `deliver_sm from ${entry.fields.source_addr}`, 0);
      const unanswered = () => {
        if (answered) return;
        this.brought -= 1;
        again();
      };
      if (!sent) unanswered();
      else receiver.session.once('close', unanswered);
    }
  }

  /** What somebody who is bound to receive has not been brought yet, or has not answered. */
  owed(): number {
    const receiving = new Set([...this.bound].flatMap(({ receives, login }) => (receives ? [login.systemId] : [])));
    return this.brought + this.waiting.filter(({ login }) => receiving.has(login)).length;
  }

  private note(login: string, way: Line['way'], what: string, status: number) {
    this.log.push({
      at: stamp(),
      login,
      way,
      what,
      status: `0x${status.toString(16).padStart(8, '0')}`,
    });
    if (this.log.length > 300) this.log.splice(0, 100);
  }

  private keep(entry: Accepted) {
    this.accepted.push(entry);
    if (this.accepted.length > 50_000) this.accepted.splice(0, 10_000);
  }

  private write(line: object) {
    if (this.journal) appendFileSync(this.journal, `${JSON.stringify(line)}\n`);
  }

  /** After a restart: what was accepted, and receipts still owed for it. */
  private remember() {
    if (!this.journal || !existsSync(this.journal)) return;
    const done = new Set<number>();
    for (const line of readFileSync(this.journal, 'utf8').split('\n').filter(Boolean)) {
      const entry = JSON.parse(line) as { take?: Accepted; done?: number };
      if (entry.take) this.keep(entry.take);
      if (entry.done) done.add(entry.done);
    }
    for (const entry of this.accepted) {
      this.counter = Math.max(this.counter, entry.number);
      const login = this.logins.find((candidate) => candidate.systemId === entry.login);
      // A receipt may have gone out just before the end; a repeat is harmless, a missing one is not.
      if (login) void this.owe(login, entry, done.has(entry.number));
    }
  }

  private async owe(login: OstrelLogin, entry: Accepted, carried: boolean) {
    if (!carried) return this.pass(login, entry, entry.text);
    entry.state = 'DELIVRD';
    if (entry.reportDue) this.waiting.push({ login: login.systemId, fields: receiptFields(login, entry, '000') });
  }
}

function idIn(number: number, base: 'hex' | 'decimal'): string {
  return base === 'hex' ? number.toString(16).toUpperCase() : String(number);
}

/** Never between the two octets of a UCS-2 unit, nor behind an escape. */
function split(octets: Buffer, most: number, coding: number): Buffer[] {
  const parts: Buffer[] = [];
  let from = 0;
  while (from < octets.length) {
    let to = Math.min(from + most, octets.length);
    if (coding === 0 && to < octets.length && octets[to - 1] === 0x1b) to -= 1;
    parts.push(octets.subarray(from, to));
    from = to;
  }
  return parts;
}

/** SMPP 3.4 Appendix B, and the TLVs of §5.3.2. */
function receiptFields(login: OstrelLogin, entry: Accepted, error: string): Record<string, unknown> {
  const id = idIn(entry.number, login.ids.receipts);
  const stat = error === '000' ? 'DELIVRD' : 'UNDELIV';
  const date = (at: number) => new Date(at).toISOString().replace(/\D/g, '').slice(2, 12);
  const delivered = error === '000' ? '001' : '000';
  const text = `id:${id} sub:001 dlvrd:${delivered} submit date:${date(entry.at)} done date:${date(now())} stat:${stat} err:${error} text:${entry.text.replace(/[^ -~]/g, '.').slice(0, 20)}`;
  return {
    source_addr_ton: 1,
    source_addr_npi: 1,
    source_addr: entry.to.replace('+', ''),
    dest_addr_ton: 1,
    dest_addr_npi: 1,
    destination_addr: entry.from.replace('+', ''),
    esm_class: 0x04,
    data_coding: 0,
    short_message: login.receipts === 'tlv' ? Buffer.alloc(0) : Buffer.from(text, 'latin1'),
    ...(login.receipts === 'text' ? {} : { receipted_message_id: id, message_state: error === '000' ? 2 : 5 }),
    ...(entry.mark === undefined ? {} : { user_message_reference: entry.mark }),
  };
}
