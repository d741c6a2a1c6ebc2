import { expect, test } from 'vitest';
import { type ClockWitness, judgeClocks } from './clocks';

const MINUTE = 60_000;
const says = (...minutes: number[]): ClockWitness[] =>
  minutes.map((each, n) => ({ id: `pa_${n}`, name: `Provider ${n}`, ahead: each * MINUTE }));

test('ours is wrong where all say the same other time; one alone cannot tell', () => {
  expect(judgeClocks(says(14, 15, 14))).toMatchObject({ whose: 'ours', sure: true, ahead: 14 * MINUTE });
  expect(judgeClocks(says(-90))).toMatchObject({ whose: 'ours', sure: false });
});

test('theirs is wrong where another agrees with ours, or they agree with nobody', () => {
  expect(judgeClocks(says(0, 14))).toMatchObject({ whose: 'theirs', off: [{ id: 'pa_1' }] });
  expect(judgeClocks(says(14, -60))).toMatchObject({ whose: 'theirs', off: [{ id: 'pa_0' }, { id: 'pa_1' }] });
});

test('a minute is of no consequence, and nobody asked says nothing', () => {
  expect(judgeClocks(says(1, 0, -1))).toEqual({ whose: 'nobody' });
  expect(judgeClocks([])).toEqual({ whose: 'nobody' });
});
