/**
 * The kinds of events a post brings, as a profile tells them apart: `$.events[?@.kind=='mo']` chooses of a list by a word
 * in each. What is in such a list and chosen by nothing is of a kind nobody foresaw.
 */
import { memo } from '../../core/memo';
import { type Json, nodes } from './jsonPath';

/** A list in a post, and where each of its events says what kind it is. */
export interface KindPlace {
  /** `$.events`. */
  list: string;
  /** `.kind`. */
  mark: string;
}

const BY_KIND =
  /^(?<list>\$[^?*]*)\[\?\s*@(?<mark>(?:\.[A-Za-z_]\w*|\['[^'\]]+'\])+)\s*==\s*'[^']*'\s*(?:\|\|[^\]]*)?\]$/;

const places = memo<KindPlace | undefined>();

/** Undefined for a path that chooses in any other way. */
export function kindPlace(path: string): KindPlace | undefined {
  return places(path, () => {
    const { list, mark } = BY_KIND.exec(path)?.groups ?? {};
    return list && mark ? { list, mark } : undefined;
  });
}

/** Events chosen by none of some paths, with the word of their kind where there is one. */
export function unchosen(document: Json, paths: readonly string[]): { word?: string }[] {
  const byList = new Map<string, KindPlace>();
  for (const path of paths) {
    const place = kindPlace(path);
    if (place) byList.set(place.list, place);
  }
  if (byList.size === 0) return [];
  const chosen = new Set(paths.flatMap((path) => nodes(document, path)));
  return [...byList.values()].flatMap(({ list, mark }) => {
    const events = nodes(document, list)[0];
    if (!Array.isArray(events)) return [];
    return events
      .filter((event) => typeof event === 'object' && event !== null && !chosen.has(event))
      .map((event) => {
        const word = nodes(event, `$${mark}`)[0];
        return typeof word === 'string' ? { word } : {};
      });
  });
}

/** A path that also chooses events of a further kind; undefined where it does not choose by kind there. */
export function withKind(path: string | undefined, { list, mark }: KindPlace, word: string): string | undefined {
  const test = `@${mark}=='${word.replace(/[\\']/g, (sign) => `\\${sign}`)}'`;
  if (path === undefined) return `${list}[?${test}]`;
  return path.startsWith(`${list}[?`) && path.endsWith(']') ? `${path.slice(0, -1)} || ${test}]` : undefined;
}
