'use client';

import { useRouter } from 'next/navigation';
import type { DiagnosisView } from '../../../../operations/diagnosis';
import { clockTime, useNow, useZone } from '../../../../ui/primitives/Time';

interface Props {
  /** The address of this page. */
  here: string;
  where: Pick<DiagnosisView['where'], 'candidates' | 'message'>;
  /** What was chosen. */
  message?: string;
}

const SHOWN_TEXT = 32;

/** Which message is meant; that none of those here is, is evidence itself. */
export function MessageChoice({ here, where: { candidates, message: taken }, message = '' }: Props) {
  const router = useRouter();
  const now = useNow();
  const zone = useZone();
  if (candidates.length === 0) return null;
  function choose(value: string) {
    const search = new URLSearchParams(here.split('?')[1]);
    search.delete('message');
    // What was answered and tested was about another message.
    search.delete('a');
    if (value) search.set('message', value);
    router.push(`/prove/diagnosis?${search}`);
  }
  return (
    <label className="mb-5 block text-[13px]">
      <span className="mb-1 block text-soft">Which message is it about?</span>
      <select
        className="max-w-full rounded border border-line-strong bg-panel px-2 py-1"
        value={message}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">The latest{taken ? ` (${clockTime(taken.at, now, zone)})` : ''}</option>
        {candidates.map(({ id, direction, person, text, state, at }) => (
          <option key={id} value={id}>
            {clockTime(at, now, zone)} {direction === 'out' ? 'to' : 'from'} {person}: {text.slice(0, SHOWN_TEXT)}
            {text.length > SHOWN_TEXT ? '…' : ''} ({state})
          </option>
        ))}
        <option value="none">None of these: it is not here</option>
      </select>
    </label>
  );
}
