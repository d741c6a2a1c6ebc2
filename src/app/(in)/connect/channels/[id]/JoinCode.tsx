import { CopyButton } from '../../../../../ui/primitives/CopyButton';
import { SquareCode } from '../../../../../ui/primitives/SquareCode';
import { squareCode } from '../../../../_server/squareCode';

/** What a tester sends to be let in while test mode is on: to read, to copy, and to take with a phone's camera. */
export function JoinCode({ code, number }: { code: string; number: string }) {
  return (
    <div className="flex items-start gap-4">
      <SquareCode
        code={squareCode(code)}
        label={`The join code ${code} as a square code`}
        className="size-32 shrink-0 rounded-sm border border-line"
      />
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
