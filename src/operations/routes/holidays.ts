/** Public holidays by country, as data of a well-kept package: they are entered once and can be changed. */
import Holidays from 'date-holidays';
import { type Actor, type AppContext, requireRole } from '../context';

/** This year's and next year's, by date. `country`: ISO 3166-1 alpha-2. */
export function publicHolidays(ctx: AppContext, actor: Actor, country: string): { date: string; name: string }[] {
  requireRole(actor, 'administrator');
  const calendar = new Holidays(country);
  const year = new Date(ctx.now()).getUTCFullYear();
  const found = [year, year + 1].flatMap((each) => calendar.getHolidays(each, 'en') || []);
  const byDate = new Map<string, string>();
  for (const { date, name, type } of found)
    if (type === 'public') byDate.set(date.slice(0, 10), byDate.get(date.slice(0, 10)) ?? name);
  return [...byDate].map(([date, name]) => ({ date, name }));
}
