import { type ConsentWay, WAY_WORDS } from '../../core/consent/ways';

/** What a person agreed to and declined, in words; nothing where nothing is known. */
export function ConsentMarks({ consents }: { consents: readonly { way: ConsentWay; state: 'given' | 'withdrawn' }[] }) {
  if (consents.length === 0) return <span className="text-soft">no consent recorded</span>;
  return (
    <span className="flex flex-col">
      {consents.map(({ way, state }) => (
        <span key={way} className={state === 'given' ? 'text-moss' : 'text-clay'} data-consent={`${way} ${state}`}>
          {state === 'given' ? '◆ opted in to' : '■ opted out of'} {WAY_WORDS[way]}
        </span>
      ))}
    </span>
  );
}
