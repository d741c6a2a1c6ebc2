import type { AuditFilter } from '../../../../operations/audit';
import { SPANS } from '../messages/query';

export type Search = Partial<Record<'who' | 'area' | 'subject' | 'since' | 'until' | 'q' | 'before' | 'cols', string>>;

/** What the address asks for; times by a word or in ISO 8601. */
export function filterFrom(search: Search, now: number): AuditFilter {
  const time = (text: string | undefined) => {
    const at = text ? (SPANS[text] === undefined ? Date.parse(text) : now - SPANS[text]) : Number.NaN;
    return Number.isNaN(at) ? undefined : at;
  };
  return {
    who: search.who || undefined,
    area: search.area || undefined,
    subject: search.subject || undefined,
    since: time(search.since),
    until: time(search.until),
    search: search.q,
    before: search.before || undefined,
  };
}
