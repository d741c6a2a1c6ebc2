import { expect, test } from 'vitest';
import { API_VERSIONS, answerIn, FIRST_VERSION, LATEST_VERSION, versionFields } from './versions';

const answer = {
  id: 'msg_1',
  cause: { code: 'credit-gone', title: 'x', fix: 'Top up.' },
  list: [{ fix: 'not a problem: no code' }],
};

test('the first version has the former names, the latest none', () => {
  expect(answerIn(LATEST_VERSION, answer)).toBe(answer);
  expect(answerIn(FIRST_VERSION, answer)).toEqual({
    ...answer,
    cause: { ...answer.cause, mend: 'Top up.' },
  });
  expect(answerIn('2031-01-01', answer)).toBe(answer);
});

test('only what will end says so, as the standards write it', () => {
  expect(versionFields(LATEST_VERSION, 'https://w.example/apps/api')).toEqual({ 'windgap-version': LATEST_VERSION });
  expect(versionFields(FIRST_VERSION, 'https://w.example/apps/api')).toEqual({
    'windgap-version': FIRST_VERSION,
    deprecation: '@1795996800',
    sunset: 'Tue, 30 Nov 2027 00:00:00 GMT',
    link: '<https://w.example/apps/api>; rel="deprecation"; type="text/html"',
  });
});

test('versions are in the order of their days, each one but the last can be gone back to, and has a year', () => {
  const names = API_VERSIONS.map(({ version }) => version);
  expect([...names].sort()).toEqual(names);
  for (const { back, deprecatedAt, sunsetAt } of API_VERSIONS.slice(0, -1)) {
    expect(back).toBeDefined();
    expect((sunsetAt ?? 0) - (deprecatedAt ?? 0)).toBeGreaterThanOrEqual(365 * 86_400_000);
  }
});
