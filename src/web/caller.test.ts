/** Whose word on who calls is taken. */
import type { IncomingMessage } from 'node:http';
import { expect, test } from 'vitest';
import { clientOf } from '../core/addresses/client';
import { callersBehind } from './caller';
import { createOpenStreams } from './openStreams';

const request = (peer: string, headers: Record<string, string> = {}) =>
  ({ socket: { remoteAddress: peer }, connection: { remoteAddress: peer }, headers }) as unknown as IncomingMessage;

test.each([
  ['nobody is trusted', [], '198.51.100.7', '203.0.113.9', '198.51.100.7'],
  ['the proxy is, and names the caller', ['10.0.0.0/8'], '10.1.2.3', '203.0.113.9', '203.0.113.9'],
  ['what the caller wrote before it is not', ['10.0.0.0/8'], '10.1.2.3', '1.2.3.4, 203.0.113.9', '203.0.113.9'],
  ['two proxies behind one another', ['10.0.0.0/8'], '10.1.2.3', '203.0.113.9, 10.9.9.9', '203.0.113.9'],
  ['a peer that only looks like one', ['10.0.0.0/8'], '110.1.2.3', '203.0.113.9', '110.1.2.3'],
  ['IPv4 written as IPv6', ['10.0.0.0/8'], '::ffff:10.1.2.3', '203.0.113.9', '203.0.113.9'],
])('%s', (_, trusted, peer, said, from) => {
  expect(callersBehind(trusted).addressOf(request(peer, { 'x-forwarded-for': said }))).toBe(from);
});

test('a host that a stranger says it was forwarded for is forgotten; what a trusted proxy says is kept', () => {
  const said = {
    'x-forwarded-host': 'mossgate.invalid',
    'x-forwarded-proto': 'https',
    host: 'windgap.mossgate.example',
  };
  const stranger = request('198.51.100.7', { ...said });
  callersBehind([]).settle(stranger);
  expect(stranger.headers).toEqual({ host: said.host, 'x-forwarded-for': '198.51.100.7' });
  const proxy = request('10.1.2.3', { ...said });
  callersBehind(['10.0.0.0/8']).settle(proxy);
  expect(proxy.headers).toMatchObject(said);
});

test('a caller who has gone already is unknown, and nothing else', () => {
  const gone = request(undefined as never, { 'x-forwarded-for': '203.0.113.9' });
  expect(callersBehind(['10.0.0.0/8']).addressOf(gone)).toBe('unknown');
});

test('a network that cannot be read stops the start', () => {
  expect(() => callersBehind(['10.0.0.0/99'])).toThrow();
});

test('one household is one client, however many addresses its network gives it', () => {
  expect(clientOf('2001:db8:1:2:3:4:5:6')).toBe(clientOf('2001:db8:1:2:ffff::1'));
  expect(clientOf('2001:db8:1:2::1')).not.toBe(clientOf('2001:db8:1:3::1'));
  expect(clientOf('::ffff:198.51.100.7')).toBe('198.51.100.7');
  expect(clientOf('unknown')).toBe('unknown');
});

test('streams are counted by whose they are, and each is counted off once', () => {
  const streams = createOpenStreams(2);
  const first = streams.open('ines');
  streams.open('ines');
  expect(streams.open('ines')).toBeUndefined();
  expect(streams.open('tomas')).toBeDefined();
  first?.();
  first?.();
  expect(streams.open('ines')).toBeDefined();
  expect(streams.open('ines')).toBeUndefined();
});
