/** Random numbers of a seed, so that a run can be had again. */
export interface Random {
  /** In [0, 1). */
  next(): number;
  /** A whole number in [from, to]. */
  between(from: number, to: number): number;
  pick<Item>(items: readonly Item[]): Item;
}

/** The generator of Marsaglia, “Xorshift RNGs” (2003), with 32 bits. */
export function randomOf(seed: number): Random {
  let state = (seed * 2654435761) >>> 0 || 1;
  const next = () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state / 2 ** 32;
  };
  const between = (from: number, to: number) => from + Math.floor(next() * (to - from + 1));
  return { next, between, pick: (items) => items[between(0, items.length - 1)] as never };
}
