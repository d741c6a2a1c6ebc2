import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { normaliseAddress } from './address';
import { displayAddress } from './display';

function value(text: string, defaultCountry?: string) {
  const result = normaliseAddress(text, { defaultCountry });
  return result.ok ? result.address.value : result.finding.code;
}

test('what was read once is read alike again, and otherwise where another country is assumed', () => {
  for (let times = 0; times < 2; times++) {
    expect(value('07700 900123', 'GB')).toBe('+447700900123');
    expect(value('07700 900123')).toBe('address-country-needed');
    expect(value('07700 900123', 'US')).not.toBe('+447700900123');
  }
});

describe('forms people write', () => {
  test.each([
    ['+44 7700 900123', undefined, '+447700900123'],
    ['+44 (0)7700 900123', undefined, '+447700900123'],
    ['0044 7700 900123', undefined, '+447700900123'],
    ['(07700) 900-123', 'GB', '+447700900123'],
    ['07700.900.123', 'GB', '+447700900123'],
    ['tel:+44-7700-900123', undefined, '+447700900123'],
    ['\u202a+44 7700 900123\u202c', undefined, '+447700900123'],
    ['+44\u00a07700\u00a0900123', undefined, '+447700900123'],
    ['＋44 7700 900123', undefined, '+447700900123'],
    ['٠٧٧٠٠ ٩٠٠١٢٣', 'GB', '+447700900123'],
    ['020 7946 0114', 'GB', '+442079460114'],
    ['06 39 98 04 17', 'FR', '+33639980417'],
    ['070-174 06 12', 'SE', '+46701740612'],
    ['(212) 555-0147', 'US', '+12125550147'],
    ['0491 570 156', 'AU', '+61491570156'],
  ])('%s in %s', (text, country, expected) => {
    expect(value(text, country)).toBe(expected);
  });

  test('a number with brackets and spaces needs no country once it has a plus', () => {
    expect(value('+44 (7700) 900 123')).toBe('+447700900123');
  });
});

describe('what is wrong is said', () => {
  test.each([
    ['', undefined, 'address-empty'],
    ['   ', undefined, 'address-empty'],
    ['07700 900123', undefined, 'address-country-needed'],
    ['07700 900123', 'ZZ', 'address-country-needed'],
    ['+44 77O0 900123', undefined, 'address-letters'],
    ['harbour', undefined, 'address-no-digits'],
    ['+999 12345678', undefined, 'address-country-unknown'],
    ['+44 7700 900', undefined, 'address-not-in-plan'],
    ['+44 7700 900123 4567 8901', undefined, 'address-length'],
    ['+447700900123 / +447700900124', undefined, 'address-several'],
    ['020 7946 0114 ext. 22', 'GB', 'address-extension'],
    ['7', 'GB', 'address-too-short'],
  ])('%s in %s: %s', (text, country, code) => {
    expect(value(text, country)).toBe(code);
  });

  test('a letter is pointed at', () => {
    const result = normaliseAddress('+44 77O0 900123');
    expect(!result.ok && result.finding.place).toEqual({ from: 6, to: 7 });
  });
});

describe('senders', () => {
  test('short codes and names only where they are allowed', () => {
    expect(value('60777', 'GB')).not.toBe('60777');
    expect(normaliseAddress('60777', { allowShortCode: true })).toMatchObject({
      ok: true,
      address: { kind: 'short-code' },
    });
    expect(normaliseAddress('MOSSGATE', { allowSenderName: true })).toMatchObject({
      ok: true,
      address: { kind: 'sender-name' },
    });
    expect(normaliseAddress('MOSSGATE WATERWAYS', { allowSenderName: true }).ok).toBe(false);
  });
});

test('ranges reserved for fiction are accepted and marked, real ones are not marked', () => {
  for (const number of [
    '+447700900999',
    '+442079460000',
    '+12125550199',
    '+61491571804',
    '+33639989999',
    '+46701740699',
  ]) {
    expect(normaliseAddress(number)).toMatchObject({ ok: true, address: { fictional: true } });
  }
  // One beyond the Swedish range is an ordinary number.
  expect(normaliseAddress('+46701740704')).not.toMatchObject({ address: { fictional: true } });
});

test('any accepted number is E.164 and normalising it again changes nothing', () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.stringMatching(/^\+?[0-9 ()-]{5,20}$/)), (text) => {
      const result = normaliseAddress(text, { defaultCountry: 'GB' });
      if (!result.ok) return;
      expect(result.address.value).toMatch(/^\+[1-9]\d{3,14}$/);
      expect(normaliseAddress(result.address.value)).toEqual(result);
      expect(value(displayAddress(result.address.value))).toBe(result.address.value);
    }),
    { numRuns: 500 },
  );
});
