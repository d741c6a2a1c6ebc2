import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Decision, mayBecome, standingOf, type VersionStanding } from './standing';
import type { Template } from './template';

const template = (body: string): Template => ({
  name: 'passage',
  category: 'transactional',
  variants: [{ language: 'en', body, buttons: [], samples: {} }],
});
const version = (number: number, state: VersionStanding['state'], body = 'One'): VersionStanding => ({
  number,
  state,
  content: template(body),
});

describe('where a template stands', () => {
  test.each([
    ['never submitted', [], 'draft', undefined, false],
    ['in review for the first time', [version(1, 'in-review')], 'in-review', undefined, false],
    ['approved', [version(1, 'approved')], 'approved', 1, false],
    ['approved and then written otherwise', [version(1, 'approved', 'Two')], 'approved', 1, true],
    ['a new version in review', [version(1, 'approved'), version(2, 'in-review')], 'in-review', 1, false],
    ['a new version rejected', [version(2, 'rejected'), version(1, 'approved')], 'rejected', 1, false],
    ['a new version approved', [version(1, 'approved'), version(2, 'approved')], 'approved', 2, false],
    ['paused', [version(1, 'paused')], 'paused', undefined, false],
  ] as const)('%s', (_, versions, state, serving, edited) => {
    const standing = standingOf(template('One'), versions);
    expect([standing.state, standing.serving?.number, standing.edited]).toEqual([state, serving, edited]);
  });

  test('an absent footer and an undefined one are the same', () => {
    const [variant] = template('One').variants;
    const draft = { ...template('One'), variants: [{ ...variant, footer: undefined } as never] };
    expect(standingOf(draft, [version(1, 'approved')]).edited).toBe(false);
  });
});

test.each([
  [{ state: 'in-review' }, { state: 'approved', decidedAt: 5 }, true],
  [{ state: 'approved', decidedAt: 5 }, { state: 'paused', decidedAt: 9 }, true],
  [{ state: 'paused', decidedAt: 9 }, { state: 'approved', decidedAt: 5 }, false],
  [{ state: 'paused', decidedAt: 9 }, { state: 'approved', decidedAt: 12 }, true],
  [{ state: 'approved', decidedAt: 5 }, { state: 'in-review' }, false],
  [{ state: 'retired', decidedAt: 5 }, { state: 'approved', decidedAt: 9 }, false],
  [{ state: 'approved', decidedAt: 5 }, { state: 'approved', decidedAt: 5 }, false],
  [{ state: 'approved', decidedAt: 5 }, { state: 'approved', decidedAt: 9 }, true],
  [{ state: 'approved' }, { state: 'approved' }, false],
] as [Decision, Decision, boolean][])('%j then %j: %s', (from, to, moves) => {
  expect(mayBecome(from, to)).toBe(moves);
});

test('the same decisions in any order, with any repeats, end in the latest', () => {
  const decisions: Decision[] = [
    { state: 'approved', decidedAt: 1 },
    { state: 'paused', decidedAt: 2 },
    { state: 'approved', decidedAt: 3 },
    { state: 'paused', decidedAt: 4 },
  ];
  fc.assert(
    fc.property(fc.shuffledSubarray([...decisions, ...decisions], { minLength: 8 }), (order) => {
      const end = order.reduce<Decision>((now, news) => (mayBecome(now, news) ? news : now), { state: 'in-review' });
      expect(end.state).toBe('paused');
    }),
  );
});
