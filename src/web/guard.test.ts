/** Which requests of browsers are heard. */
import type { IncomingMessage } from 'node:http';
import { expect, test } from 'vitest';
import { guardOf } from './guard';

const { isOurs, vouch } = guardOf('https://windgap.mossgate.example');
const request = (method: string, headers: Record<string, string>) =>
  ({ method, headers: { host: 'windgap.mossgate.example', ...headers } }) as unknown as IncomingMessage;

test.each([
  ['a form of ours', 'POST', { origin: 'https://windgap.mossgate.example', 'sec-fetch-site': 'same-origin' }, true],
  ['one of a page elsewhere', 'POST', { origin: 'https://elsewhere.example', 'sec-fetch-site': 'cross-site' }, false],
  [
    'one of a page elsewhere, by a browser that does not say so',
    'POST',
    { origin: 'https://elsewhere.example' },
    false,
  ],
  ['one of a neighbour of the same site', 'POST', { 'sec-fetch-site': 'same-site' }, false],
  ['one of a page without an origin', 'POST', { origin: 'null' }, false],
  ['a host that only begins alike', 'POST', { origin: 'https://windgap.mossgate.example.elsewhere.example' }, false],
  ['a program, which is nobody’s page', 'POST', {}, true],
  ['behind a proxy that keeps the host', 'POST', { host: 'inner', origin: 'https://windgap.mossgate.example' }, true],
  ['a link from anywhere', 'GET', { 'sec-fetch-site': 'cross-site' }, true],
])('%s', (_, method, headers, ours) => {
  expect(isOurs(request(method, headers))).toBe(ours);
});

test('what was found right is told to those behind, and only of what changes something', () => {
  const form = request('POST', { host: 'inner', origin: 'https://windgap.mossgate.example' });
  vouch(form);
  expect(form.headers['x-forwarded-host']).toBe('windgap.mossgate.example');
  const read = request('GET', { host: 'inner', origin: 'https://elsewhere.example' });
  vouch(read);
  expect(read.headers['x-forwarded-host']).toBeUndefined();
});
