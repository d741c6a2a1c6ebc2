/** Tarrow's patterns: what businesses hand in, the queue in front of the reviewer, and what was granted. */
import { randomBytes } from 'node:crypto';
import { after, now, stamp } from '../clock';
import { type Edition, judge, type Objection, skeleton, type Use } from './reviewer';

export type Standing = 'waiting' | 'granted' | 'refused' | 'halted' | 'withdrawn';

/** One thing handed in. A pattern that is handed in again keeps its id and gets another edition. */
export interface PatternEdition {
  edition: number;
  standing: Standing;
  use: Use;
  editions: Edition[];
  objections: Objection[];
  handedIn: string;
  decided?: string;
}

export interface Pattern {
  id: string;
  business: string;
  title: string;
  all: PatternEdition[];
}

export interface ReviewerDesk {
  /** Milliseconds from handing in to a decision. */
  reviewMs: number;
  perHour: number;
}

export type PatternRefusal = { status: 400 | 404 | 409 | 429; reason: string; words: string };

const LONGEST = { title: 40, top: 60, words: 1024, foot: 60, label: 25 };
const FILES = /^(image\/(jpeg|png)|application\/pdf|video\/mp4)$/;
const HOUR = 3_600_000;

export class Patterns {
  readonly desk: ReviewerDesk = { reviewMs: 20_000, perHour: 60 };
  private readonly refused = new Set<string>();
  private readonly handedIn: { business: string; at: number }[] = [];

  /** `told` hears of every decision. What waited when the platform stopped is decided now. */
  constructor(
    private readonly told: (pattern: Pattern, edition: PatternEdition) => void,
    readonly all: Pattern[] = [],
  ) {
    for (const pattern of all)
      for (const edition of pattern.all) if (edition.standing === 'waiting') this.queue(pattern, edition);
  }

  of(business: string): Pattern[] {
    return this.all.filter((pattern) => pattern.business === business);
  }

  handIn(
    business: string,
    content: { title?: string; use?: string; editions?: Edition[] },
    id?: string,
  ): { pattern: Pattern; edition: PatternEdition } | PatternRefusal {
    const refusal = this.examine(business, content, id);
    if (refusal) return refusal;
    const before = id ? this.all.find((pattern) => pattern.id === id && pattern.business === business) : undefined;
    if (id && !before) return { status: 404, reason: 'pattern_unknown', words: 'No such pattern' };
    if (before?.all.some(({ standing }) => standing === 'waiting'))
      return { status: 409, reason: 'pattern_waiting', words: 'An edition of this pattern is waiting already' };
    const pattern = before ?? {
      id: `tp-${randomBytes(6).toString('hex')}`,
      business,
      title: content.title as string,
      all: [],
    };
    if (!before) this.all.push(pattern);
    const edition: PatternEdition = {
      edition: pattern.all.length + 1,
      standing: 'waiting',
      use: content.use as Use,
      editions: content.editions as Edition[],
      objections: [],
      handedIn: stamp(),
    };
    pattern.all.push(edition);
    this.handedIn.push({ business, at: now() });
    this.queue(pattern, edition);
    return { pattern, edition };
  }

  private examine(
    business: string,
    { title = '', use = '', editions = [] }: { title?: string; use?: string; editions?: Edition[] },
    id?: string,
  ): PatternRefusal | undefined {
    const malformed = (words: string): PatternRefusal => ({ status: 400, reason: 'pattern_malformed', words });
    const lately = this.handedIn.filter((entry) => entry.business === business && now() - entry.at < HOUR).length;
    if (lately >= this.desk.perHour)
      return { status: 429, reason: 'too_many_patterns', words: `No more than ${this.desk.perHour} an hour` };
    if (!/^[a-z][a-z0-9-]{2,}$/.test(title) || title.length > LONGEST.title)
      return { status: 400, reason: 'title_malformed', words: 'A title is small letters, digits and hyphens, 3 to 40' };
    if (this.of(business).some((pattern) => pattern.title === title && pattern.id !== id))
      return { status: 409, reason: 'title_taken', words: 'There is a pattern of this title' };
    if (!['service', 'offer', 'passcode'].includes(use)) return malformed('use is service, offer or passcode');
    if (editions.length === 0) return malformed('no language at all');
    for (const { tongue, top, words, foot = '', keys = [] } of editions) {
      if (!words?.trim()) return malformed(`${tongue}: no words`);
      if (words.length > LONGEST.words) return malformed(`${tongue}: more than ${LONGEST.words} characters`);
      if ((top?.words ?? '').length > LONGEST.top) return malformed(`${tongue}: the top is too long`);
      if (foot.length > LONGEST.foot || /%\d/.test(foot))
        return malformed(`${tongue}: the foot is too long or has a blank`);
      if (keys.length > 3) return malformed(`${tongue}: more than three keys`);
      if (keys.some(({ label }) => !label?.trim() || label.length > LONGEST.label || /%\d/.test(label)))
        return malformed(`${tongue}: a key's label is empty, too long or has a blank`);
      if (top?.file && !FILES.test(top.file.type))
        return { status: 400, reason: 'file_type', words: `${tongue}: ${top.file.type} is not taken` };
      if (top?.file && top.file.bytes > 5_000_000)
        return { status: 400, reason: 'file_size', words: `${tongue}: the file is over 5 MB` };
    }
    return undefined;
  }

  private queue(pattern: Pattern, edition: PatternEdition) {
    after(this.desk.reviewMs, () => this.decide(pattern, edition));
  }

  private decide(pattern: Pattern, edition: PatternEdition) {
    if (edition.standing !== 'waiting') return;
    const verdict = judge(edition.use, edition.editions, this.refused);
    edition.standing = verdict.granted ? 'granted' : 'refused';
    edition.use = verdict.use;
    edition.objections = verdict.objections;
    edition.decided = stamp();
    if (!verdict.granted) for (const { words } of edition.editions) this.refused.add(skeleton(words));
    this.told(pattern, edition);
  }

  /** People complained too often: it may not be used until it is handed in again. */
  halt(id: string): boolean {
    const pattern = this.all.find((entry) => entry.id === id);
    const serving = pattern?.all.findLast(({ standing }) => standing === 'granted');
    if (!pattern || !serving) return false;
    serving.standing = 'halted';
    serving.decided = stamp();
    serving.objections = serving.editions.map(({ tongue }) => ({
      tongue,
      at: 'words',
      why: 'too_many_complaints',
      words: 'Many people blocked the business after this message.',
    }));
    this.told(pattern, serving);
    return true;
  }

  withdraw(business: string, id: string): boolean {
    const pattern = this.of(business).find((entry) => entry.id === id);
    if (!pattern) return false;
    for (const edition of pattern.all) edition.standing = 'withdrawn';
    return true;
  }

  /** The words a person is shown, or why there are none. */
  fill(
    business: string,
    { id, edition, tongue, fill = [] }: { id?: string; edition?: number | string; tongue?: string; fill?: string[] },
  ): { words: string; keys: string[] } | PatternRefusal {
    const pattern = this.of(business).find((entry) => entry.id === id);
    if (!pattern) return { status: 404, reason: 'pattern_unknown', words: 'No such pattern' };
    const chosen = pattern.all.find((entry) => entry.edition === Number(edition));
    if (chosen?.standing === 'halted')
      return { status: 409, reason: 'pattern_halted', words: 'This pattern is halted' };
    if (chosen?.standing !== 'granted')
      return { status: 409, reason: 'pattern_not_granted', words: 'This edition is not granted' };
    const variant = chosen.editions.find((entry) => entry.tongue === tongue);
    if (!variant) return { status: 409, reason: 'tongue_absent', words: `There is no edition in ${tongue}` };
    const text = JSON.stringify(variant);
    const needed = Math.max(0, ...[...text.matchAll(/%(\d+)/g)].map(([, number]) => Number(number)));
    if (fill.length !== needed || fill.some((value) => !value.trim() || /[\n\t]/.test(value)))
      return { status: 400, reason: 'fill_wrong', words: `${needed} values are needed, each one line` };
    const put = (words: string) => words.replace(/%(\d+)/g, (_, number) => fill[Number(number) - 1] ?? '');
    const lines = [variant.top?.words, variant.words, variant.foot].filter((line) => line !== undefined);
    const keys = (variant.keys ?? []).map(({ label, press, to = '' }) =>
      press === 'say' ? `[${label}]` : `[${label}: ${put(to)}]`,
    );
    return { words: [...lines.map(put), ...keys].join('\n'), keys: (variant.keys ?? []).map(({ label }) => label) };
  }
}
