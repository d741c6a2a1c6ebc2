/** Conditions and steps in words, so that a route reads as a sentence. */
import { type Condition, kindOf } from './conditions';
import { conditionsOf, type Group, isGroup } from './group';
import { list, type RouteNames } from './names';
import type { Assignee, RouteStep } from './route';

export function conditionWords(condition: Condition, names: RouteNames): string {
  return kindOf(condition).words(condition, names);
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
