'use client';

import { useState } from 'react';
import type { OfficeHours, Opening } from '../../../../core/routing/hours';
import { minutesOf } from '../../../../core/routing/hours';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { newPartId } from '../../../../ui/primitives/ids';
import { Panel } from '../../../../ui/primitives/layout';
import { INPUT, Small, TextFor, Word } from './fields';
import { holidaysAction } from './holidays';

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

/** Office hours routes ask about: a week, dates that are otherwise, and public holidays by country. */
export function HoursFields({
  hours,
  countries,
  zone,
  admin,
  onChange,
}: {
  hours: readonly OfficeHours[];
  countries: [string, string][];
  /** Of the organisation. */
  zone: string | undefined;
  admin: boolean;
  onChange: (hours: OfficeHours[]) => void;
}) {
  const replace = (index: number, each: OfficeHours) =>
    onChange(hours.map((other, place) => (place === index ? each : other)));
  return (
    <fieldset disabled={!admin} className="grid justify-items-start gap-3">
      {hours.map((each, index) => (
        <Panel key={each.id} className="grid w-full justify-items-start gap-2 p-3 text-[13px]">
          <div className="flex w-full flex-wrap items-center gap-2">
            <Word label="name of the hours" value={each.name} onChange={(name) => replace(index, { ...each, name })} />
            in
            <TextFor
              label="time zone"
              size={20}
              value={each.zone}
              write={(zone) => zone}
              read={(zone) => (isZone(zone) ? zone : undefined)}
              onChange={(zone) => replace(index, { ...each, zone })}
            />
            <span className="ml-auto">
              <Small onClick={() => onChange(hours.filter((_, place) => place !== index))}>Remove the hours</Small>
            </span>
          </div>
          {each.week.map((opening, place) => (
            <OpeningFields
              // biome-ignore lint/suspicious/noArrayIndexKey: an opening is what stands at its place
              key={place}
              opening={opening}
              onChange={(changed) =>
                replace(index, { ...each, week: each.week.map((other, at) => (at === place ? changed : other)) })
              }
              onRemove={() => replace(index, { ...each, week: each.week.filter((_, at) => at !== place) })}
            />
          ))}
          <Small
            onClick={() =>
              replace(index, { ...each, week: [...each.week, { days: [1, 2, 3, 4, 5], from: '09:00', to: '17:00' }] })
            }
          >
            Add opening times
          </Small>
          <Exceptions hours={each} countries={countries} onChange={(changed) => replace(index, changed)} />
        </Panel>
      ))}
      <Small
        onClick={() =>
          onChange([
            ...hours,
            {
              id: newPartId('hrs'),
              name: 'Office',
              zone: zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
              week: [{ days: [1, 2, 3, 4, 5], from: '09:00', to: '17:00' }],
              exceptions: [],
            },
          ])
        }
      >
        Add office hours
      </Small>
    </fieldset>
  );
}

function OpeningFields({
  opening,
  onChange,
  onRemove,
}: {
  opening: Opening;
  onChange: (opening: Opening) => void;
  onRemove: () => void;
}) {
  const wrong = minutesOf(opening.from) === undefined || minutesOf(opening.to) === undefined;
  return (
    <div className="flex flex-wrap items-center gap-3">
      {DAYS.map((day, index) => (
        <label key={day} className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={opening.days.includes(index + 1)}
            onChange={(event) =>
              onChange({
                ...opening,
                days: event.target.checked
                  ? [...opening.days, index + 1].sort()
                  : opening.days.filter((each) => each !== index + 1),
              })
            }
          />
          {day}
        </label>
      ))}
      <Word label="from" size={5} value={opening.from} onChange={(from) => onChange({ ...opening, from })} />
      to
      <Word label="to" size={5} value={opening.to} onChange={(to) => onChange({ ...opening, to })} />
      {wrong && <span className="text-clay">■ Times are written 09:00.</span>}
      <Small onClick={onRemove}>Remove</Small>
    </div>
  );
}

function Exceptions({
  hours,
  countries,
  onChange,
}: {
  hours: OfficeHours;
  countries: [string, string][];
  onChange: (hours: OfficeHours) => void;
}) {
  const [date, setDate] = useState('');
  const [country, setCountry] = useState('');
  const add = (fresh: OfficeHours['exceptions']) => {
    const known = new Set(hours.exceptions.map((each) => each.date));
    const all = [...hours.exceptions, ...fresh.filter((each) => !known.has(each.date))];
    onChange({ ...hours, exceptions: all.sort((a, b) => a.date.localeCompare(b.date)) });
  };
  return (
    <details>
      <summary className="cursor-pointer text-soft">
        {hours.exceptions.length === 0 ? 'No date is otherwise' : `${hours.exceptions.length} dates are otherwise`}
      </summary>
      <ul className="mt-1 grid gap-1">
        {hours.exceptions.map((each) => (
          <li key={each.date} className="flex items-center gap-3">
            <span className="font-mono text-xs">{each.date}</span>
            <span>
              {each.openings.length === 0 ? 'closed' : each.openings.map(({ from, to }) => `${from}–${to}`).join(', ')}
              {each.name && <span className="text-soft">, {each.name}</span>}
            </span>
            <Small
              label={`Remove ${each.date}`}
              onClick={() =>
                onChange({ ...hours, exceptions: hours.exceptions.filter((other) => other.date !== each.date) })
              }
            >
              Remove
            </Small>
          </li>
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <input
          type="date"
          aria-label="Date that is otherwise"
          className={INPUT}
          value={date}
          onChange={(event) => setDate(event.target.value)}
        />
        <Small disabled={!date} onClick={() => add([{ date, openings: [] }])}>
          Closed that day
        </Small>
        <select
          aria-label="Public holidays of"
          className={INPUT}
          value={country}
          onChange={(event) => setCountry(event.target.value)}
        >
          <option value="">public holidays of …</option>
          {countries.map(([code, name]) => (
            <option key={code} value={code}>
              {name}
            </option>
          ))}
        </select>
        <Small disabled={!country} onClick={async () => add(await throughAsking(() => holidaysAction(country)))}>
          Add this year’s and next
        </Small>
      </div>
    </details>
  );
}

function isZone(zone: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: zone }) !== undefined;
  } catch {
    return false;
  }
}
