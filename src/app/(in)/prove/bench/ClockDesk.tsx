'use client';

import { useRouter } from 'next/navigation';
import { useTransition } from 'react';
import { toast } from 'sonner';
import { wordsOfLength } from '../../../../core/text/length';
import type { BenchState } from '../../../../operations/bench';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { Panel, Section } from '../../../../ui/primitives/layout';
import { ClockTime } from '../../../../ui/primitives/Time';
import { clockAction } from './actions';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
const STEPS: [words: string, ms: number][] = [
  ['10 minutes', 10 * MINUTE],
  ['1 hour', HOUR],
  ['1 day', DAY],
  ['1 week', 7 * DAY],
];

/** What time it is for Windgap and its simulated outside, and buttons that move it on. */
export function ClockDesk({ clock, changed }: { clock: BenchState['clock']; changed: () => void }) {
  const router = useRouter();
  const [moving, move] = useTransition();
  const moveOn = (ms: number) =>
    move(async () => {
      const answer = await throughAsking(() => clockAction(ms));
      if (answer.status === 'refused') toast.error(answer.message);
      changed();
      router.refresh();
    });
  return (
    <Section title="Clock" id="clock">
      <Panel className="p-3">
        <p>
          <ClockTime at={clock.now} />
          <span className="text-soft">
            {clock.movedBy > 0 ? `, ${wordsOfLength(clock.movedBy)} ahead of the machine` : ', as on the machine'}
          </span>
        </p>
        <div className="mt-2 grid grid-cols-2 gap-2">
          {STEPS.map(([words, ms]) => (
            <Button
              key={words}
              disabled={moving}
              onClick={() => moveOn(ms)}
              aria-label={`Move the clock on by ${words}`}
            >
              + {words}
            </Button>
          ))}
        </div>
        <p className="mt-2 text-[13px] text-soft">
          Forward only, for Windgap and everything outside at once. What falls due in between happens now: retries,
          reminders, reviews, windows that close.
        </p>
      </Panel>
    </Section>
  );
}
