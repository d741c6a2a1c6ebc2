/** The simulated mobile network: handsets that receive texts, answer, are switched off or slow. */

import { now, stamp } from './clock';
import { type Population, residentOf } from './population';
import { describeText } from './segments';
import { later, pause } from './underWay';

export type Way = 'text' | 'chat' | 'mail' | 'talk';

export interface HandsetEntry {
  id: string;
  at: string;
  direction: 'received' | 'sent';
  /** How it came or went: as a text, in the chat application, or as a text made of a mail. */
  way: Way;
  /** The other side. */
  peer: string;
  text: string;
  file?: HandsetFile;
  encoding: string;
  parts: number;
}

/** A file a text brings along: where it can be fetched. */
export interface HandsetFile {
  address: string;
  type: string;
}

export interface Handset {
  number: string;
  owner: string;
  /** Nobody’s own: kept for trying things. */
  forTests?: boolean;
  country: string;
  power: 'on' | 'off';
  /** Milliseconds the network takes to reach it. */
  delayMs: number;
  /** It is a mailbox, and its number a mail address. */
  mailbox?: true;
  /** Of a mailbox: what it answers by itself while its person is away. */
  away?: string;
  /** Set, it answers each text with this by itself. */
  answersWith?: string;
  /** One of a population: nothing is kept of what it shows. */
  passing?: true;
  entries: HandsetEntry[];
}

export type Fate = { state: 'arrived' } | { state: 'lost'; code: 'handset-off' | 'no-such-number' };

/** Something that owns numbers and takes what handsets send to them. */
export interface NumberOwner {
  /** What it carries; texts unless it says otherwise. */
  readonly way?: Way;
  owns(number: string): boolean;
  textIn(from: string, to: string, text: string, file?: HandsetFile): void;
}

export class MobileNetwork {
  readonly handsets = new Map<string, Handset>();
  readonly populations: Population[] = [];
  readonly owners: NumberOwner[] = [];
  private counter = 0;

  add(handset: Omit<Handset, 'entries'> & { entries?: HandsetEntry[] }) {
    this.handsets.set(handset.number, { ...handset, entries: handset.entries ?? [] });
  }

  /** A handset by its number, or one of a population for as long as it is looked at. */
  private find(number: string): Handset | undefined {
    return this.handsets.get(number) ?? residentOf(this.populations, number);
  }

  /** Carries a text to a handset; the fate comes when the network knows it. */
  async carry(from: string, to: string, text: string, way: Way = 'text', file?: HandsetFile): Promise<Fate> {
    const fate = await this.reach(to);
    const handset = this.find(to);
    if (fate.state === 'arrived' && handset) {
      this.note(handset, 'received', from, text, way, file);
      if (handset.answersWith) this.type(to, from, handset.answersWith, way);
    }
    return fate;
  }

  /** Whether a handset can be reached now, without showing anything on it. */
  async reach(to: string): Promise<Fate> {
    const handset = this.find(to);
    await pause(handset?.delayMs ?? 20);
    if (!handset) return { state: 'lost', code: 'no-such-number' };
    return handset.power === 'off' ? { state: 'lost', code: 'handset-off' } : { state: 'arrived' };
  }

  /** A person types on a handset. Answers false when nobody owns the address written to. */
  type(number: string, to: string, text: string, way: Way = 'text', file?: HandsetFile): boolean {
    const handset = this.find(number);
    const owner = () => this.owners.find((candidate) => (candidate.way ?? 'text') === way && candidate.owns(to));
    if (!handset || handset.power === 'off') return false;
    this.note(handset, 'sent', to, text, way, file);
    if (!owner()) return false;
    // To whoever carries the number when the text gets there: it may have moved meanwhile.
    later(handset.delayMs, () => owner()?.textIn(number, to, text, file));
    return true;
  }

  private note(
    handset: Handset,
    direction: HandsetEntry['direction'],
    peer: string,
    text: string,
    way: Way,
    file?: HandsetFile,
  ) {
    if (handset.passing) return;
    const { encoding, parts } = describeText(text);
    this.counter += 1;
    handset.entries.push({
      id: `e${now()}-${this.counter}`,
      at: stamp(),
      direction,
      way,
      peer,
      text,
      file,
      encoding,
      parts,
    });
    if (handset.entries.length > 2000) handset.entries.splice(0, handset.entries.length - 2000);
  }
}
