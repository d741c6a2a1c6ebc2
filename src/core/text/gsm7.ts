/**
 * The GSM 7-bit default alphabet and its extension table.
 * Source: 3GPP TS 23.038 §6.2.1 and §6.2.1.1.
 */

/** Position in the string is the septet value; 0x1B (escape) holds a filler that never matches. */
const BASIC =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞ\u0000ÆæßÉ' +
  ' !"#¤%&\'()*+,-./0123456789:;<=>?' +
  '¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§' +
  '¿abcdefghijklmnopqrstuvwxyzäöñüà';

const EXTENSION: ReadonlyMap<string, number> = new Map([
  ['\f', 0x0a],
  ['^', 0x14],
  ['{', 0x28],
  ['}', 0x29],
  ['\\', 0x2f],
  ['[', 0x3c],
  ['~', 0x3d],
  [']', 0x3e],
  ['|', 0x40],
  ['€', 0x65],
]);

export const ESCAPE = 0x1b;

const SEPTETS: ReadonlyMap<string, readonly number[]> = new Map<string, readonly number[]>([
  ...[...BASIC].map((char, value): [string, number[]] => [char, [value]]).filter(([char]) => char !== '\u0000'),
  ...[...EXTENSION].map(([char, value]): [string, number[]] => [char, [ESCAPE, value]]),
]);

/** The septets of one character: one, or two with the escape; undefined when GSM-7 has no such character. */
export function gsm7Septets(char: string): readonly number[] | undefined {
  return SEPTETS.get(char);
}

const EXTENDED_CHARACTERS: ReadonlyMap<number, string> = new Map([...EXTENSION].map(([char, value]) => [value, char]));
const BASIC_CHARACTERS = [...BASIC];

/** The character of a septet, in the extension table after an escape. Undefined where the table has none. */
export function gsm7Character(septet: number, escaped: boolean): string | undefined {
  // TS 23.038 §6.2.1.1: an escaped septet without an entry is shown as the basic table's character.
  const char = (escaped && EXTENDED_CHARACTERS.get(septet)) || BASIC_CHARACTERS[septet];
  return char === '\u0000' ? undefined : char;
}

/** Every character GSM-7 can carry, in table order. */
export function gsm7Alphabet(): string[] {
  return [...SEPTETS.keys()];
}
