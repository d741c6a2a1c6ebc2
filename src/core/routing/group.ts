/** Conditions joined: all of them, any of them, none of them; groups may stand inside groups. */
import type { Condition } from './conditions';

export interface Group {
  match: 'all' | 'any' | 'none';
  of: readonly (Condition | Group)[];
}

export const EVERYTHING: Group = { match: 'all', of: [] };

export function isGroup(part: Condition | Group): part is Group {
  return 'match' in part;
}

/** Every condition in a group, however deep. */
export function conditionsOf(group: Group): Condition[] {
  return group.of.flatMap((part) => (isGroup(part) ? conditionsOf(part) : [part]));
}
