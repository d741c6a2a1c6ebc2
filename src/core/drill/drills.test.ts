import { expect, test } from 'vitest';
import { ANSWERS, DRILLS, scoreOf } from './drills';

test('every drill can be answered, and its hints and complaint do not give it away', () => {
  for (const { id, causes, hints, complaint } of DRILLS) {
    expect(ANSWERS, id).toEqual(expect.arrayContaining([...causes]));
    expect(new Set([...hints, complaint]).size, id).toBe(4);
  }
  expect(new Set(DRILLS.map(({ id }) => id)).size).toBe(DRILLS.length);
  for (const level of ['first', 'usual', 'hard'])
    expect(DRILLS.filter((drill) => drill.level === level).length).toBeGreaterThan(2);
});

test('time, hints and wrong answers cost; finding it always earns something', () => {
  expect(scoreOf({ ms: 0, hints: 0, wrong: 0 })).toBe(100);
  expect(scoreOf({ ms: 5 * 60_000, hints: 0, wrong: 0 })).toBe(70);
  expect(scoreOf({ ms: 0, hints: 1, wrong: 1 })).toBe(70);
  expect(scoreOf({ ms: 3_600_000, hints: 3, wrong: 4 })).toBe(5);
});
