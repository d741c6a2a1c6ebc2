'use client';

import { useCallback, useEffect, useState } from 'react';
import { systemClock } from '../../../../clock/clock';
import type { BenchState } from '../../../../operations/bench';
import { Link } from '../../../../ui/primitives/Link';
import { Section } from '../../../../ui/primitives/layout';
import { ClockDesk } from './ClockDesk';
import { FaultSwitches } from './FaultSwitches';
import { HandsetPanel } from './HandsetPanel';
import { ReviewerDesk } from './ReviewerDesk';
import { Scenarios } from './Scenarios';

const LOOK_EVERY = 700;

interface Props {
  initial: BenchState;
  mayBreak: boolean;
  /** While a drill runs, what is broken is not to be seen here. */
  drill: boolean;
  scenarios: { id: string; name: string; what: string }[];
}

export function BenchView({ initial, mayBreak, drill, scenarios }: Props) {
  const [bench, setBench] = useState(initial);
  const look = useCallback(async () => {
    const answer = await fetch('/prove/bench/state', { cache: 'no-store' }).catch(() => undefined);
    if (answer?.ok) setBench((await answer.json()) as BenchState);
  }, []);
  useEffect(() => {
    const timer = systemClock.every(LOOK_EVERY, look);
    return timer.cancel;
  }, [look]);

  return (
    <div className="grid gap-6 xl:grid-cols-[minmax(0,1fr)_290px]">
      <Section title="Handsets" id="handsets">
        <div className="grid gap-4 md:grid-cols-2 xl:grid-cols-3">
          {bench.handsets.map((handset) => (
            <HandsetPanel key={handset.number} handset={handset} numbers={bench.numbers} changed={look} />
          ))}
        </div>
      </Section>
      <div>
        <Section title="Outside consoles" id="consoles">
          <ul className="grid gap-1">
            {bench.consoles.map((entry) => (
              <li key={entry.url}>
                <a href={entry.url} target="_blank" rel="noreferrer">
                  {entry.name}
                </a>{' '}
                <span className="text-soft">{entry.what}</span>
              </li>
            ))}
          </ul>
        </Section>
        {mayBreak && !drill && <ClockDesk clock={bench.clock} changed={look} />}
        {mayBreak && <ReviewerDesk reviewer={bench.reviewer} changed={look} />}
        {mayBreak && !drill && <Scenarios scenarios={scenarios} />}
        {mayBreak && !drill && <FaultSwitches faults={bench.faults} changed={look} />}
        {drill && (
          <p className="text-[13px] text-soft">
            The fault switches are out of sight: <Link href="/prove/drills">a drill is running</Link>.
          </p>
        )}
      </div>
    </div>
  );
}
