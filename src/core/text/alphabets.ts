/**
 * Texts as octets and back, in the alphabets a trunk may speak. GSM-7 on a trunk is one
 * septet in each octet, unpacked (SMPP 3.4 §5.2.19, data_coding 0x00).
 */
import { ESCAPE, gsm7Character, gsm7Septets } from './gsm7';

export const ALPHABETS = ['gsm-7', 'latin-1', 'ucs-2'] as const;
export type Alphabet = (typeof ALPHABETS)[number];

export const ALPHABET_NAMES: Record<Alphabet, string> = { 'gsm-7': 'GSM-7', 'latin-1': 'Latin-1', 'ucs-2': 'UCS-2' };

/** The octets of a text; undefined when the alphabet lacks one of its characters. */
export function encodeText(text: string, alphabet: Alphabet): Uint8Array | undefined {
  if (alphabet === 'ucs-2') return encodeUcs2(text);
  const octets: number[] = [];
  for (const char of text) {
    const values = alphabet === 'gsm-7' ? gsm7Septets(char) : latin1Octets(char);
    if (!values) return undefined;
    octets.push(...values);
  }
  return Uint8Array.from(octets);
}

/** Reads octets. What the alphabet does not define becomes U+FFFD, so that a wrong alphabet shows. */
export function decodeText(octets: Uint8Array, alphabet: Alphabet): string {
  if (alphabet === 'ucs-2') return new TextDecoder('utf-16be').decode(octets);
  if (alphabet === 'latin-1') return Array.from(octets, (octet) => String.fromCharCode(octet)).join('');
  let text = '';
  for (let index = 0; index < octets.length; index++) {
    const octet = octets[index] as number;
    if (octet === ESCAPE && index + 1 < octets.length) {
      text += gsm7Character(octets[++index] as number, true) ?? '\ufffd';
    } else {
      text += gsm7Character(octet, false) ?? '\ufffd';
    }
  }
  return text;
}

/**
 * Whether a text that arrived is the one sent, read with another alphabet than it was
 * written in. Returns the pair, or undefined when that does not explain the difference.
 */
export function explainByAlphabet(sent: string, arrived: string): { written: Alphabet; read: Alphabet } | undefined {
  if (sent === arrived) return undefined;
  const octetAlphabets = ['gsm-7', 'latin-1'] as const;
  for (const written of octetAlphabets) {
    const octets = encodeText(sent, written);
    if (!octets) continue;
    for (const read of octetAlphabets) {
      if (read !== written && sameShape(decodeText(octets, read), arrived)) return { written, read };
    }
  }
  return undefined;
}

/** Characters outside an alphabet are replaced differently by every system; only their places are compared. */
function sameShape(expected: string, arrived: string): boolean {
  const wanted = [...expected];
  const found = [...arrived];
  return (
    wanted.length === found.length &&
    wanted.every((char, index) => char === found[index] || char === '\ufffd' || !isPrintable(char))
  );
}

function isPrintable(char: string): boolean {
  return !/\p{Cc}/u.test(char);
}

function encodeUcs2(text: string): Uint8Array {
  const octets = new Uint8Array(text.length * 2);
  for (let index = 0; index < text.length; index++) {
    const unit = text.charCodeAt(index);
    octets[index * 2] = unit >> 8;
    octets[index * 2 + 1] = unit & 0xff;
  }
  return octets;
}

function latin1Octets(char: string): readonly number[] | undefined {
  const code = char.codePointAt(0) as number;
  return code <= 0xff ? [code] : undefined;
}

/**
 * The alphabet that octets of the default coding were really written in, when they cannot
 * have been written in the one they are read in: GSM-7 has no octet above 0x7F, and no
 * text in Latin-1 holds control characters other than line breaks.
 */
export function writtenIn(octets: Uint8Array, read: Exclude<Alphabet, 'ucs-2'>): Alphabet | undefined {
  if (read === 'gsm-7') return octets.some((octet) => octet > 0x7f) ? 'latin-1' : undefined;
  const isControl = (octet: number) => octet < 0x20 && octet !== 0x0a && octet !== 0x0d;
  return octets.some(isControl) ? 'gsm-7' : undefined;
}
