'use client';

import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { runningFrom, systemClock } from '../../clock/clock';
import { formatsOf } from './zone';

const UNITS: [Intl.RelativeTimeFormatUnit, number][] = [
  ['day', 86_400_000],
  ['hour', 3_600_000],
  ['minute', 60_000],
  ['second', 1000],
];
const relative = new Intl.RelativeTimeFormat('en', { numeric: 'auto', style: 'short' });

/** "3 min. ago" for an age in milliseconds; the sign says past or future. */
export function relativeAge(at: number, now: number): string {
  const difference = at - now;
  if (Math.abs(difference) < 1500) return 'just now';
  const [unit, size] = UNITS.find(([, length]) => Math.abs(difference) >= length) ?? ['second', 1000];
  return relative.format(Math.trunc(difference / size), unit as Intl.RelativeTimeFormatUnit);
}

interface Clock {
  now: number;
  /** IANA name of the viewer's zone; UTC until the browser has told. */
  zone: string;
}

const ViewerClock = createContext<Clock>({ now: 0, zone: 'UTC' });

/**
 * The viewer's clock for all times on a page. What the server drew is what the browser
 * draws first; then the server's time goes on in the browser, whose own may be wrong, and its
 * zone takes over, kept in a cookie so that the next page is drawn in it at once.
 */
export function ViewerClockProvider({ zone, now, children }: Clock & { children: ReactNode }) {
  const [clock, setClock] = useState<Clock>({ zone, now });
  useEffect(() => {
    const mine = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const time = runningFrom(now);
    const tick = () => setClock({ now: time(), zone: mine });
    // biome-ignore lint/suspicious/noDocumentCookie: the Cookie Store API is not in every browser we serve
    if (mine !== zone) document.cookie = `zone=${mine}; path=/; max-age=31536000; samesite=lax`;
    tick();
    const timer = systemClock.every(10_000, tick);
    return timer.cancel;
  }, [zone, now]);
  return <ViewerClock.Provider value={clock}>{children}</ViewerClock.Provider>;
}

/** The server's time when the page was drawn, going on in steps. */
export function useNow(): number {
  return useContext(ViewerClock).now;
}

/** IANA name of the viewer's zone. */
export function useZone(): string {
  return useContext(ViewerClock).zone;
}

/** The age, kept current. What is `past` is never shown as coming, though the clock ticks every ten seconds only. */
export function Age({ at, past = false }: { at: number; past?: boolean }) {
  const { now, zone } = useContext(ViewerClock);
  return (
    <time dateTime={new Date(at).toISOString()} title={wholeTime(at, zone)}>
      {relativeAge(past ? Math.min(at, now) : at, now)}
    </time>
  );
}

/** Clock time (with the day when it is not today), zone on hover. */
export function ClockTime({ at, millis = false }: { at: number; millis?: boolean }) {
  const { now, zone } = useContext(ViewerClock);
  return (
    <time dateTime={new Date(at).toISOString()} title={wholeTime(at, zone)} className="tabular-nums">
      {clockTime(at, now, zone)}
      {millis ? `.${String(at % 1000).padStart(3, '0')}` : ''}
    </time>
  );
}

/** "14:02:11", or with the day before it when that is not the day of `now` in that zone. */
export function clockTime(at: number, now: number, zone: string): string {
  const { time, day } = formatsOf(zone);
  return day.format(at) === day.format(now) ? time.format(at) : `${day.format(at)} ${time.format(at)}`;
}

function wholeTime(at: number, zone: string): string {
  const { time, dayAndYear } = formatsOf(zone);
  return `${dayAndYear.format(at)}, ${time.format(at)} ${zone}`;
}
