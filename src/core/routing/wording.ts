/** Conditions and steps in words, so that a route reads as a sentence. */
import { type Condition, conditionsOf, type Group, isGroup, type OpenCount } from './conditions';
import type { Assignee, RouteStep } from './route';

/** What ids are called on the screen. */
export interface RouteNames {
  channel: (id: string) => string;
  /** Of the app and its record together, such as “ticket at Weir Desk”. */
  record: (app: string, record: string) => string;
  hours: (id: string) => string;
  template: (id: string) => string;
  person: (id: string) => string;
  app: (id: string) => string;
  action: (id: string) => string;
  sheet: (id: string) => string;
  language: (tag: string) => string;
}

/** Ids as they are, for where nothing better is known. */
export const BARE_NAMES: RouteNames = {
  channel: (id) => id,
  record: (app, record) => `${record} at ${app}`,
  hours: (id) => id,
  template: (id) => id,
  person: (id) => id,
  app: (id) => id,
  action: (id) => id,
  sheet: (id) => id,
  language: (tag) => tag,
};

/** `a`, `a or b`, `a, b or c`. */
export function list(items: readonly string[], joint = 'or'): string {
  if (items.length < 2) return items[0] ?? '…';
  return `${items.slice(0, -1).join(', ')} ${joint} ${items.at(-1)}`;
}

const quoted = (words: readonly string[]) => list(words.map((word) => `“${word}”`));

const COUNT_WORDS: Record<OpenCount, string> = {
  none: 'has no open',
  one: 'has one open',
  several: 'has several open',
  unknown: 'could not be looked up:',
};

export function conditionWords(condition: Condition, names: RouteNames): string {
  switch (condition.on) {
    case 'channel':
      return `it comes in over ${list(condition.ids.map(names.channel))}`;
    case 'keyword': {
      const { way, words } = condition;
      if (way === 'exact') return `it says exactly ${quoted(words)}`;
      if (way === 'begins') return `it begins with ${quoted(words)}`;
      return way === 'contains' ? `it contains the word ${quoted(words)}` : `it fits the pattern ${list(words)}`;
    }
    case 'sender':
      return condition.known ? 'the sender is a contact' : 'the sender is not a contact';
    case 'open':
      return condition.count === 'unknown'
        ? `the look-up of ${names.record(condition.app, condition.record)} fails`
        : `the sender ${COUNT_WORDS[condition.count]} ${names.record(condition.app, condition.record)}`;
    case 'tag':
      return `the sender ${condition.has ? 'has' : 'lacks'} the tag ${condition.tag || '…'}`;
    case 'attribute':
      return attributeWords(condition);
    case 'language':
      return `the sender reads ${list(condition.tags.map(names.language))}`;
    case 'media':
      return condition.has ? 'it comes with a file' : 'it comes without a file';
    case 'hours':
      return `${names.hours(condition.id)} is ${condition.open ? 'open' : 'closed'}`;
    case 'conversation':
      return `the conversation is ${list(condition.states)}`;
    case 'answers':
      return `it answers the template ${list(condition.templates.map(names.template))}`;
    case 'button':
      return `the button ${quoted(condition.labels)} was pressed`;
  }
}

function attributeWords({ name, test, value = '' }: Extract<Condition, { on: 'attribute' }>): string {
  const what = `the sender’s ${name || '…'}`;
  switch (test) {
    case 'is':
      return `${what} is ${value || '…'}`;
    case 'is-not':
      return `${what} is not ${value || '…'}`;
    case 'known':
      return `${what} is known`;
    case 'unknown':
      return `${what} is not known`;
    case 'over':
      return `${what} is over ${value || '…'}`;
    case 'under':
      return `${what} is under ${value || '…'}`;
  }
}

/** “When …”, without the full stop. */
export function groupWords(group: Group, names: RouteNames, inside = false): string {
  if (conditionsOf(group).length === 0) return group.match === 'any' ? 'never' : 'always';
  const parts = group.of.map((part) => (isGroup(part) ? groupWords(part, names, true) : conditionWords(part, names)));
  if (group.match === 'none') return `not (${parts.join(' or ')})`;
  const words = parts.join(group.match === 'all' ? ' and ' : ' or ');
  return inside && parts.length > 1 ? `(${words})` : words;
}

export function stepWords(step: RouteStep, names: RouteNames): string {
  switch (step.do) {
    case 'reply':
      return 'template' in step ? `reply with ${names.template(step.template)}` : `reply “${short(step.text)}”`;
    case 'ask':
      return `ask “${short(step.text)}” and wait ${minutesWords(step.minutes)}`;
    case 'wait':
      return `wait ${minutesWords(step.minutes)}`;
    case 'branch':
      return step.cases.length === 1
        ? `if ${groupWords((step.cases[0] as (typeof step.cases)[number]).when, names)}`
        : `choose among ${step.cases.length} cases`;
    case 'assign':
      return `assign it to ${assigneeWords(step.whom, names)}`;
    case 'record':
      return names.action(step.action);
    case 'tag':
      return step.remove ? `take off the tag ${step.tag || '…'}` : `tag the sender ${step.tag || '…'}`;
    case 'attribute':
      return `set the sender’s ${step.name || '…'} to ${step.value || 'nothing'}`;
    case 'tell':
      return `notify ${names.app(step.app)}`;
    case 'append':
      return `add a row to ${names.sheet(step.sheet)}`;
    case 'notify':
      return `mail ${list(step.to, 'and')}`;
    case 'close':
      return 'close the conversation';
    case 'opt-out':
      return 'record that the sender opts out of SMS';
    case 'stop':
      return 'stop';
  }
}

export function assigneeWords(whom: Assignee, names: RouteNames): string {
  switch (whom.to) {
    case 'person':
      return names.person(whom.id);
    case 'team':
      return `the team ${whom.name || '…'}`;
    case 'turn':
      return `the people of ${whom.name || '…'} in turn`;
    case 'owner':
      return `the owner of their ${names.record(whom.app, whom.record)}`;
  }
}

export function minutesWords(minutes: number): string {
  if (minutes % 1440 === 0 && minutes > 0) return minutes === 1440 ? 'a day' : `${minutes / 1440} days`;
  if (minutes % 60 === 0 && minutes > 0) return minutes === 60 ? 'an hour' : `${minutes / 60} hours`;
  return minutes === 1 ? 'a minute' : `${minutes} minutes`;
}

function short(text: string): string {
  const line = text.replace(/\s+/g, ' ').trim();
  return line.length > 60 ? `${line.slice(0, 59)}…` : line || '…';
}
