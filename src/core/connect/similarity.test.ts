import { expect, test } from 'vitest';
import { rankBySimilarity, similarity } from './similarity';

test('all wished digits beat some, the end beats the middle, the middle beats the beginning', () => {
  const offers = ['+61455001000', '+61400104550', '+61400100455', '+61400100045'].map((address) => ({ address }));
  expect(rankBySimilarity(offers, '455').map(({ address }) => address)).toEqual([
    '+61400100455',
    '+61400104550',
    '+61455001000',
    '+61400100045',
  ]);
});

test('the place marks the digits that fit', () => {
  expect(similarity('+61491570156', '0156')).toMatchObject({ place: { from: 8, to: 12 } });
  expect(similarity('+61491570156', '57 999')).toMatchObject({ place: { from: 6, to: 8 } });
});

test('no wish, or one with nothing in common, keeps the provider’s order', () => {
  expect(similarity('+61491570156', 'call us').score).toBe(0);
  expect(similarity('+1555', '89')).toEqual({ score: 0 });
  const offers = [{ address: '+1' }, { address: '+2' }];
  expect(rankBySimilarity(offers, '9').map(({ address }) => address)).toEqual(['+1', '+2']);
});
