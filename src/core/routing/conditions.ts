/** What a route may ask of a message. */
import type { ConversationState } from './arrival';
import type { KeywordWay } from './keyword';

/** `unknown`: the app did not say. */
export type OpenCount = 'none' | 'one' | 'several' | 'unknown';
export type AttributeTest = 'is' | 'is-not' | 'known' | 'unknown' | 'over' | 'under';

export type Condition =
  | { on: 'channel'; ids: readonly string[] }
  | { on: 'keyword'; way: KeywordWay; words: readonly string[] }
  | { on: 'sender'; known: boolean }
  /** How many records of theirs are open in an app. */
  | { on: 'open'; app: string; record: string; count: OpenCount }
  | { on: 'tag'; tag: string; has: boolean }
  | { on: 'attribute'; name: string; test: AttributeTest; value?: string }
  | { on: 'language'; tags: readonly string[] }
  | { on: 'media'; has: boolean }
  | { on: 'hours'; id: string; open: boolean }
  | { on: 'conversation'; states: readonly ConversationState[] }
  | { on: 'answers'; templates: readonly string[] }
  | { on: 'button'; labels: readonly string[] };

export interface Group {
  match: 'all' | 'any' | 'none';
  of: readonly (Condition | Group)[];
}

export const EVERYTHING: Group = { match: 'all', of: [] };

export function isGroup(part: Condition | Group): part is Group {
  return 'match' in part;
}

/** The key an arrival's open records are kept under. */
export function openKey({ app, record }: { app: string; record: string }): string {
  return `${app} ${record}`;
}

export function countWord(open: number | 'failed'): OpenCount {
  if (open === 'failed') return 'unknown';
  return open === 0 ? 'none' : open === 1 ? 'one' : 'several';
}

/** Every condition in a group, however deep. */
export function conditionsOf(group: Group): Condition[] {
  return group.of.flatMap((part) => (isGroup(part) ? conditionsOf(part) : [part]));
}
