/** How alike two texts are: whether somebody would say they got the same message twice. */

/** From here on two texts say nearly the same. */
export const ALIKE = 0.75;

/**
 * From 0, nothing in common, to 1: the share of pairs of neighbouring words both have, counted as often as they occur
 * (Dice, Measures of the amount of ecologic association, 1945). Merge fields count as one word each, whatever they name.
 */
export function likeness(a: string, b: string): number {
  const [one, other] = [pairsOf(a), pairsOf(b)];
  const all = sum(one) + sum(other);
  if (all === 0) return 0;
  let shared = 0;
  for (const [pair, n] of one) shared += Math.min(n, other.get(pair) ?? 0);
  return (2 * shared) / all;
}

function pairsOf(text: string): Map<string, number> {
  const words = text
    .replace(/\{\{[^}]*\}\}/g, ' ¤ ')
    .toLocaleLowerCase('und')
    .split(/[^\p{L}\p{N}¤]+/u)
    .filter((word) => word !== '');
  const pairs = new Map<string, number>();
  // One before the first and one behind the last, so that a single word is a pair, too.
  for (let at = 0; at <= words.length && words.length > 0; at++) {
    const pair = `${words[at - 1] ?? ''} ${words[at] ?? ''}`;
    pairs.set(pair, (pairs.get(pair) ?? 0) + 1);
  }
  return pairs;
}

function sum(pairs: ReadonlyMap<string, number>): number {
  let n = 0;
  for (const each of pairs.values()) n += each;
  return n;
}
