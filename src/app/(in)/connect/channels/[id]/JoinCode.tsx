import QRCode from 'qrcode';
import { CopyButton } from '../../../../../ui/primitives/CopyButton';

/** What a tester sends to be let in while test mode is on: to read, to copy, and to take with a phone's camera. */
export function JoinCode({ code, number }: { code: string; number: string }) {
  const { modules } = QRCode.create(code, { errorCorrectionLevel: 'M' });
  const side = modules.size + QUIET * 2;
  return (
    <div className="flex items-start gap-4">
      <svg
        viewBox={`0 0 ${side} ${side}`}
        className="size-32 shrink-0 rounded-sm border border-line"
        role="img"
        aria-label={`The join code ${code} as a square code`}
        shapeRendering="crispEdges"
      >
        <rect width={side} height={side} fill="#ffffff" />
        <path d={squares(modules)} fill="#000000" />
      </svg>
      <div className="grid gap-2">
        <p>
          From a phone that is to take part, send{' '}
          <span className="whitespace-nowrap">
            <code className="font-mono">{code}</code> <CopyButton value={code} what="the join code" />
          </span>{' '}
          to <span className="whitespace-nowrap font-mono">{number}</span>.
        </p>
        <p className="text-soft">
          Whoever has not sent it is not heard, customers included. Switch test mode off after the test.
        </p>
      </div>
    </div>
  );
}

/** Modules of empty margin (ISO/IEC 18004 §6.3.8). */
const QUIET = 4;

function squares({ size, data }: { size: number; data: Uint8Array }): string {
  return Array.from(data.keys())
    .filter((index) => data[index])
    .map((index) => `M${(index % size) + QUIET} ${Math.floor(index / size) + QUIET}h1v1h-1z`)
    .join('');
}
