/**
 * Ostrel's own reading of 3GPP TS 23.038, one septet in an octet as SMPP carries it.
 * Written apart from the product on purpose.
 */
const BASE =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞ\u001bÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà';
const EXTRA: Record<string, number> = {
  '\f': 0x0a,
  '^': 0x14,
  '{': 0x28,
  '}': 0x29,
  '\\': 0x2f,
  '[': 0x3c,
  '~': 0x3d,
  ']': 0x3e,
  '|': 0x40,
  '€': 0x65,
};

export type DefaultAlphabet = 'gsm-7' | 'latin-1';

export function decode(octets: Buffer, coding: number, alphabet: DefaultAlphabet): string {
  if (coding === 8) return Buffer.from(octets).swap16().toString('utf16le');
  if (alphabet === 'latin-1') return octets.toString('latin1');
  let text = '';
  for (let index = 0; index < octets.length; index++) {
    const octet = octets[index] as number;
    if (octet === 0x1b) {
      const next = octets[++index];
      text += Object.keys(EXTRA).find((char) => EXTRA[char] === next) ?? ' ';
    } else text += BASE[octet] ?? '?';
  }
  return text;
}

/** Octets and data_coding of a text a handset typed; UCS-2 where the default alphabet lacks a character. */
export function encode(text: string, alphabet: DefaultAlphabet): { octets: Buffer; coding: number } {
  const octets: number[] = [];
  for (const char of text) {
    const code = alphabet === 'latin-1' ? (char.codePointAt(0) ?? 0) : BASE.indexOf(char);
    if (alphabet === 'latin-1' ? code <= 0xff : code >= 0 && char !== '\u001b') octets.push(code);
    else if (alphabet === 'gsm-7' && EXTRA[char] !== undefined) octets.push(0x1b, EXTRA[char]);
    else return { octets: Buffer.from(text, 'utf16le').swap16(), coding: 8 };
  }
  return { octets: Buffer.from(octets), coding: 0 };
}
