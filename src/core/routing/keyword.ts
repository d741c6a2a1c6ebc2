/**
 * Keywords as people type them on a phone: without regard to case, width, accents,
 * punctuation or spacing. Patterns run on an engine whose time is linear in the text.
 */
import { compilePattern } from '../text/pattern';

export type KeywordWay = 'exact' | 'begins' | 'contains' | 'pattern';

/** Combining marks (Unicode general category M), and whatever is neither letter nor digit. */
const MARKS = /\p{M}+/gu;
const BETWEEN = /[^\p{L}\p{N}]+/gu;
const PLAIN = /^[a-z0-9]+(?: [a-z0-9]+)*$/;

/**
 * Words in lower case with one space between: compatibility forms folded (Unicode NFKD, UAX #15), accents taken
 * off, the German sharp s as two, and anything that is neither letter nor digit read as a space. A text of such
 * signs alone, an emoji say, stays as it is, so that it can be a keyword.
 */
export function plainWords(text: string): string {
  if (PLAIN.test(text)) return text;
  const folded = text.normalize('NFKD').replace(MARKS, '').toLowerCase().replaceAll('ß', 'ss');
  const words = folded.replace(BETWEEN, ' ').trim();
  return words === '' ? folded.trim() : words;
}

/** `spoken` and `word` as `plainWords` gives them, the first with a space on either side. */
export function says(spoken: string, way: Exclude<KeywordWay, 'pattern'>, word: string): boolean {
  if (word === '') return false;
  const whole = ` ${word} `;
  if (way === 'exact') return spoken === whole;
  return way === 'begins' ? spoken.startsWith(whole) : spoken.includes(whole);
}

/** The compiled pattern, or in words why there is none. Case does not matter; accents do. */
export function pattern(source: string): ReturnType<typeof compilePattern> {
  return compilePattern(source, { ignoreCase: true });
}
