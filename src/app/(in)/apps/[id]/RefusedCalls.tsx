import type { RefusedCallView } from '../../../../operations/apps';
import { Section } from '../../../../ui/primitives/layout';
import { ClockTime } from '../../../../ui/primitives/Time';

/** Calls of the app that Windgap refused, each with what was answered and what it had sent. */
export function RefusedCalls({ calls }: { calls: readonly RefusedCallView[] }) {
  if (calls.length === 0) return null;
  return (
    <Section
      title="Refused calls"
      id="refused-calls"
      aside="The latest twenty; those alike within a minute are one line."
    >
      <table className="w-full text-[13px]">
        <thead className="text-left text-soft">
          <tr>
            <th className="w-40 py-1 pr-3 font-normal">Time</th>
            <th className="w-64 py-1 pr-3 font-normal">Call</th>
            <th className="w-16 py-1 pr-3 font-normal">Answer</th>
            <th className="py-1 pr-3 font-normal">Why</th>
            <th className="w-14 py-1 text-right font-normal">Times</th>
          </tr>
        </thead>
        <tbody>
          {calls.map(({ id, lastAt, method, path, status, said, times, body, keyHint }) => (
            <tr key={id} className="border-t border-line align-top">
              <td className="py-1.5 pr-3">
                <ClockTime at={lastAt} />
              </td>
              <td className="py-1.5 pr-3 font-mono break-all">
                {method} {path}
                {keyHint && <span className="block text-xs text-soft">key {keyHint}</span>}
              </td>
              <td className="py-1.5 pr-3 font-mono tabular-nums">{status}</td>
              <td className="py-1.5 pr-3">
                {said}
                {body && (
                  <details className="mt-0.5">
                    <summary className="cursor-pointer text-soft">What was sent</summary>
                    <pre className="mt-1 overflow-x-auto font-mono text-xs whitespace-pre-wrap break-all">{body}</pre>
                  </details>
                )}
              </td>
              <td className="py-1.5 text-right tabular-nums">{times}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
