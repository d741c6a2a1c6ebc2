import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { answered, programOf, type RouteOp } from './program';
import { readRouteSet } from './readSet';
import type { RouteStep } from './route';

const tag = (name: string): RouteStep => ({ do: 'tag', tag: name, remove: false });

/** Follows a program; `turns` says which branch is taken each time. Returns what was done. */
function follow(program: readonly RouteOp[], turns: readonly number[]): string[] {
  const done: string[] = [];
  let next = 0;
  let turn = 0;
  for (let guard = 0; next < program.length; guard += 1) {
    if (guard > 500) throw new Error('it does not end');
    const op = program[next] as RouteOp;
    const before = next;
    if (op.do === 'go') next = op.at;
    else if (op.do === 'ask' || op.do === 'branch') {
      const ways =
        op.do === 'ask'
          ? [...op.answers.map(({ at }) => at), op.otherwise, op.late]
          : [...op.cases.map(({ at }) => at), op.otherwise];
      next = ways[(turns[turn++] ?? 0) % ways.length] as number;
    } else {
      if (op.do === 'tag') done.push(op.tag);
      next += 1;
    }
    // A run only ever goes forward, so it ends.
    expect(next).toBeGreaterThan(before);
  }
  return done;
}

/** The same, read off the steps themselves. */
function expected(steps: readonly RouteStep[], turns: readonly number[]): string[] {
  const done: string[] = [];
  let turn = 0;
  const walk = (list: readonly RouteStep[]): boolean => {
    for (const step of list) {
      if (step.do === 'stop') return false;
      if (step.do === 'tag') done.push(step.tag);
      if (step.do !== 'ask' && step.do !== 'branch') continue;
      const ways =
        step.do === 'ask'
          ? [...step.answers.map((each) => each.steps), step.otherwise, step.late]
          : [...step.cases.map((each) => each.steps), step.otherwise];
      if (!walk(ways[(turns[turn++] ?? 0) % ways.length] as RouteStep[])) return false;
    }
    return true;
  };
  walk(steps);
  return done;
}

const { steps } = fc.letrec<{ steps: RouteStep[]; step: RouteStep }>((tie) => ({
  step: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.string({ minLength: 1, maxLength: 3 }).map(tag),
    fc.constant<RouteStep>({ do: 'stop' }),
    fc.record({
      do: fc.constant('branch' as const),
      cases: fc.array(fc.record({ when: fc.constant({ match: 'all' as const, of: [] }), steps: tie('steps') }), {
        maxLength: 2,
      }),
      otherwise: tie('steps'),
    }),
    fc.record({
      do: fc.constant('ask' as const),
      text: fc.constant('Which lock?'),
      keep: fc.constant('lock'),
      answers: fc.array(fc.record({ words: fc.constant(['yes']), steps: tie('steps') }), { maxLength: 2 }),
      otherwise: tie('steps'),
      minutes: fc.constant(5),
      late: tie('steps'),
    }),
  ),
  steps: fc.array(tie('step'), { maxLength: 4 }),
}));

test('a program does what its steps say, whichever way each turns out, and never goes back', () => {
  fc.assert(
    fc.property(steps, fc.array(fc.nat(3), { maxLength: 12 }), (list, turns) => {
      expect(follow(programOf(list), turns)).toEqual(expected(list, turns));
    }),
    { numRuns: 1500 },
  );
});

describe('an answer', () => {
  const [ask] = programOf([
    {
      do: 'ask',
      text: 'Yes or no?',
      keep: 'ok',
      answers: [
        { words: ['no', 'nej'], steps: [tag('no')] },
        { words: ['yes', 'ja'], steps: [tag('yes')] },
      ],
      otherwise: [tag('other')],
      minutes: 10,
      late: [tag('late')],
    },
  ]);
  const op = ask as Extract<RouteOp, { do: 'ask' }>;
  test.each([
    ['JA!', 1],
    ['no', 0],
    ['Yes, no problem', 0],
    ['yes please', 1],
    ['nothing', undefined],
    ['', undefined],
  ])('%s', (text, which) => {
    expect(answered(op, text)).toBe(which === undefined ? op.otherwise : op.answers[which]?.at);
  });
});

describe('routes that come from outside', () => {
  const route = {
    id: 'a',
    name: 'A',
    when: { match: 'all', of: [] },
    steps: [],
    goesOn: false,
    stopsOnReply: false,
    off: false,
  };
  const nested = (depth: number): unknown =>
    depth === 0 ? { match: 'all', of: [] } : { match: 'any', of: [nested(depth - 1)] };
  test.each<[string, unknown]>([
    ['no list', {}],
    ['an unknown condition', { routes: [{ ...route, when: { match: 'all', of: [{ on: 'mood' }] } }], hours: [] }],
    ['an unknown step', { routes: [{ ...route, steps: [{ do: 'shout' }] }], hours: [] }],
    ['a field too many', { routes: [{ ...route, note: 'x' }], hours: [] }],
    ['two of one id', { routes: [route, route], hours: [] }],
    ['groups deeper than anybody reads', { routes: [{ ...route, when: nested(9) }], hours: [] }],
  ])('%s is refused', (_, content) => expect(readRouteSet(content).ok).toBe(false));
  test('a whole one is read as it is', () => {
    const set = { routes: [{ ...route, when: nested(3), steps: [{ do: 'stop' }] }], hours: [] };
    expect(readRouteSet(set)).toEqual({ ok: true, set });
  });
});
