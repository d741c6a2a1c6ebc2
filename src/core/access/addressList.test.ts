import { expect, test } from 'vitest';
import { isWithin, readAddressList } from './addressList';

test.each([
  ['192.0.2.7', ['192.0.2.0/24'], true],
  ['::ffff:192.0.2.7', ['192.0.2.0/24'], true],
  ['192.0.2.7', ['192.0.2.7'], true],
  ['192.0.3.7', ['192.0.2.0/24', '198.51.100.4'], false],
  ['2001:db8::7', ['2001:db8::/32'], true],
  ['2001:db9::7', ['2001:db8::/32'], false],
  ['192.0.2.7', ['2001:db8::/32'], false],
  ['2001:0db8:0::1', ['2001:db8::1'], true],
  ['unknown', ['0.0.0.0/0'], false],
  ['192.0.2.7', [], false],
])('%s in %j: %s', (address, list, within) => {
  expect(isWithin(address, list)).toBe(within);
});

test('a list says what in it is no address', () => {
  expect(readAddressList(' 192.0.2.0/24, 2001:db8::1\n192.0.2.0/24')).toEqual({
    ok: true,
    addresses: ['192.0.2.0/24', '2001:db8::1'],
  });
  expect(readAddressList('192.0.2.0/33')).toEqual({ ok: false, bad: '192.0.2.0/33' });
  expect(readAddressList('office')).toEqual({ ok: false, bad: 'office' });
});
