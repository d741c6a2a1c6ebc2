/** Where a template stands: what was written last, what is being judged, what serves. */
import type { Template } from './template';

export interface VersionStanding {
  number: number;
  state: 'in-review' | 'approved' | 'rejected' | 'paused' | 'retired';
  content: Template;
}

export interface Standing<Version extends VersionStanding> {
  state: 'draft' | Version['state'];
  /** The version that messages are made of: the newest approved one. */
  serving?: Version;
  /** Whatever was submitted last. */
  newest?: Version;
  /** What is written now differs from what was submitted last. */
  edited: boolean;
}

/** `versions` in any order. */
export function standingOf<Version extends VersionStanding>(
  draft: Template,
  versions: readonly Version[],
): Standing<Version> {
  const sorted = [...versions].sort((a, b) => b.number - a.number);
  const [newest] = sorted;
  const serving = sorted.find(({ state }) => state === 'approved');
  if (!newest) return { state: 'draft', edited: false };
  return { state: newest.state, newest, ...(serving ? { serving } : {}), edited: !sameContent(draft, newest.content) };
}

export function sameContent(a: Template, b: Template): boolean {
  return stable(a) === stable(b);
}

/** JSON with sorted names, so that the same is written the same. Absent and undefined are one. */
function stable(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(stable).join()}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const entries = Object.entries(value).filter(([, entry]) => entry !== undefined);
  return `{${entries
    .sort(([x], [y]) => (x < y ? -1 : 1))
    .map(([name, entry]) => `${JSON.stringify(name)}:${stable(entry)}`)
    .join()}}`;
}

/** What a platform decided, and when, where it tells. */
export interface Decision {
  state: VersionStanding['state'];
  decidedAt?: number;
}

/**
 * Whether news of a version moves it on. News may come late, twice and in any order, so a
 * decision is not undone by an older one; what was taken out of use here stays so.
 */
export function mayBecome(from: Decision, to: Decision): boolean {
  if (from.state === 'retired' || to.state === 'in-review') return false;
  if (from.state === 'in-review') return true;
  if (from.decidedAt === undefined || to.decidedAt === undefined) return from.state !== to.state;
  // The same again, but later, counts too: what lies between must not come after it.
  return to.decidedAt > from.decidedAt;
}
