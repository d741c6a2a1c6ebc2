import fc from 'fast-check';
import { expect, test } from 'vitest';
import { ALIKE, likeness } from './likeness';

test.each([
  ['The lock at Tern is closed on Friday.', 'The lock at Tern is closed on Monday.', true],
  [
    'Hello {{ first_name }}, your mooring fee is due on 1 May.',
    'Hello {{ name }}, your mooring fee is due on 1 May!',
    true,
  ],
  ['Closed', 'closed.', true],
  ['The lock at Tern is closed on Friday.', 'The lock at Tern is open again.', false],
  ['The lock at Tern is closed.', 'Your mooring fee is due.', false],
  ['', '', false],
])('“%s” and “%s”: alike %s', (a, b, alike) => {
  expect(likeness(a, b) >= ALIKE).toBe(alike);
});

test('a text is as alike to another as the other to it, wholly to itself, and never more', () => {
  fc.assert(
    fc.property(fc.lorem({ maxCount: 12 }), fc.lorem({ maxCount: 12 }), (a, b) => {
      expect(likeness(a, b)).toBe(likeness(b, a));
      expect(likeness(a, a)).toBe(1);
      expect(likeness(a, b)).toBeLessThanOrEqual(1);
    }),
  );
});
