/**
 * Corvane, the simulated chat platform whose people have no telephone numbers: each house knows them by ids of its own,
 * a desk may answer whoever wrote within two days and is told to hush after five messages without a word from them.
 */
import { createHmac, randomBytes } from 'node:crypto';
import { now, stamp } from '../clock';
import type { HandsetFile, MobileNetwork, NumberOwner } from '../network';
import { during, rest } from '../underWay';

export interface CorvaneHouse {
  id: string;
  title: string;
  key: string;
  signSecret: string;
  hook: string;
  desks: { id: string; handle: string }[];
}

export interface CorvaneMessage {
  id: string;
  house: string;
  desk: string;
  direction: 'in' | 'out';
  /** As the house knows them. */
  person: string;
  parts: CorvanePart[];
  ref?: string;
  /** The message it answers. */
  on?: string;
  state: string;
  at: string;
}

export type CorvanePart =
  | { kind: 'text'; text: string }
  | { kind: 'picture'; url: string; mime: string }
  /** Answers that may be tapped. */
  | { kind: 'taps'; taps: string[] };

const MOST_TAPS = 5;
const LONGEST_TAP = 24;

const fits = (labels: readonly unknown[]): boolean =>
  labels.length > 0 &&
  labels.length <= MOST_TAPS &&
  labels.every((label) => typeof label === 'string' && label.trim() !== '' && [...label].length <= LONGEST_TAP);

export interface CorvaneFaults {
  down: boolean;
  losesEvents: boolean;
  signsWithAnotherKey: boolean;
  postsTwice: boolean;
}

export const CORVANE_WELL: CorvaneFaults = {
  down: false,
  losesEvents: false,
  signsWithAnotherKey: false,
  postsTwice: false,
};

/** Whoever wrote so long ago at most may be written to, in milliseconds. */
const OPEN_FOR = 48 * 3_600_000;
const MOST_UNANSWERED = 5;
const RETRIES = [400, 1000, 2000, 4000, 8000, 15_000];

export interface CorvaneRefusal {
  status: 400 | 403 | 404 | 429;
  slug: string;
  detail: string;
}

export class Corvane implements NumberOwner {
  readonly way = 'talk' as const;
  faults: CorvaneFaults = { ...CORVANE_WELL };
  readonly messages: CorvaneMessage[] = [];

  constructor(
    readonly houses: CorvaneHouse[],
    private readonly network: MobileNetwork,
  ) {
    network.owners.push(this);
  }

  /** A house knows a person by an id that says nothing and is another one at every house. */
  personAt(house: CorvaneHouse, number: string): string {
    return `cp_${createHmac('sha256', house.id).update(number).digest('hex').slice(0, 20)}`;
  }

  private handsetOf(house: CorvaneHouse, person: string): string | undefined {
    return [...this.network.handsets.values()].find(
      ({ number, mailbox }) => !mailbox && this.personAt(house, number) === person,
    )?.number;
  }

  /** A desk says something. The same `ref` said before is answered with what became of it. */
  say(
    house: CorvaneHouse,
    deskId: string,
    { person = '', parts = [], ref, on }: { person?: string; parts?: CorvanePart[]; ref?: string; on?: string },
  ): CorvaneMessage | CorvaneRefusal {
    const desk = house.desks.find(({ id }) => id === deskId);
    if (!desk) return { status: 404, slug: 'no-desk', detail: 'This house has no such desk' };
    const before = ref && this.messages.find((message) => message.house === house.id && message.ref === ref);
    if (before) return before;
    if (!this.handsetOf(house, person))
      return { status: 404, slug: 'no-person', detail: 'Nobody is known by this id here' };
    const taps = parts.flatMap((part) => (part.kind === 'taps' ? [part.taps] : []));
    if (taps.some((labels) => !Array.isArray(labels) || !fits(labels)))
      return { status: 400, slug: 'taps', detail: `${MOST_TAPS} taps of ${LONGEST_TAP} characters at most` };
    const said = parts.every((part) =>
      part.kind === 'picture' ? /^https?:/.test(part.url ?? '') : part.kind === 'taps' || part.text.trim(),
    );
    if (parts.length === 0 || !said) return { status: 400, slug: 'empty', detail: 'There is nothing in it' };
    const between = this.messages.filter((message) => message.person === person && message.desk === desk.id);
    const wrote = between.findLast(({ direction }) => direction === 'in');
    if (!wrote || now() - Date.parse(wrote.at) > OPEN_FOR)
      return { status: 403, slug: 'not-invited', detail: 'They have not written within two days' };
    if (between.slice(between.indexOf(wrote) + 1).length >= MOST_UNANSWERED)
      return { status: 429, slug: 'hush', detail: 'Five messages without a word from them' };
    const message = this.keep(house, desk.id, 'out', person, parts, { ref, on, state: 'taken' });
    void this.carry(house, desk.handle, message);
    return message;
  }

  private keep(
    house: CorvaneHouse,
    desk: string,
    direction: 'in' | 'out',
    person: string,
    parts: CorvanePart[],
    more: Pick<CorvaneMessage, 'state'> & Partial<CorvaneMessage>,
  ): CorvaneMessage {
    const id = `cm_${randomBytes(9).toString('hex')}`;
    const message = { id, house: house.id, desk, direction, person, parts, at: stamp(), ...more };
    this.messages.push(message);
    return message;
  }

  private async carry(house: CorvaneHouse, handle: string, message: CorvaneMessage) {
    const number = this.handsetOf(house, message.person) ?? '';
    const text = message.parts
      .flatMap((part) =>
        part.kind === 'text' ? [part.text] : part.kind === 'taps' ? [`[${part.taps.join('] [')}]`] : [],
      )
      .join('\n');
    const picture = message.parts.find((part) => part.kind === 'picture');
    const file = picture && { address: picture.url, type: picture.mime };
    const fate = await this.network.carry(handle, number, text, 'talk', file);
    message.state = fate.state === 'arrived' ? 'reached' : 'lost';
    await this.post(house, [{ type: 'mark', id: message.id, ref: message.ref, as: message.state, at: now() }]);
  }

  owns(handle: string): boolean {
    return this.houses.some(({ desks }) => desks.some((desk) => desk.handle === handle));
  }

  /**
   * A person writes to a desk. Beginning with “>> ” they answer what the desk said last; the words of one of its taps are a
   * tap on it; one emoji alone is a feeling about it, and “-” takes the feeling back.
   */
  textIn(from: string, to: string, typed: string, file?: HandsetFile) {
    for (const house of this.houses) {
      const desk = house.desks.find(({ handle }) => handle === to);
      if (!desk) continue;
      const person = this.personAt(house, from);
      const last = this.messages.findLast(
        (each) => each.direction === 'out' && each.person === person && each.desk === desk.id,
      );
      const who = { id: person, name: this.network.handsets.get(from)?.owner };
      if (last && (typed === '-' || /^\p{Extended_Pictographic}️?$/u.test(typed))) {
        const emoji = typed === '-' ? undefined : typed;
        void this.post(house, [{ type: 'felt', on: last.id, person: who, emoji, at: now() }]);
        continue;
      }
      const tapped = last?.parts.some((part) => part.kind === 'taps' && part.taps.includes(typed));
      const quotes = typed.startsWith('>> ') || tapped ? last : undefined;
      const text = typed.startsWith('>> ') ? typed.slice(3) : typed;
      const parts: CorvanePart[] = [
        ...(text ? [{ kind: 'text' as const, text }] : []),
        ...(file ? [{ kind: 'picture' as const, url: file.address, mime: file.type }] : []),
      ];
      const message = this.keep(house, desk.id, 'in', person, parts, { on: quotes?.id, state: 'posted' });
      void this.post(house, [
        { type: 'said', id: message.id, desk: desk.handle, person: who, parts, on: quotes?.id, at: now() },
      ]);
    }
  }

  private async post(house: CorvaneHouse, events: object[]) {
    if (!house.hook || this.faults.losesEvents) return;
    const body = JSON.stringify({ v: 3, house: house.id, events });
    for (let time = 0; time < (this.faults.postsTwice ? 2 : 1); time++)
      for (let round = 0; ; round++) {
        if (await this.postOnce(house, body)) break;
        const delay = RETRIES[round];
        if (delay === undefined) return;
        await rest(delay);
      }
  }

  private async postOnce(house: CorvaneHouse, body: string): Promise<boolean> {
    const seconds = Math.floor(now() / 1000);
    const secret = this.faults.signsWithAnotherKey ? 'another' : house.signSecret;
    const mac = createHmac('sha512', secret).update(`${seconds}\n${body}`).digest('hex');
    const answer = await during(() =>
      fetch(house.hook, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'corvane-sign': `v1,${seconds},${mac}` },
        body,
        signal: AbortSignal.timeout(8000),
      }),
    ).catch(() => undefined);
    return answer !== undefined && answer.status >= 200 && answer.status < 300;
  }
}
