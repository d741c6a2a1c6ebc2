/** Where what usually follows has stopped following: in all of some events, or in one group of them. */
import { judgeShare } from '../../../../core/baseline/share';
import { groupBy } from '../../../../core/groupBy';

export interface Fall {
  /** Which group, such as `country FR`. */
  about: string;
  /** That group in words, with a space before it; empty for all. */
  words: string;
  of: number;
  got: number;
  /** Per cent. */
  usual: number;
  before: number;
  since?: number;
}

/** A way to part events into groups. */
export interface Grouping<Event> {
  name: string;
  of: (event: Event) => string;
  words: (value: string) => string;
}

/** The widest group in which it stopped is said: the first grouping in which any fell. `events`: oldest first. */
export function fallsIn<Event extends { at: number }>(
  events: readonly Event[],
  groupings: readonly Grouping<Event>[],
  followed: (event: Event) => boolean,
): Fall[] {
  for (const { name, of, words } of groupings) {
    const fell = [...groupBy(events, of)].flatMap(([value, group]): Fall[] => {
      const share = judgeShare(group.map(followed));
      if (share.state !== 'fell') return [];
      const since = group.at(-share.of)?.at;
      return [
        {
          about: `${name} ${value}`.trim(),
          words: words(value),
          of: share.of,
          got: share.got,
          usual: Math.round(share.usually * 100),
          before: share.before,
          ...(since === undefined ? {} : { since }),
        },
      ];
    });
    if (fell.length > 0) return fell;
  }
  return [];
}
