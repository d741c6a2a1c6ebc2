/**
 * A finding is something an examination has to say: what is wrong, where, why it
 * matters and how to fix it. Every examiner in the core answers in this shape so
 * that every screen can show it in the same way.
 */
export type Severity = 'error' | 'attention' | 'notice';

export interface Finding {
  /** Stable kebab-case name, safe to match on and to link to. */
  code: string;
  severity: Severity;
  /** What is wrong, in one short sentence. */
  problem: string;
  /** What to do about it. */
  remedy: string;
  /** Half-open range of UTF-16 offsets in the examined text, where there is one. */
  place?: { from: number; to: number };
}
