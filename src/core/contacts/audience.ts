/** Who is meant: conditions over what is known of contacts, in groups of which all or any must hold. */
import { type ConsentWay, WAY_WORDS } from '../consent/ways';

export type Condition =
  | { on: 'attribute'; name: string; is: 'equals' | 'differs' | 'contains' | 'above' | 'below'; value: string }
  | { on: 'attribute'; name: string; is: 'set' | 'unset' }
  | { on: 'tag'; is: 'has' | 'lacks'; tag: string }
  | { on: 'consent'; way: ConsentWay; is: 'given' | 'withdrawn' | 'unknown' }
  | { on: 'country' | 'language'; is: 'one of' | 'none of'; values: string[] }
  | { on: 'wrote'; is: 'within' | 'not within'; days: number }
  /** Free text may be sent over a platform that has a reply window of so many hours. */
  | { on: 'window'; is: 'open' | 'closed'; hours: number };

export interface Group {
  match: 'all' | 'any';
  of: (Condition | Group)[];
}

export const EVERYBODY: Group = { match: 'all', of: [] };

export function isGroup(entry: Condition | Group): entry is Group {
  return 'match' in entry;
}

/** A group as a sentence would say it. */
export function inWords(group: Group): string {
  if (group.of.length === 0) return 'everybody';
  return group.of
    .map((entry) => (isGroup(entry) ? `(${inWords(entry)})` : conditionInWords(entry)))
    .join(group.match === 'all' ? ' and ' : ' or ');
}

function conditionInWords(condition: Condition): string {
  switch (condition.on) {
    case 'attribute':
      if (!('value' in condition)) return `${condition.name} is ${condition.is === 'set' ? 'known' : 'not known'}`;
      return `${condition.name} ${{ equals: 'is', differs: 'is not', contains: 'contains', above: 'is above', below: 'is below' }[condition.is]} “${condition.value}”`;
    case 'tag':
      return `${condition.is} the tag “${condition.tag}”`;
    case 'consent':
      return {
        given: `opted in to ${WAY_WORDS[condition.way]}`,
        withdrawn: `opted out of ${WAY_WORDS[condition.way]}`,
        unknown: `no consent recorded for ${WAY_WORDS[condition.way]}`,
      }[condition.is];
    case 'country':
    case 'language':
      return `${condition.on} is ${condition.is === 'one of' ? '' : 'not '}${condition.values.join(' or ')}`;
    case 'wrote':
      return `${condition.is === 'within' ? 'wrote' : 'did not write'} within ${condition.days} days`;
    case 'window':
      return `may ${condition.is === 'open' ? '' : 'not '}be answered freely now`;
  }
}
