'use client';

import { systemClock } from '../../../../../clock/clock';
import { PASSED, type When } from '../../../../../core/broadcast/timetable';
import { INPUT, Labelled } from './fields';

const PASSED_WORDS: Record<(typeof PASSED)[number], string> = {
  'next-day': 'they get it the day after',
  'at-once': 'they get it at once',
  'leave-out': 'they do not get it',
};

/** At once, at one moment, or at a time of day where each of them is. */
export function WhenFields({ when, onWhen }: { when: When; onWhen: (when: When) => void }) {
  const [tomorrow] = new Date(systemClock.now() + 86_400_000).toISOString().split('T');
  return (
    <>
      <Labelled label="Send time">
        <select
          className={INPUT}
          value={when.at}
          onChange={(event) => {
            if (event.target.value === 'local')
              onWhen({ at: 'local', day: tomorrow ?? '', time: '09:00', passed: 'next-day' });
            else if (event.target.value === 'instant')
              onWhen({ at: 'instant', instant: Math.ceil(systemClock.now() / 3_600_000 + 1) * 3_600_000 });
            else onWhen({ at: 'once' });
          }}
        >
          <option value="once">at once</option>
          <option value="local">at a time of day where each of them is</option>
          <option value="instant">at one moment for all</option>
        </select>
      </Labelled>
      {when.at === 'instant' && (
        <Labelled label="Moment, by your clock">
          <input
            type="datetime-local"
            className={INPUT}
            value={localInput(when.instant)}
            onChange={(event) => {
              const instant = new Date(event.target.value).getTime();
              if (!Number.isNaN(instant)) onWhen({ at: 'instant', instant });
            }}
          />
        </Labelled>
      )}
      {when.at === 'local' && (
        <div className="grid gap-3 sm:grid-cols-3">
          <Labelled label="Day">
            <input
              type="date"
              className={INPUT}
              value={when.day}
              onChange={(event) => event.target.value && onWhen({ ...when, day: event.target.value })}
            />
          </Labelled>
          <Labelled label="Time there">
            <input
              type="time"
              className={INPUT}
              value={when.time}
              onChange={(event) => event.target.value && onWhen({ ...when, time: event.target.value.slice(0, 5) })}
            />
          </Labelled>
          <Labelled label="Where it is past that time">
            <select
              className={INPUT}
              value={when.passed}
              onChange={(event) => onWhen({ ...when, passed: event.target.value as 'next-day' })}
            >
              {PASSED.map((passed) => (
                <option key={passed} value={passed}>
                  {PASSED_WORDS[passed]}
                </option>
              ))}
            </select>
          </Labelled>
        </div>
      )}
    </>
  );
}

/** As the browser’s field for a moment wants it: by the clock of whoever looks. */
function localInput(instant: number): string {
  const at = new Date(instant);
  const two = (value: number) => String(value).padStart(2, '0');
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`;
}
