import { expect, test } from 'vitest';
import type { AccountFacts } from './facts';
import { missingRegistration, predictRefusal, type SendingPlan, windowClosesAt } from './predict';

const NOW = Date.UTC(2026, 10, 25, 9);
const HOUR = 3_600_000;

const plan = (facts: AccountFacts, more: Partial<SendingPlan> = {}): SendingPlan => ({
  now: NOW,
  facts,
  requires: { permissions: [], subscriptions: [], registrationCountries: ['US'] },
  disabled: false,
  recipient: { value: '+61491570156', country: 'AU' },
  ...more,
});

test('what a provider does not tell predicts nothing', () => {
  expect(predictRefusal(plan({}))).toBeUndefined();
  expect(predictRefusal(plan({ trial: true }))).toBeUndefined();
});

test.each<[string, SendingPlan, string | undefined]>([
  ['a disabled account', plan({}, { disabled: true }), 'account-disabled'],
  ['an expired credential', plan({ expiresAt: NOW }), 'credential-expired'],
  ['a credential with a millisecond left', plan({ expiresAt: NOW + 1 }), undefined],
  ['a trial and a phone not verified', plan({ trial: true, verifiedPhones: ['+61491570157'] }), 'trial-unverified'],
  ['a trial and a verified phone', plan({ trial: true, verifiedPhones: ['+61491570156'] }), undefined],
  ['a country switched off', plan({ countries: ['DE', 'NO'] }), 'country-off'],
  ['a country switched on', plan({ countries: ['AU'] }), undefined],
  ['a recipient whose country is not known', plan({ countries: ['DE'] }, { recipient: { value: '4711' } }), undefined],
])('%s', (_name, given, expected) => {
  expect(predictRefusal(given)?.cause).toBe(expected);
});

test('free text ends when the hours after the last message are over, and not a moment before', () => {
  const window = (ago?: number) =>
    predictRefusal(plan({}, { replyWindowHours: 24, lastInboundAt: ago === undefined ? undefined : NOW - ago }));
  expect(window(24 * HOUR - 1)).toBeUndefined();
  expect(window(24 * HOUR)).toEqual({ cause: 'window-closed', said: 'the last message came 24 hours ago' });
  expect(window()).toEqual({ cause: 'window-closed', said: 'this contact has never written here' });
  expect(windowClosesAt(24, NOW)).toBe(NOW + 24 * HOUR);
});

test('a registration is missing until brand and use are both approved', () => {
  const requires = { permissions: [], subscriptions: [], registrationCountries: ['US'] };
  const missing = (registrations: AccountFacts['registrations']) =>
    missingRegistration({ registrations }, requires, 'US');
  expect(missing(undefined)).toBeUndefined();
  expect(missing([])).toBe('nothing is registered');
  expect(missing([{ country: 'US', brand: 'submitted', use: 'none' }])).toBe('the brand is submitted');
  expect(missing([{ country: 'US', brand: 'approved', use: 'none' }])).toBe('the campaign use is not registered');
  expect(missing([{ country: 'US', brand: 'approved', use: 'rejected', reason: 'no opt-out' }])).toBe(
    'the campaign use is rejected: no opt-out',
  );
  expect(missing([{ country: 'US', brand: 'approved', use: 'approved' }])).toBeUndefined();
  expect(missingRegistration({ registrations: [] }, requires, 'AU')).toBeUndefined();
});
