import { describe, expect, test } from 'vitest';
import { examineHouse, type HouseFacts } from './house';

const DAY = 86_400_000;
const NOW = 1_000 * DAY;
const well: HouseFacts = {
  now: NOW,
  channels: [
    {
      id: 'chn_1',
      name: 'Harbour desk',
      address: '+442079460114',
      accountId: 'acc_1',
      accountName: 'Brackwater',
      allowed: ['GB', 'SE'],
      people: { GB: 40, SE: 3 },
    },
  ],
  accounts: [{ id: 'acc_1', name: 'Brackwater', balanceMicros: 90e6, currency: 'GBP', spentMicros: 7e6 }],
  apps: [{ id: 'app_1', name: 'Lockbook', told: true, subscribed: [['windgap.message.received']], endedKeys: [] }],
  off: [],
  automations: [],
};
const codes = (change: (facts: HouseFacts) => Partial<HouseFacts>) =>
  examineHouse({ ...well, ...change(well) }).map(({ code, severity }) => `${severity} ${code}`);

test('a house that is well has nothing to say', () => {
  expect(examineHouse(well)).toEqual([]);
});

describe('channels and credit', () => {
  const channel = (more: object) =>
    codes(({ channels }) => ({ channels: channels.map((each) => ({ ...each, ...more })) }));

  test('people in a country that is off, and only where the provider tells', () => {
    expect(channel({ people: { GB: 40, FR: 2 } })).toEqual(['attention country-off']);
    expect(channel({ people: { FR: 2 }, allowed: undefined })).toEqual([]);
  });

  test('a number that is gone, and a queue that stands', () => {
    expect(channel({ goneAt: NOW - DAY })).toEqual(['error number-gone']);
    expect(channel({ waiting: { since: NOW - 60_000, count: 900 } })).toEqual([]);
    expect(channel({ waiting: { since: NOW - 600_000, count: 9 } })).toEqual(['attention queue-behind']);
  });

  test('credit that does not last three days', () => {
    const credit = (balanceMicros: number) =>
      codes(({ accounts }) => ({ accounts: accounts.map((each) => ({ ...each, balanceMicros })) }));
    expect(credit(3.1e6)).toEqual([]);
    expect(credit(2.9e6)).toEqual(['attention credit-low']);
    // Nothing left is said by the examination of the account.
    expect(credit(0)).toEqual([]);
  });
});

describe('apps, routes and automations', () => {
  const app = (more: object) => codes(({ apps }) => ({ apps: apps.map((each) => ({ ...each, ...more })) }));

  test('told and deaf, listening and told nothing', () => {
    expect(app({ subscribed: [['windgap.message.state']] })).toEqual(['error event-not-subscribed']);
    expect(app({ subscribed: [] })).toEqual(['error event-not-subscribed']);
    expect(app({ told: false })).toEqual(['attention app-not-routed']);
    expect(app({ told: false, subscribed: [] })).toEqual([]);
  });

  test('a key that ended in use, and records that refuse', () => {
    expect(app({ endedKeys: [{ name: 'Server', endedAt: NOW - DAY }] })).toEqual(['error key-expired']);
    expect(app({ records: { state: 'refused', cause: 'app-credential-refused' } })).toEqual([
      'error app-credential-refused',
    ]);
    expect(app({ records: { state: 'accepted' } })).toEqual([]);
  });

  test('a draft is somebody at work, until it has lain for a day', () => {
    expect(codes(() => ({ draft: { changedAt: NOW - 1000, by: 'Priya' } }))).toEqual(['notice draft-unpublished']);
    expect(codes(() => ({ draft: { changedAt: NOW - 2 * DAY, by: 'Priya' } }))).toEqual([
      'attention draft-unpublished',
    ]);
  });

  test('what was in use and is off', () => {
    expect(codes(() => ({ off: [{ id: 'r', name: 'Locks', hits: 0 }] }))).toEqual([]);
    expect(codes(() => ({ off: [{ id: 'r', name: 'Locks', hits: 4 }] }))).toEqual(['notice route-switched-off']);
    const hook = { id: 'h', name: 'Confirm', what: 'send hook', href: '/x', offAt: NOW - DAY };
    expect(codes(() => ({ automations: [hook] }))).toEqual([]);
    expect(codes(() => ({ automations: [{ ...hook, usedAt: NOW - 2 * DAY }] }))).toEqual(['notice automation-off']);
  });
});
