import { describe, expect, test } from 'vitest';
import { type ConnectedChannel, type ConnectionFacts, examineConnection } from './examine';
import type { AccountFacts } from './facts';

const NOW = Date.UTC(2026, 10, 25, 9);
const DAY = 86_400_000;
const OURS = 'https://windgap.example/in/harbour';

const channel: ConnectedChannel = {
  id: 'chn_1',
  name: 'Harbour desk',
  kind: 'sms-http',
  address: '+61491570156',
  addressKind: 'long-number',
  abilities: ['text-in', 'text-out'],
  facts: {},
  inboundUrl: OURS,
  fallbackUrl: `${OURS}/fallback`,
  remote: { url: OURS, method: 'POST', fallback: `${OURS}/fallback` },
  handedOver: true,
  postedLately: false,
  optOutsKept: 0,
};

function connection(change: {
  facts?: AccountFacts;
  account?: Partial<ConnectionFacts['account']>;
  channel?: Partial<ConnectedChannel>;
  numbers?: ConnectionFacts['numbers'];
}): ConnectionFacts {
  return {
    now: NOW,
    account: {
      id: 'acc_1',
      name: 'Mossgate texts',
      connectorName: 'Brackwater',
      facts: change.facts ?? {},
      requires: { permissions: [], subscriptions: [], registrationCountries: [] },
      challenges: false,
      inboundBelongsTo: 'number',
      inboundMethod: 'POST',
      canSetAddress: true,
      disabled: false,
      doorOpen: true,
      ...change.account,
    },
    channels: [{ ...channel, ...change.channel }],
    numbers: change.numbers ?? [{ address: channel.address, inboundUrl: OURS, fallback: `${OURS}/fallback` }],
  };
}

const codes = (facts: ConnectionFacts) => examineConnection(facts).map((finding) => finding.code);

test('a connection that is as it should be has no findings', () => {
  expect(codes(connection({}))).toEqual([]);
});

describe('the address the provider calls', () => {
  test('under another server is not replaced while posts arrive, nor before the public address is known to lead here', () => {
    const remote = {
      url: OURS.replace(/^https?:\/\/[^/]+/, 'https://door.mossgate.example'),
      method: 'POST',
      fallback: 'x',
    };
    const found = (postedLately: boolean, doorOpen: boolean) =>
      examineConnection(connection({ channel: { remote, postedLately }, account: { doorOpen } })).map(
        ({ code, action }) => [code, action],
      );
    expect(found(true, true)).toEqual([['address-other-origin', undefined]]);
    expect(found(false, false)).toEqual([['address-other-origin', undefined]]);
    expect(found(false, true)).toEqual([['address-other-origin', 'set-address']]);
  });

  test.each([
    ['address-missing', { remote: {} }],
    ['address-not-ours', { remote: { url: 'https://elsewhere.example/hook', method: 'POST' } }],
    ['inbound-method', { remote: { url: OURS, method: 'get', fallback: `${OURS}/fallback` } }],
    ['fallback-empty', { remote: { url: OURS, method: 'POST', fallback: '' } }],
  ])('%s', (code, change: Partial<ConnectedChannel>) => {
    expect(codes(connection({ channel: change }))).toEqual([code]);
  });

  test('a missing address is an error only once it was said to be handed over', () => {
    const severity = (handedOver: boolean) =>
      examineConnection(connection({ channel: { remote: {}, handedOver } }))[0]?.severity;
    expect(severity(false)).toBe('attention');
    expect(severity(true)).toBe('error');
  });

  test('an address set for another number names both numbers and hides "another address"', () => {
    const found = examineConnection(
      connection({
        channel: { remote: { url: 'https://elsewhere.example/hook' } },
        numbers: [{ address: '+61491570157', inboundUrl: OURS }],
      }),
    );
    expect(found.map((finding) => finding.code)).toEqual(['address-on-another-number']);
    expect(found[0]?.problem).toContain('+61 491 570 157 instead');
    expect(found[0]).toMatchObject({ hop: 'inbound', action: 'set-address' });
  });

  test('nothing is said where the provider does not tell, or the account has one address for all', () => {
    expect(codes(connection({ channel: { remote: undefined } }))).toEqual([]);
    expect(codes(connection({ channel: { remote: {} }, account: { inboundBelongsTo: 'account' } }))).toEqual([]);
  });

  test('a sender that cannot be answered is told so, and not asked for an address', () => {
    for (const change of [{ addressKind: 'sender-name', abilities: ['text-out'] }, { facts: { shared: true } }]) {
      expect(codes(connection({ channel: { ...change, remote: {} } }))).toEqual(['one-way-sender']);
    }
  });
});

describe('the account', () => {
  test.each([
    [-1, 'credential-expired', 'error'],
    [DAY, 'credential-expires', 'error'],
    [13 * DAY, 'credential-expires', 'attention'],
  ])('a credential with %d ms left: %s', (left, code, severity) => {
    expect(examineConnection(connection({ facts: { expiresAt: NOW + left } }))).toMatchObject([{ code, severity }]);
  });

  test('an expiry two weeks away is no finding yet', () => {
    expect(codes(connection({ facts: { expiresAt: NOW + 14 * DAY } }))).toEqual([]);
  });

  test('permissions and events are compared with what the profile requires, and only when told', () => {
    const requires = { permissions: ['send', 'read'], subscriptions: ['messages'], registrationCountries: [] };
    expect(codes(connection({ account: { requires } }))).toEqual([]);
    const found = examineConnection(
      connection({
        account: { requires, challenges: true },
        facts: { permissions: ['send'], subscriptions: [], callback: { url: OURS, verified: true } },
      }),
    );
    expect(found.map((finding) => finding.code)).toEqual(['credential-lacks-permission', 'events-not-subscribed']);
    expect(found[0]?.problem).toBe('The token lacks the permission read.');
    expect(found[1]?.problem).toBe(
      'The address is verified, but not subscribed to the event messages, so nothing arrives.',
    );
  });

  test.each<[string, AccountFacts]>([
    ['mode-development', { mode: 'development' }],
    ['payment-missing', { payment: 'missing' }],
    ['credit-gone', { balance: { micros: 0, currency: 'EUR' } }],
    ['account-on-trial', { trial: true, verifiedPhones: ['+61491570158'] }],
  ])('%s endangers sending', (code, facts) => {
    expect(examineConnection(connection({ facts }))).toMatchObject([{ code, hop: 'outbound' }]);
  });
});

test.each([
  ['number-taken', { facts: { state: 'taken' as const } }],
  ['number-code-needed', { facts: { state: 'code-needed' as const } }],
  ['test-mode-on', { facts: { testMode: { on: true, since: NOW - DAY, joinCode: 'join slow-otter' } } }],
])('%s is an error of the number', (code, change) => {
  expect(examineConnection(connection({ channel: change }))).toMatchObject([
    { code, severity: 'error', subject: 'chn_1' },
  ]);
});

test('test mode names its day and its join code', () => {
  const facts = { testMode: { on: true, since: NOW - DAY, joinCode: 'join slow-otter' } };
  expect(examineConnection(connection({ channel: { facts } }))[0]?.problem).toContain(
    'since 2026-11-24: only people who sent the join code join slow-otter',
  );
});
