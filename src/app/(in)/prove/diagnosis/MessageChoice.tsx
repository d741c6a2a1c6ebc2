'use client';

import { useRouter } from 'next/navigation';
import type { DiagnosisView } from '../../../../operations/diagnosis';
import { Button } from '../../../../ui/primitives/Button';
import { Panel } from '../../../../ui/primitives/layout';
import { clockTime, useNow, useZone } from '../../../../ui/primitives/Time';

interface Props {
  /** The address of this page. */
  here: string;
  where: Pick<DiagnosisView['where'], 'candidates' | 'message'>;
  /** What was chosen. */
  message?: string;
  /** Whether it has to be said before anything else can be. */
  asked?: boolean;
}

const SHOWN_TEXT = 32;

/** Which message is meant; that none of those here is, is evidence itself. */
export function MessageChoice({ here, where: { candidates, message: taken }, message = '', asked = false }: Props) {
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
  function lineOf({ direction, person, text, state, at }: Props['where']['candidates'][number]): string {
    const cut = text.length > SHOWN_TEXT ? `${text.slice(0, SHOWN_TEXT)}…` : text;
    return `${clockTime(at, now, zone)} ${direction === 'out' ? 'to' : 'from'} ${person}: ${cut} (${state})`;
  }
  if (asked)
    return (
      <Panel className="mb-6 border-l-4 border-l-heather px-4 py-3">
        <p className="font-semibold">Which message is it about?</p>
        <p className="mt-0.5 text-[13px] text-soft">
          What is known of the latest says nothing of another one; that it is none of these is evidence, too.
        </p>
        <ul className="mt-2 grid gap-1">
          {candidates.map((each) => (
            <li key={each.id}>
              <Button tone="quiet" onClick={() => choose(each.id)}>
                {lineOf(each)}
              </Button>
            </li>
          ))}
          <li>
            <Button onClick={() => choose('none')}>None of these: it is not here</Button>
          </li>
        </ul>
      </Panel>
    );
  return (
    <label className="mb-5 block text-[13px]">
      <span className="mb-1 block text-soft">Which message is it about?</span>
      <select
        className="max-w-full rounded border border-line-strong bg-panel px-2 py-1"
        value={message}
        onChange={(event) => choose(event.target.value)}
      >
        <option value="">The latest{taken ? ` (${clockTime(taken.at, now, zone)})` : ''}</option>
        {candidates.map((each) => (
          <option key={each.id} value={each.id}>
            {lineOf(each)}
          </option>
        ))}
        <option value="none">None of these: it is not here</option>
      </select>
    </label>
  );
}
