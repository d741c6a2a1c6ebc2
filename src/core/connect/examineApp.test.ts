import { expect, test } from 'vitest';
import { examineApp, type KeyFacts } from './examineApp';

const NOW = Date.UTC(2026, 4, 4);
const DAY = 24 * 3_600_000;
const key = (more: Partial<KeyFacts>): KeyFacts => ({ name: 'Quay', expiresAt: null, lastUsedAt: NOW, ...more });
const problems = (...keys: KeyFacts[]) => examineApp(keys, [], NOW).map((finding) => finding.problem);

test('a key in use that ends within two weeks is warned about, with the time left', () => {
  expect(problems(key({ expiresAt: NOW + 13.5 * DAY }))).toEqual(['The API key “Quay” is in use and ends in 13 days.']);
  expect(problems(key({ expiresAt: NOW + 1.5 * DAY }))[0]).toContain('in a day');
  expect(problems(key({ expiresAt: NOW + 3_600_000 }))[0]).toContain('within a day');
  expect(problems(key({ expiresAt: NOW + 15 * DAY }), key({}))).toEqual([]);
});

test('one that nobody uses ends in peace', () => {
  expect(problems(key({ expiresAt: NOW + DAY, lastUsedAt: null }))).toEqual([]);
  expect(problems(key({ expiresAt: NOW + DAY, lastUsedAt: NOW - 3 * DAY }))).toEqual([]);
});

test('nor is one that another key took over from, unless the other ends sooner', () => {
  const old = key({ expiresAt: NOW + DAY, lastUsedAt: NOW - 3_600_000 });
  expect(problems(old, key({ name: 'Fresh' }))).toEqual([]);
  expect(problems(old, key({ name: 'Fresh', lastUsedAt: NOW - 7_200_000 }))).toHaveLength(1);
  expect(problems(old, key({ name: 'Shorter', expiresAt: NOW + 1000 }))).toHaveLength(2);
});

test('a pause is never silent; one that the app caused is an error', () => {
  const url = 'https://lockbook.mossgate.example/hooks';
  const severities = (['failing', 'gone', 'by-hand', null] as const).map(
    (pausedWhy) => examineApp([], [{ url, pausedWhy }], NOW)[0]?.severity,
  );
  expect(severities).toEqual(['error', 'error', 'attention', undefined]);
});

test('an automation that is broken is told with its cause', () => {
  const hook = { what: 'send hook', name: 'Passage confirmed' };
  expect(examineApp([], [], NOW, [hook])).toEqual([]);
  expect(examineApp([], [], NOW, [{ ...hook, brokenBy: 'hook-off' }])).toMatchObject([
    {
      code: 'hook-off',
      severity: 'error',
      problem: 'The send hook “Passage confirmed”: the app posts to a send hook that is switched off.',
    },
  ]);
});
