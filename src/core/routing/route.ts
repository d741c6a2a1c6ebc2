/** Routes as they are written: in order, each with its conditions and steps. */
import type { Mapping } from '../templates/mapping';
import type { Group } from './group';
import type { OfficeHours } from './hours';

/** Whom a conversation is given to. */
export type Assignee =
  | { to: 'person'; id: string }
  | { to: 'team'; name: string }
  /** The team's people one after the other. */
  | { to: 'turn'; name: string }
  /** Whoever the app says owns the person's record. */
  | { to: 'owner'; app: string; record: string };

/** A text with merge fields, or a template with its variables mapped. */
export type Saying = { text: string } | { template: string; mapping: Mapping };

export type RouteStep =
  | ({ do: 'reply' } & Saying)
  | {
      do: 'ask';
      text: string;
      /** The answer is kept under this name: a merge field `answers.name`, and an attribute of the contact. */
      keep: string;
      answers: readonly { words: readonly string[]; steps: readonly RouteStep[] }[];
      /** Any other answer. */
      otherwise: readonly RouteStep[];
      minutes: number;
      late: readonly RouteStep[];
    }
  | { do: 'wait'; minutes: number }
  | { do: 'branch'; cases: readonly { when: Group; steps: readonly RouteStep[] }[]; otherwise: readonly RouteStep[] }
  | { do: 'assign'; whom: Assignee }
  /** By a record action of an app. */
  | { do: 'record'; action: string }
  | { do: 'tag'; tag: string; remove: boolean }
  | { do: 'attribute'; name: string; value: string }
  /** Posts the message to what the app subscribed to. */
  | { do: 'tell'; app: string }
  | { do: 'append'; sheet: string }
  | { do: 'notify'; to: readonly string[]; subject: string; text: string }
  | { do: 'close' }
  | { do: 'opt-out' }
  | { do: 'stop' };

export interface Route {
  id: string;
  name: string;
  when: Group;
  steps: readonly RouteStep[];
  /** Whether routes after it are considered too. */
  goesOn: boolean;
  /** Whether what waits is given up when the person writes again. */
  stopsOnReply: boolean;
  off: boolean;
}

export interface RouteSet {
  /** The first that fits decides. */
  routes: readonly Route[];
  hours: readonly OfficeHours[];
}

/** Every step of a list, however deep. */
export function stepsOf(steps: readonly RouteStep[]): RouteStep[] {
  return steps.flatMap((step) => [step, ...stepsOf(insideOf(step))]);
}

/** The steps inside a step, whichever way it turns out. */
export function insideOf(step: RouteStep): RouteStep[] {
  if (step.do === 'ask') return [...step.answers.flatMap(({ steps }) => steps), ...step.otherwise, ...step.late];
  if (step.do === 'branch') return [...step.cases.flatMap(({ steps }) => steps), ...step.otherwise];
  return [];
}
