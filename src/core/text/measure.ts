/**
 * How a text travels as SMS: which encoding, how many units, where the parts break,
 * and which characters force the costlier encoding.
 * Sources: 3GPP TS 23.038 §6.2 (alphabets), TS 23.040 §9.2.3.24.1 (concatenation).
 */
import { gsm7Septets } from './gsm7';
import { safeSubstitute } from './substitutes';

export type Encoding = 'GSM-7' | 'UCS-2';

export interface TextPart {
  /** Half-open range of UTF-16 offsets in the text. */
  from: number;
  to: number;
  /** Septets (GSM-7) or 16-bit code units (UCS-2). */
  units: number;
}

export interface ForcingCharacter {
  char: string;
  /** UTF-16 offset. */
  at: number;
  /** What could stand in for it in GSM-7; undefined when nothing safely can. */
  substitute?: string;
}

export interface TextMeasure {
  encoding: Encoding;
  /** Billing units over all parts, headers not counted. */
  units: number;
  /** At least one part, also for an empty text. */
  parts: TextPart[];
  /** Units one part can hold at this length: 160/153/152 or 70/67/66. */
  unitsPerPart: number;
  /** Units that still fit into the last part. */
  remaining: number;
  /** What a person would count (grapheme clusters). */
  characters: number;
  /** Characters outside GSM-7, in order; empty for GSM-7 texts. */
  forcing: ForcingCharacter[];
}

export interface MeasureOptions {
  /** Width of the concatenation reference; 16 leaves one unit less in each part. */
  referenceBits?: 8 | 16;
}

const LIMITS = {
  'GSM-7': { single: 160, concatenated: { 8: 153, 16: 152 } },
  'UCS-2': { single: 70, concatenated: { 8: 67, 16: 66 } },
} as const;

const graphemes = new Intl.Segmenter('und', { granularity: 'grapheme' });

/** A stretch of text that is kept together where that is possible. */
interface Piece {
  text: string;
  units: number;
}

export function measureText(text: string, options: MeasureOptions = {}): TextMeasure {
  const forcing = forcingCharacters(text);
  const encoding: Encoding = forcing.length === 0 ? 'GSM-7' : 'UCS-2';
  const pieces = encoding === 'GSM-7' ? septetPieces(text) : graphemePieces(text);
  const units = pieces.reduce((sum, piece) => sum + piece.units, 0);
  const limits = LIMITS[encoding];
  const fitsOne = units <= limits.single;
  const unitsPerPart = fitsOne ? limits.single : limits.concatenated[options.referenceBits ?? 8];
  const parts = fitsOne ? [{ from: 0, to: text.length, units }] : breakIntoParts(pieces, unitsPerPart);
  return {
    encoding,
    units,
    parts,
    unitsPerPart,
    remaining: unitsPerPart - (parts.at(-1)?.units ?? 0),
    characters: [...graphemes.segment(text)].length,
    forcing,
  };
}

function forcingCharacters(text: string): ForcingCharacter[] {
  const found: ForcingCharacter[] = [];
  let at = 0;
  for (const char of text) {
    if (!gsm7Septets(char)) found.push({ char, at, substitute: safeSubstitute(char) });
    at += char.length;
  }
  return found;
}

/** An escape and the septet after it are one piece, so they never part. */
function septetPieces(text: string): Piece[] {
  return Array.from(text, (char) => ({ text: char, units: gsm7Septets(char)?.length ?? 1 }));
}

function graphemePieces(text: string): Piece[] {
  return Array.from(graphemes.segment(text), ({ segment }) => ({ text: segment, units: segment.length }));
}

function breakIntoParts(pieces: Piece[], limit: number): TextPart[] {
  const parts: TextPart[] = [];
  let part: TextPart = { from: 0, to: 0, units: 0 };
  const add = (piece: Piece) => {
    if (part.units + piece.units > limit && part.units > 0) {
      parts.push(part);
      part = { from: part.to, to: part.to, units: 0 };
    }
    part.to += piece.text.length;
    part.units += piece.units;
  };
  for (const piece of pieces) {
    // A grapheme longer than a whole part can only be broken between its code points.
    if (piece.units > limit) for (const char of piece.text) add({ text: char, units: char.length });
    else add(piece);
  }
  parts.push(part);
  return parts;
}
