/**
 * How one text becomes the submits of a trunk: in which alphabet, in how many parts, and
 * with what around each part. Sources: SMPP 3.4 §4.4.1, §5.2.12, §5.3.2.22-25 (sar_*),
 * §5.3.2.32 (message_payload); 3GPP TS 23.040 §9.2.3.24.1 (concatenation header).
 */
import { type Alphabet, encodeText } from '../text/alphabets';
import { measureText } from '../text/measure';

export const LONG_TEXT_WAYS = ['header', 'sar', 'payload'] as const;
export type LongTextWay = (typeof LONG_TEXT_WAYS)[number];

export interface TrunkText {
  /** What data_coding 0x00 means on this link: the carrier's default alphabet. */
  defaultAlphabet: Exclude<Alphabet, 'ucs-2'>;
  longText: LongTextWay;
}

export interface SubmitPart {
  dataCoding: number;
  esmClass: number;
  /** What goes into short_message, a concatenation header included. Empty when `payload` carries the text. */
  shortMessage: Uint8Array;
  payload?: Uint8Array;
  sar?: { reference: number; total: number; sequence: number };
}

/** esm_class bit 6: the message begins with a header. */
const HEADER_PRESENT = 0x40;
const DATA_CODING = { default: 0x00, ucs2: 0x08 } as const;
/** short_message holds at most 254 octets; a carrier's single text is far below. */
const GSM7_SINGLE = 160;
const LATIN1_SINGLE = 140;
const LATIN1_PART = 134;

/** `reference` is any number; its lowest 8 (header) or 16 bits (sar) mark parts that belong together. */
export function planSubmits(text: string, link: TrunkText, reference: number): SubmitPart[] {
  const asDefault = encodeText(text, link.defaultAlphabet);
  const alphabet: Alphabet = asDefault ? link.defaultAlphabet : 'ucs-2';
  const dataCoding = asDefault ? DATA_CODING.default : DATA_CODING.ucs2;
  const pieces = splitForAlphabet(text, alphabet).map((piece) => encodeText(piece, alphabet) as Uint8Array);
  const only = pieces[0];
  if (pieces.length === 1 && only) return [{ dataCoding, esmClass: 0, shortMessage: only }];
  if (link.longText === 'payload') {
    const payload = encodeText(text, alphabet) as Uint8Array;
    return [{ dataCoding, esmClass: 0, shortMessage: new Uint8Array(), payload }];
  }
  return pieces.map((octets, index) => {
    const sequence = index + 1;
    if (link.longText === 'sar') {
      const sar = { reference: reference & 0xffff, total: pieces.length, sequence };
      return { dataCoding, esmClass: 0, shortMessage: octets, sar };
    }
    const header = [0x05, 0x00, 0x03, reference & 0xff, pieces.length, sequence];
    return { dataCoding, esmClass: HEADER_PRESENT, shortMessage: Uint8Array.from([...header, ...octets]) };
  });
}

function splitForAlphabet(text: string, alphabet: Alphabet): string[] {
  // Even if every character needed two septets this is one part; most texts are, and need no measuring.
  if (alphabet === 'gsm-7' && text.length <= GSM7_SINGLE / 2) return [text];
  if (alphabet !== 'latin-1') return measureText(text).parts.map(({ from, to }) => text.slice(from, to));
  if (text.length <= LATIN1_SINGLE) return [text];
  return Array.from({ length: Math.ceil(text.length / LATIN1_PART) }, (_, index) =>
    text.slice(index * LATIN1_PART, (index + 1) * LATIN1_PART),
  );
}

/** A part of a longer text as it was received, with its concatenation read off. */
export interface ReceivedPart {
  reference: number;
  total: number;
  sequence: number;
}

/**
 * Reads the concatenation header in front of a received short_message (8- and 16-bit
 * references). Answers where the text begins; throws when the header cannot be right.
 */
export function readHeader(octets: Uint8Array): { textFrom: number; part?: ReceivedPart } {
  const length = octets[0] ?? 0;
  if (length + 1 > octets.length) throw new Error('the user data header is longer than the message');
  let part: ReceivedPart | undefined;
  let at = 1;
  while (at < length + 1) {
    const element = octets[at] ?? 0;
    const size = octets[at + 1] ?? 0;
    const value = octets.subarray(at + 2, at + 2 + size);
    if (element === 0x00 && size === 3)
      part = { reference: value[0] ?? 0, total: value[1] ?? 0, sequence: value[2] ?? 0 };
    if (element === 0x08 && size === 4) {
      part = { reference: ((value[0] ?? 0) << 8) | (value[1] ?? 0), total: value[2] ?? 0, sequence: value[3] ?? 0 };
    }
    at += 2 + size;
  }
  return { textFrom: length + 1, part: part && isSound(part) ? part : undefined };
}

/** TS 23.040 §9.2.3.24.1: a part with an impossible place is read as if it had no header. */
export function isSound(part: ReceivedPart): boolean {
  return part.total > 1 && part.sequence >= 1 && part.sequence <= part.total;
}

/**
 * A 16-bit mark for the submits of one text (user_message_reference, SMPP 3.4 §5.3.2.17),
 * computed from our id of it so that it needs no keeping. FNV-1a, folded.
 */
export function markOf(messageId: string): number {
  let hash = 0x811c9dc5;
  for (let index = 0; index < messageId.length; index++) {
    hash ^= messageId.charCodeAt(index);
    hash = Math.imul(hash, 0x01000193) >>> 0;
  }
  return (hash ^ (hash >>> 16)) & 0xffff;
}
