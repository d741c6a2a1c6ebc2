import type { ToldView } from '../../../../operations/alerts';
import { ClockTime } from '../../../../ui/primitives/Time';

const WHAT: Readonly<Record<ToldView['what'], string>> = {
  began: 'told',
  escalated: 'told, as nobody had taken it,',
  ended: 'told of its end',
};

const STATES: Readonly<Record<string, string>> = { done: 'it left', failed: 'it could not leave' };

/** Who was told of an alert, by which rule, and what became of that. */
export function ToldLines({ told }: { told: readonly ToldView[] }) {
  if (told.length === 0) return null;
  return (
    <ul className="mt-1 text-[13px] text-soft">
      {told.map(({ what, way, rule, at, state }) => (
        <li key={`${what} ${way}`} data-told={what}>
          <ClockTime at={at} /> {WHAT[what]} by {way.replace(/^mail team /, 'mail to ')} (rule “{rule}”)
          {state && STATES[state] ? `; ${STATES[state]}` : ''}
        </li>
      ))}
    </ul>
  );
}
