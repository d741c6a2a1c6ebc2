/** A text as a square code, for the camera of a telephone: drawn by `SquareCode`. */
import 'server-only';
import QRCode from 'qrcode';
import type { Squares } from '../../ui/primitives/SquareCode';

/** Modules of empty margin (ISO/IEC 18004 §6.3.8). */
const QUIET = 4;

export function squareCode(text: string): Squares {
  const { size, data } = QRCode.create(text, { errorCorrectionLevel: 'M' }).modules;
  const path = Array.from(data.keys())
    .filter((index) => data[index])
    .map((index) => `M${(index % size) + QUIET} ${Math.floor(index / size) + QUIET}h1v1h-1z`)
    .join('');
  return { side: size + QUIET * 2, path };
}
