import fc from 'fast-check';
import { expect, test } from 'vitest';
import { expectedClaim, textsAhead } from './prefetch';

test('half of what is held lasts until the next claim is written, on any disk that takes two seconds at most', () => {
  const pace = fc.double({ min: 0.1, max: 200, noNaN: true });
  fc.assert(
    fc.property(pace, fc.integer({ min: 0, max: 2000 }), (perSecond, claimMs) => {
      const halfMs = (textsAhead(perSecond, claimMs) / 2 / perSecond) * 1000;
      expect(halfMs).toBeGreaterThanOrEqual(claimMs - 1e-6);
    }),
  );
});

test('a quick disk gets a quarter of a second, a very slow one four seconds, a fast line a thousand texts', () => {
  expect(textsAhead(50, 1)).toBe(13);
  expect(textsAhead(50, 30_000)).toBe(200);
  expect(textsAhead(5000, 1000)).toBe(1000);
  expect(textsAhead(0.1, 1)).toBe(1);
});

test('one slow claim is remembered for a while, and then forgotten', () => {
  let expected = expectedClaim(5, 400);
  expect(expected).toBe(400);
  for (let claims = 0; claims < 10; claims++) expected = expectedClaim(expected, 5);
  expect(expected).toBeGreaterThan(200);
  for (let claims = 0; claims < 100; claims++) expected = expectedClaim(expected, 5);
  expect(expected).toBe(5);
});
