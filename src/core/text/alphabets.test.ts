import { expect, test } from 'vitest';
import { ALPHABETS, decodeText, encodeText, explainByAlphabet, writtenIn } from './alphabets';

test.each(ALPHABETS)('%s gives back what was put in', (alphabet) => {
  const text = 'Grüße, Año Ñandù: 5 £';
  expect(decodeText(encodeText(text, alphabet) as Uint8Array, alphabet)).toBe(text);
});

test('GSM-7 lies one septet in each octet, two for the extension table (3GPP TS 23.038 §6.2.1)', () => {
  expect([...(encodeText('@£$', 'gsm-7') as Uint8Array)]).toEqual([0x00, 0x01, 0x02]);
  expect([...(encodeText('€[', 'gsm-7') as Uint8Array)]).toEqual([0x1b, 0x65, 0x1b, 0x3c]);
  expect(encodeText('ő', 'gsm-7')).toBeUndefined();
});

test('UCS-2 is big-endian and keeps surrogate pairs', () => {
  expect([...(encodeText('ő🦦', 'ucs-2') as Uint8Array)]).toEqual([0x01, 0x51, 0xd8, 0x3e, 0xdd, 0xa6]);
  expect(decodeText(Uint8Array.from([0xd8, 0x3e, 0xdd, 0xa6]), 'ucs-2')).toBe('🦦');
});

test('octets the alphabet does not define show as replacement characters', () => {
  expect(decodeText(Uint8Array.from([0x41, 0xe9]), 'gsm-7')).toBe('A\ufffd');
});

test('a text read in the wrong alphabet is explained by the pair', () => {
  const arrived = decodeText(encodeText('Grüße für Ülle', 'latin-1') as Uint8Array, 'gsm-7');
  expect(explainByAlphabet('Grüße für Ülle', arrived)).toEqual({ written: 'latin-1', read: 'gsm-7' });
  const other = decodeText(encodeText('Größe: 5 £', 'gsm-7') as Uint8Array, 'latin-1');
  expect(explainByAlphabet('Größe: 5 £', other)).toEqual({ written: 'gsm-7', read: 'latin-1' });
  expect(explainByAlphabet('Grüße', 'Grüße')).toBeUndefined();
  expect(explainByAlphabet('Grüße', 'Grütze')).toBeUndefined();
});

test('octets betray an alphabet they cannot have been written in', () => {
  const octets = (text: string, alphabet: 'gsm-7' | 'latin-1') => encodeText(text, alphabet) as Uint8Array;
  expect(writtenIn(octets('für', 'latin-1'), 'gsm-7')).toBe('latin-1');
  expect(writtenIn(octets('5 £', 'gsm-7'), 'latin-1')).toBe('gsm-7');
  expect(writtenIn(octets('plain\nwords', 'gsm-7'), 'latin-1')).toBeUndefined();
  expect(writtenIn(octets('plain words', 'latin-1'), 'gsm-7')).toBeUndefined();
});
