import { describe, expect, it } from 'vitest';
import type { Actor } from '../context/actor';
import type { AppContext } from '../context/appContext';
import { publicHolidays } from './holidays';

const ctx = { now: () => Date.UTC(2026, 10, 26) } as AppContext;
const actor = (role: 'administrator' | 'agent'): Actor => ({ kind: 'user', id: 'usr_1', name: 'Maren', role });

describe('public holidays', () => {
  it('are those of this year and the next, each date once, in order of a country’s calendar', () => {
    const dates = publicHolidays(ctx, actor('administrator'), 'SE').map(({ date }) => date);
    // Sweden's Midsummer Day is the Saturday between 20 and 26 June; Good Friday follows Easter.
    expect(dates).toEqual(
      expect.arrayContaining(['2026-06-20', '2027-06-26', '2026-04-03', '2027-03-26', '2026-12-25']),
    );
    expect(new Set(dates).size).toBe(dates.length);
    expect(dates.every((date) => /^202[67]-\d\d-\d\d$/.test(date))).toBe(true);
  });

  it('of a country nobody knows are none; and they are for administrators', () => {
    expect(publicHolidays(ctx, actor('administrator'), 'ZZ')).toEqual([]);
    expect(() => publicHolidays(ctx, actor('agent'), 'SE')).toThrow(/administrator/);
  });
});
