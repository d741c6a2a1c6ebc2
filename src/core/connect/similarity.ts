/** Orders offered numbers by how near they come to the digits somebody would like to have. */

export interface Nearness {
  /** Half-open range of the number's characters that fit the wish; undefined when none do. */
  place?: { from: number; to: number };
  /** Larger is nearer. */
  score: number;
}

/**
 * The wish at the end is best (people remember endings), anywhere else next; otherwise the
 * longest run of its digits that occurs, longer before shorter and later before earlier.
 */
export function similarity(address: string, wish: string): Nearness {
  const wanted = wish.replace(/\D/g, '');
  if (wanted === '') return { score: 0 };
  for (let length = Math.min(wanted.length, address.length); length > 0; length--) {
    let best: Nearness | undefined;
    for (let start = 0; start + length <= wanted.length; start++) {
      const from = address.lastIndexOf(wanted.slice(start, start + length));
      if (from < 0) continue;
      const to = from + length;
      const score = length * 100 + (to === address.length ? 50 : 0) + to;
      if (!best || score > best.score) best = { place: { from, to }, score };
    }
    if (best) return best;
  }
  return { score: 0 };
}

/** Nearest first; equal ones keep the provider's order. */
export function rankBySimilarity<Offer extends { address: string }>(
  offers: readonly Offer[],
  wish: string,
): (Offer & { similarity: Nearness })[] {
  return offers
    .map((offer) => ({ ...offer, similarity: similarity(offer.address, wish) }))
    .sort((a, b) => b.similarity.score - a.similarity.score);
}
