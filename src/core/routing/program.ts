/** The steps of a route one after the other, with jumps where they branch: what a run can stop in and go on with. */
import { type Arrival, prepare } from './arrival';
import type { Group } from './group';
import type { OfficeHours } from './hours';
import { plainWords, says } from './keyword';
import { compileGroup } from './match';
import type { RouteStep } from './route';

type Plain = Exclude<RouteStep, { do: 'ask' | 'wait' | 'branch' | 'stop' }>;

/** A step ready to be done. Places are indices into the program; its length is the end. */
export type RouteOp = { kind: 'route' } & (
  | Plain
  | {
      do: 'ask';
      text: string;
      keep: string;
      /** Milliseconds. */
      patience: number;
      answers: readonly { words: readonly string[]; at: number }[];
      otherwise: number;
      late: number;
    }
  | { do: 'wait'; ms: number }
  | { do: 'branch'; cases: readonly { when: Group; at: number }[]; otherwise: number }
  | { do: 'go'; at: number }
  /** Asks apps what the routes need to know, and decides then. */
  | { do: 'decide' }
);

const MINUTE = 60_000;

export function programOf(steps: readonly RouteStep[]): RouteOp[] {
  const program: RouteOp[] = [];
  const ends: number[] = [];
  append(program, steps, ends);
  // A stop leaves from wherever it is.
  for (const place of ends) program[place] = { kind: 'route', do: 'go', at: program.length };
  return program;
}

function append(program: RouteOp[], steps: readonly RouteStep[], ends: number[]): void {
  for (const step of steps) {
    if (step.do === 'stop') {
      ends.push(program.length);
      program.push({ kind: 'route', do: 'go', at: 0 });
    } else if (step.do === 'wait') program.push({ kind: 'route', do: 'wait', ms: step.minutes * MINUTE });
    else if (step.do === 'ask') {
      const { text, keep } = step;
      const place = program.push({ kind: 'route', do: 'go', at: 0 }) - 1;
      const at = branches(program, [...step.answers.map((each) => each.steps), step.otherwise, step.late], ends);
      program[place] = {
        kind: 'route',
        do: 'ask',
        text,
        keep,
        patience: step.minutes * MINUTE,
        answers: step.answers.map(({ words }, index) => ({ words, at: at[index] as number })),
        otherwise: at.at(-2) as number,
        late: at.at(-1) as number,
      };
    } else if (step.do === 'branch') {
      const place = program.push({ kind: 'route', do: 'go', at: 0 }) - 1;
      const at = branches(program, [...step.cases.map((each) => each.steps), step.otherwise], ends);
      program[place] = {
        kind: 'route',
        do: 'branch',
        cases: step.cases.map(({ when }, index) => ({ when, at: at[index] as number })),
        otherwise: at.at(-1) as number,
      };
    } else program.push({ kind: 'route', ...step });
  }
}

/** Lays branches out one after the other, each leaving to the place after the last. Answers where each begins. */
function branches(program: RouteOp[], all: readonly (readonly RouteStep[])[], ends: number[]): number[] {
  const begins: number[] = [];
  const leaves: number[] = [];
  for (const [index, steps] of all.entries()) {
    begins.push(program.length);
    append(program, steps, ends);
    if (index < all.length - 1) leaves.push(program.push({ kind: 'route', do: 'go', at: 0 }) - 1);
  }
  for (const place of leaves) program[place] = { kind: 'route', do: 'go', at: program.length };
  return begins;
}

/** Where a run goes on after an answer: the first whose word is said exactly, else the first whose word it contains. */
export function answered(op: Extract<RouteOp, { do: 'ask' }>, text: string): number {
  const spoken = ` ${plainWords(text)} `;
  for (const way of ['exact', 'contains'] as const) {
    const found = op.answers.find(({ words }) => words.some((word) => says(spoken, way, plainWords(word))));
    if (found) return found.at;
  }
  return op.otherwise;
}

/** Where a run goes on at a branch; what cannot be told counts as not so. */
export function chosen(
  op: Extract<RouteOp, { do: 'branch' }>,
  arrival: Arrival,
  hours: readonly OfficeHours[],
): number {
  const prepared = prepare(arrival);
  return op.cases.find(({ when }) => compileGroup(when, hours)(prepared) === true)?.at ?? op.otherwise;
}
