/**
 * JSONPath (RFC 9535) over posts and answers. The paths of profiles are few and what they
 * are looked for in comes by the thousand, so a path is taken apart once. One that names a
 * single place (§2.3.5.1, singular queries) is then walked; all others are the library's.
 */
import { query } from 'jsonpath-rfc9535';
import parse from 'jsonpath-rfc9535/parser';
import { memo } from '../../core/memo';

export type Json = Parameters<typeof query>[0];

/** A member's name or an element's index, which counts from the end below zero. */
type Step = string | number;

/** Of each path the way to its single place, or undefined where it names several. */
const ways = memo<Step[] | undefined>();

/** All values at a path, in order. Throws on what is no path. */
export function nodes(node: Json, path: string): Json[] {
  const way = ways(path, () => singular(path));
  if (!way) return query(node, path);
  let at: Json | undefined = node;
  for (const step of way) at = at === undefined ? undefined : child(at, step);
  return at === undefined ? [] : [at];
}

function singular(path: string): Step[] | undefined {
  const way: Step[] = [];
  for (const segment of parse(path).segments) {
    if (segment.type !== 'ChildSegment') return undefined;
    const selectors = segment.node.type === 'BracketedSelection' ? segment.node.selectors : [segment.node];
    const [only, another] = selectors;
    if (!only || another) return undefined;
    if (only.type !== 'MemberNameShorthand' && only.type !== 'NameSelector' && only.type !== 'IndexSelector')
      return undefined;
    way.push(only.value);
  }
  return way;
}

function child(node: Json, step: Step): Json | undefined {
  if (Array.isArray(node)) return typeof step === 'number' ? node.at(step) : undefined;
  if (typeof step === 'number' || node === null || typeof node !== 'object') return undefined;
  return Object.hasOwn(node, step) ? node[step] : undefined;
}
