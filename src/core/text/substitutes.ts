/**
 * Characters that office programs and phones put in by themselves, and what can stand
 * in for them in GSM-7 without changing what a reader understands. Letters with other
 * accents are deliberately not here: replacing them changes names.
 */
const SUBSTITUTES: ReadonlyMap<string, string> = new Map([
  ['\u2018', "'"],
  ['\u2019', "'"],
  ['\u201a', "'"],
  ['\u201b', "'"],
  ['\u2032', "'"],
  ['\u00b4', "'"],
  ['`', "'"],
  ['\u201c', '"'],
  ['\u201d', '"'],
  ['\u201e', '"'],
  ['\u2033', '"'],
  ['\u00ab', '"'],
  ['\u00bb', '"'],
  ['\u2010', '-'],
  ['\u2011', '-'],
  ['\u2012', '-'],
  ['\u2013', '-'],
  ['\u2014', '-'],
  ['\u2015', '-'],
  ['\u2212', '-'],
  ['\u2026', '...'],
  ['\u2022', '-'],
  ['\u00b7', '.'],
  ['\u00a0', ' '],
  ['\u2002', ' '],
  ['\u2003', ' '],
  ['\u2007', ' '],
  ['\u2009', ' '],
  ['\u202f', ' '],
  ['\u200b', ''],
  ['\u200e', ''],
  ['\u200f', ''],
  ['\ufeff', ''],
  ['\t', ' '],
  ['\u2028', '\n'],
  ['\u2044', '/'],
  ['\u00d7', 'x'],
  ['\u2192', '->'],
]);

/** What may stand in for a character in GSM-7, or undefined when nothing may. */
export function safeSubstitute(char: string): string | undefined {
  return SUBSTITUTES.get(char);
}

/** The text with every substitutable character replaced; others stay. */
export function substituteSafely(text: string): string {
  return Array.from(text, (char) => SUBSTITUTES.get(char) ?? char).join('');
}
