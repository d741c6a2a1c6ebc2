import type { MessageFilter } from '../../../../operations/log';

export type Search = Partial<
  Record<
    | 'direction'
    | 'state'
    | 'channel'
    | 'cause'
    | 'country'
    | 'origin'
    | 'route'
    | 'routing'
    | 'since'
    | 'until'
    | 'q'
    | 'before'
    | 'cols',
    string
  >
>;

/** Spans that are asked for by a word, in milliseconds. */
export const SPANS: Record<string, number> = { hour: 3_600_000, day: 86_400_000, week: 7 * 86_400_000 };

/** What the address asks for; a span by its word, or a time in ISO 8601. */
export function filterFrom(search: Search, now: number): MessageFilter {
  const time = (text: string | undefined) => {
    if (!text) return undefined;
    const span = SPANS[text];
    const at = span === undefined ? Date.parse(text) : now - span;
    return Number.isNaN(at) ? undefined : at;
  };
  return {
    direction: search.direction === 'in' || search.direction === 'out' ? search.direction : undefined,
    state: search.state || undefined,
    channel: search.channel || undefined,
    cause: search.cause || undefined,
    country: search.country || undefined,
    origin: search.origin || undefined,
    route: search.route || undefined,
    routing: search.routing === 'unrouted' || search.routing === 'held' ? search.routing : undefined,
    since: time(search.since),
    until: time(search.until),
    search: search.q,
    before: search.before || undefined,
  };
}
