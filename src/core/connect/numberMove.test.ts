import { expect, test } from 'vitest';
import { accountAt } from './numberMove';

test('who carried a number when, through moves and back', () => {
  const moves = [
    { from_account: 'a', turns: [] },
    {
      from_account: 'a',
      turns: [
        { at: 10, account: 'b' },
        { at: 20, account: 'a' },
      ],
    },
    { from_account: 'a', turns: [{ at: 30, account: 'c' }] },
  ];
  expect([5, 10, 19, 20, 29, 30, 99].map((at) => accountAt('c', moves, at))).toEqual([
    'a',
    'b',
    'b',
    'a',
    'a',
    'c',
    'c',
  ]);
  expect(accountAt('z', [], 5)).toBe('z');
  // One that was called off moved nothing.
  expect(accountAt('a', moves.slice(0, 1), 5)).toBe('a');
});
