/** Conditions as functions: compiled once, asked of every message. */
import { sameLanguage } from '../templates/mapping';
import type { Prepared } from './arrival';
import { type Condition, countWord, type Group, isGroup, openKey } from './conditions';
import { hoursAt, type OfficeHours } from './hours';
import { pattern, plainWords, says } from './keyword';

/** Undefined: it cannot be told before an app was asked. */
export type Answer = boolean | undefined;
export type Matcher = (arrival: Prepared) => Answer;

const never: Matcher = () => false;

export function compileGroup({ match, of }: Group, hours: readonly OfficeHours[]): Matcher {
  const parts = of.map((part) => (isGroup(part) ? compileGroup(part, hours) : compileCondition(part, hours)));
  if (match === 'all' && parts.length === 1) return parts[0] as Matcher;
  if (match === 'all') return (arrival) => every(parts, arrival);
  const some: Matcher = (arrival) => any(parts, arrival);
  return match === 'any' ? some : (arrival) => not(some(arrival));
}

/** A part that says no decides even while another cannot tell. */
function every(parts: readonly Matcher[], arrival: Prepared): Answer {
  let answer: Answer = true;
  for (const part of parts) {
    const own = part(arrival);
    if (own === false) return false;
    if (own === undefined) answer = undefined;
  }
  return answer;
}

function any(parts: readonly Matcher[], arrival: Prepared): Answer {
  let answer: Answer = false;
  for (const part of parts) {
    const own = part(arrival);
    if (own === true) return true;
    if (own === undefined) answer = undefined;
  }
  return answer;
}

/** What a group answers where its parts answer so. */
export function combine(match: Group['match'], answers: readonly Answer[]): Answer {
  const deciding = match !== 'all';
  const found = answers.includes(deciding) ? deciding : answers.includes(undefined) ? undefined : !deciding;
  return match === 'none' ? not(found) : found;
}

function not(answer: Answer): Answer {
  return answer === undefined ? undefined : !answer;
}

export function compileCondition(condition: Condition, hours: readonly OfficeHours[]): Matcher {
  switch (condition.on) {
    case 'channel': {
      const ids = new Set(condition.ids);
      return ({ channel }) => ids.has(channel);
    }
    case 'keyword':
      return keywordMatcher(condition);
    case 'sender':
      return ({ known }) => known === condition.known;
    case 'open': {
      const key = openKey(condition);
      return ({ open }) => {
        const count = open[key];
        return count === undefined ? undefined : countWord(count) === condition.count;
      };
    }
    case 'tag':
      return ({ tags }) => tags.includes(condition.tag) === condition.has;
    case 'attribute':
      return ({ attributes }) => attributeFits(attributes[condition.name], condition);
    case 'language':
      return ({ language }) => language !== undefined && condition.tags.some((tag) => sameLanguage(tag, language));
    case 'media':
      return ({ media }) => media === condition.has;
    case 'hours':
      return hoursMatcher(condition, hours);
    case 'conversation':
      return ({ conversation }) => condition.states.includes(conversation);
    case 'answers':
      return ({ answers }) => answers !== undefined && condition.templates.includes(answers);
    case 'button': {
      const labels = new Set(condition.labels.map(plainWords));
      return ({ button }) => button !== undefined && labels.has(plainWords(button));
    }
  }
}

function keywordMatcher({ way, words }: Extract<Condition, { on: 'keyword' }>): Matcher {
  if (way === 'pattern') {
    const compiled = words.map(pattern).filter((each) => typeof each !== 'string');
    return ({ text }) => compiled.some((each) => each.matcher(text).find());
  }
  const wanted = [...new Set(words.map(plainWords))].filter(Boolean);
  if (wanted.length === 0) return never;
  if (way === 'exact') {
    const whole = new Set(wanted.map((word) => ` ${word} `));
    return ({ spoken }) => whole.has(spoken);
  }
  return ({ spoken }) => wanted.some((word) => says(spoken, way, word));
}

/** The same hours are asked by many routes of the same minute. */
function hoursMatcher({ id, open }: Extract<Condition, { on: 'hours' }>, all: readonly OfficeHours[]): Matcher {
  const hours = all.find((each) => each.id === id);
  if (!hours) return never;
  return ({ at }) => openAt(hours, at) === open;
}

const asked = new WeakMap<OfficeHours, Map<number, boolean>>();

function openAt(hours: OfficeHours, at: number): boolean {
  const minute = Math.floor(at / 60_000);
  let known = asked.get(hours);
  if (!known || known.size > 50_000) {
    known = new Map();
    asked.set(hours, known);
  }
  const before = known.get(minute);
  if (before !== undefined) return before;
  const { open } = hoursAt(hours, at);
  known.set(minute, open);
  return open;
}

/** Text is compared without case; what reads as a number on both sides, as numbers. */
export function attributeFits(
  found: string | undefined,
  { test, value = '' }: Pick<Extract<Condition, { on: 'attribute' }>, 'test' | 'value'>,
): boolean {
  const text = found?.trim() ?? '';
  switch (test) {
    case 'known':
      return text !== '';
    case 'unknown':
      return text === '';
    case 'is':
      return text !== '' && sameValue(text, value);
    case 'is-not':
      return text === '' || !sameValue(text, value);
    case 'over':
      return numberIn(text) > numberIn(value);
    case 'under':
      return numberIn(text) < numberIn(value);
  }
}

/** NaN, which is neither over nor under anything, for what is no number. */
export function numberIn(text: string): number {
  return /^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : Number.NaN;
}

export function sameValue(one: string, other: string): boolean {
  const [a, b] = [numberIn(one), numberIn(other)];
  return Number.isNaN(a) || Number.isNaN(b) ? one.trim().toLowerCase() === other.trim().toLowerCase() : a === b;
}
