/** Inputs nobody planned: honest samples cut, doubled, joined and sprinkled with what parsers trip over; or nothing honest at all. */
import fc from 'fast-check';

/** What means something to one parser or another. */
const WORDS = [
  '"',
  "'",
  '\\',
  '\0',
  '\r\n',
  '\n',
  '{',
  '}',
  '[',
  ']',
  '(',
  ')',
  '{{',
  '}}',
  '{%',
  '%}',
  '%',
  '&',
  '=',
  ';',
  ':',
  ',',
  '\u202e',
  '\ufeff',
  '\ud800',
  '\u{1F469}\u200d',
  '\u0301',
  'é',
  '٣',
  '__proto__',
  'constructor',
  'null',
  'true',
  '-0',
  '1e999',
  '99999999999999999999',
  '-1',
  '0x10',
  '1/0',
  'NaN',
  '%00',
  '%FF',
  '%E0%A4%A',
  '<!ENTITY',
  '&amp;',
  '*a',
  '&a',
  '!!js',
  '<<:',
  'RRULE:FREQ=SECONDLY',
  'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=31',
  'INTERVAL=0',
  'COUNT=999999999',
  'BYSETPOS=-1',
  'DTSTART:00000000T000000',
  'RDATE:20260504T100000',
  'BEGIN:VEVENT',
  'END:VEVENT',
  'TZID=Nowhere/Land',
  '(a+)+$',
  '.{0,1000}',
  '$..*',
  '[?@.a==@..b]',
  '+881',
  'tel:',
  ';ext=',
  'id:',
  'stat:',
  '| append: person.name',
  'for i in (1..9999999)',
  'include "x"',
  '../../etc/passwd',
  '=1+1',
].map((word) => Buffer.from(word, 'utf8'));

type Edit = (input: Buffer, other: Buffer) => Buffer;

const place = fc.double({ min: 0, max: 1, noNaN: true });
const at = (input: Buffer, where: number) => Math.floor(where * input.length);

const edit: fc.Arbitrary<Edit> = fc.oneof(
  fc.tuple(place, place).map(
    ([a, b]): Edit =>
      (input) => {
        const [from, to] = [at(input, Math.min(a, b)), at(input, Math.max(a, b))];
        return Buffer.concat([input.subarray(0, from), input.subarray(to)]);
      },
  ),
  fc.tuple(place, place, fc.integer({ min: 2, max: 60 })).map(
    ([a, b, times]): Edit =>
      (input) => {
        const [from, to] = [at(input, Math.min(a, b)), at(input, Math.max(a, b))];
        const piece = input.subarray(from, to);
        return Buffer.concat([
          input.subarray(0, to),
          ...Array.from({ length: times }, () => piece),
          input.subarray(to),
        ]);
      },
  ),
  fc.tuple(place, fc.constantFrom(...WORDS), fc.integer({ min: 1, max: 400 })).map(
    ([where, word, times]): Edit =>
      (input) => {
        const from = at(input, where);
        const many = Array.from({ length: times > 300 ? times : 1 + (times % 4) }, () => word);
        return Buffer.concat([input.subarray(0, from), ...many, input.subarray(from)]);
      },
  ),
  fc.tuple(place, fc.integer({ min: 0, max: 255 })).map(
    ([where, byte]): Edit =>
      (input) => {
        const copy = Buffer.from(input);
        if (copy.length > 0) copy[at(copy, where)] = byte;
        return copy;
      },
  ),
  fc.tuple(place, place).map(
    ([a, b]): Edit =>
      (input, other) =>
        Buffer.concat([input.subarray(0, at(input, a)), other.subarray(at(other, b))]),
  ),
);

/** Nothing longer is taken at any door that these parsers stand behind without a thread around them. */
const LONGEST = 256 * 1024;

export function casesOf(corpus: readonly (string | Buffer)[]): fc.Arbitrary<Buffer> {
  const samples = corpus.map((sample) => Buffer.from(sample as string));
  const strange = fc.oneof(
    fc.string({ unit: 'binary', maxLength: 300 }).map((text) => Buffer.from(text, 'utf8')),
    fc.uint8Array({ maxLength: 300 }).map((octets) => Buffer.from(octets)),
    fc.json({ maxDepth: 12 }).map((text) => Buffer.from(text, 'utf8')),
    fc
      .tuple(fc.constantFrom(...WORDS), fc.integer({ min: 1, max: 20_000 }))
      .map(([word, times]) =>
        Buffer.concat(Array.from({ length: Math.min(times, Math.floor(LONGEST / word.length)) }, () => word)),
      ),
  );
  if (samples.length === 0) return strange;
  const mutated = fc
    .tuple(fc.constantFrom(...samples), fc.constantFrom(...samples), fc.array(edit, { minLength: 1, maxLength: 8 }))
    .map(([sample, other, edits]) =>
      edits.reduce<Buffer>((input, change) => change(input, other).subarray(0, LONGEST), sample),
    );
  return fc.oneof({ weight: 6, arbitrary: mutated }, { weight: 1, arbitrary: strange });
}
