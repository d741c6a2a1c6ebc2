import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ESCAPE, gsm7Alphabet, gsm7Septets } from './gsm7';
import { measureText } from './measure';
import { safeSubstitute, substituteSafely } from './substitutes';

/** [encoding, parts, units] */
function brief(text: string, referenceBits: 8 | 16 = 8) {
  const measure = measureText(text, { referenceBits });
  return [measure.encoding, measure.parts.length, measure.units];
}

describe('the GSM 7-bit alphabet', () => {
  test('agrees with an independent implementation, character by character', () => {
    const script = `
      use Encode::GSM0338; use Encode; binmode STDOUT, ':utf8';
      for my $c (0..0xFFFF) {
        next if $c >= 0xD800 && $c <= 0xDFFF;
        my $bytes = Encode::encode('gsm0338', chr($c), sub { '' });
        next unless defined $bytes && length $bytes;
        printf "%d %s\\n", $c, unpack('H*', $bytes);
      }`;
    const witness = new Map(
      execFileSync('perl', ['-e', script], { encoding: 'utf8', maxBuffer: 1 << 24 })
        .trim()
        .split('\n')
        .map((line) => line.split(' ') as [string, string])
        .map(([code, hex]) => [String.fromCodePoint(Number(code)), hex]),
    );
    const ours = new Map(gsm7Alphabet().map((char) => [char, Buffer.from(gsm7Septets(char) ?? []).toString('hex')]));
    for (const [char, hex] of ours) expect([char, witness.get(char)]).toEqual([char, hex]);
    expect(ours.size).toBe(127 + 10);
    const extra = [...witness.keys()].filter((char) => !ours.has(char));
    // The witness also writes the escape itself, and a small c with cedilla as the capital one of the table.
    expect(extra.filter((char) => char !== '\u001b' && char !== 'ç')).toEqual([]);
  });

  test('the extension table costs an escape', () => {
    for (const char of '\f^{}\\[~]|€') expect(gsm7Septets(char)).toEqual([ESCAPE, expect.any(Number)]);
  });
});

describe('boundaries of GSM-7 texts', () => {
  test.each([
    [0, 1],
    [159, 1],
    [160, 1],
    [161, 2],
    [306, 2],
    [307, 3],
    [459, 3],
    [460, 4],
  ])('%i septets make %i parts', (length, parts) => {
    expect(brief('a'.repeat(length))).toEqual(['GSM-7', parts, length]);
  });

  test('a 16-bit reference takes one septet more of each part', () => {
    expect(brief('a'.repeat(304), 16)).toEqual(['GSM-7', 2, 304]);
    expect(brief('a'.repeat(305), 16)).toEqual(['GSM-7', 3, 305]);
  });

  test('an escape pair is never split between parts', () => {
    const measure = measureText(`${'a'.repeat(152)}€${'b'.repeat(20)}`);
    expect(measure.parts.map((part) => part.units)).toEqual([152, 22]);
    expect(measure.parts[1]?.from).toBe(152);
  });

  test('the pair counts twice: 80 of them fill one part, 81 need two', () => {
    expect(brief('€'.repeat(80))).toEqual(['GSM-7', 1, 160]);
    expect(brief('€'.repeat(81))).toEqual(['GSM-7', 2, 162]);
    // 76 pairs are 152 of 153 septets; the 77th does not fit any more.
    expect(measureText('€'.repeat(153)).parts.map((part) => part.units)).toEqual([152, 152, 2]);
  });
});

describe('boundaries of UCS-2 texts', () => {
  test.each([
    [70, 1],
    [71, 2],
    [134, 2],
    [135, 3],
  ])('%i units make %i parts', (length, parts) => {
    expect(brief('ж'.repeat(length))).toEqual(['UCS-2', parts, length]);
  });

  test('a surrogate pair is never split between parts', () => {
    const measure = measureText(`${'ж'.repeat(66)}🛶${'ж'.repeat(10)}`);
    expect(measure.parts.map((part) => part.units)).toEqual([66, 12]);
  });

  test('a grapheme of several code points stays whole where it fits', () => {
    const family = '👩‍👩‍👧';
    const measure = measureText(`${'ж'.repeat(64)}${family}`);
    expect(measure.parts.map((part) => part.units)).toEqual([64, family.length]);
  });

  test('a grapheme longer than a part is broken between code points only', () => {
    const monster = `e${'\u0301'.repeat(100)}`;
    const measure = measureText(monster);
    expect(measure.parts.map((part) => part.units)).toEqual([67, 34]);
  });

  test('a 16-bit reference leaves 66', () => {
    expect(brief('ж'.repeat(132), 16)).toEqual(['UCS-2', 2, 132]);
    expect(brief('ж'.repeat(133), 16)).toEqual(['UCS-2', 3, 133]);
  });
});

describe('what forces the costlier encoding', () => {
  test('is named with its place and a substitute', () => {
    expect(measureText('It’s open').forcing).toEqual([{ char: '’', at: 2, substitute: "'" }]);
    // Replacing these would change a name, so nothing is offered.
    expect(measureText('Łódź').forcing.map(({ char, substitute }) => [char, substitute])).toEqual([
      ['Ł', undefined],
      ['ó', undefined],
      ['ź', undefined],
    ]);
  });

  test('people are shown what they see, the bill what is sent', () => {
    const measure = measureText('Hi 👩‍👩‍👧');
    expect([measure.characters, measure.units]).toEqual([4, 11]);
  });

  test('every substitute is itself in the alphabet', () => {
    for (let code = 0; code < 0x10000; code++) {
      const substitute = safeSubstitute(String.fromCharCode(code));
      for (const char of substitute ?? '') expect(gsm7Septets(char)).toBeDefined();
    }
    expect(measureText(substituteSafely('“It’s open…” – 9 to 5')).encoding).toBe('GSM-7');
  });
});

describe('properties', () => {
  const anyText = fc.string({ unit: 'grapheme', maxLength: 400 });
  const gsmText = fc.string({ unit: fc.constantFrom(...gsm7Alphabet()), maxLength: 700 });

  test('parts follow each other without gap or overlap and hold within the limit', () => {
    fc.assert(
      fc.property(fc.oneof(anyText, gsmText), fc.constantFrom(8 as const, 16 as const), (text, referenceBits) => {
        const measure = measureText(text, { referenceBits });
        expect(measure.parts.map((part) => text.slice(part.from, part.to)).join('')).toBe(text);
        for (const part of measure.parts) expect(part.units).toBeLessThanOrEqual(measure.unitsPerPart);
        expect(measure.parts.reduce((sum, part) => sum + part.units, 0)).toBe(measure.units);
      }),
    );
  });

  test('no part begins or ends inside a surrogate pair', () => {
    fc.assert(
      fc.property(anyText, (text) => {
        for (const part of measureText(text).parts) {
          const low = text.charCodeAt(part.from);
          const splits =
            part.from > 0 &&
            low >= 0xdc00 &&
            low <= 0xdfff &&
            text.charCodeAt(part.from - 1) >= 0xd800 &&
            text.charCodeAt(part.from - 1) <= 0xdbff;
          expect(splits).toBe(false);
        }
      }),
    );
  });

  test('a part is only left before it is full because the next piece did not fit', () => {
    fc.assert(
      fc.property(gsmText, (text) => {
        const measure = measureText(text);
        measure.parts.slice(0, -1).forEach((part, index) => {
          const next = Array.from(text.slice(measure.parts[index + 1]?.from))[0] ?? '';
          expect(part.units + (gsm7Septets(next)?.length ?? 0)).toBeGreaterThan(measure.unitsPerPart);
        });
      }),
    );
  });
});
