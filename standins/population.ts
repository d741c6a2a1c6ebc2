/** Thousands of handsets that cost nothing: what each of them does follows from its number, and nothing is kept of it. */

export interface Population {
  /** Lowest number, E.164. */
  from: string;
  count: number;
  country: string;
  delayMs: number;
  /** Share that is switched off, 0 to 1. */
  off: number;
  /** Shares that answer each text with these words by themselves. */
  answers: { share: number; words: string }[];
}

/** A handset for as long as it is looked at. */
export interface Resident {
  number: string;
  owner: string;
  country: string;
  power: 'on' | 'off';
  delayMs: number;
  passing: true;
  answersWith?: string;
  entries: [];
}

/** The handset of a population with this number; the same one each time it is asked for. */
export function residentOf(populations: readonly Population[], number: string): Resident | undefined {
  const value = Number(number);
  const population = populations.find(({ from, count }) => {
    const place = value - Number(from);
    return from.length === number.length && place >= 0 && place < count;
  });
  if (!population) return undefined;
  const { country, delayMs, off, answers } = population;
  let lot = lotOf(number) - off;
  const power = lot < 0 ? 'off' : 'on';
  const answer = answers.find(({ share }) => {
    if (lot < 0) return false;
    lot -= share;
    return lot < 0;
  });
  return { number, owner: 'Somebody', country, power, delayMs, passing: true, answersWith: answer?.words, entries: [] };
}

/** Evenly spread from 0 up to 1, by FNV-1a and a last mixing of its bits. */
function lotOf(text: string): number {
  let hash = 0x811c9dc5;
  for (const letter of text) hash = Math.imul(hash ^ letter.charCodeAt(0), 0x01000193);
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return ((hash ^ (hash >>> 16)) >>> 0) / 2 ** 32;
}
