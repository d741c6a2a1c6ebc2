/** Conditions as functions: compiled once, asked of every message. */
import type { Prepared } from './arrival';
import { type Condition, kindOf } from './conditions';
import type { Answer, Matcher } from './conditions/kind';
import { type Group, isGroup } from './group';
import type { OfficeHours } from './hours';

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
  return kindOf(condition).matcher(condition, hours);
}
