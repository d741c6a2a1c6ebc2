'use server';

import { publicHolidays } from '../../../../operations/holidays';
import { signedIn } from '../../../_server/session';

/** Public holidays of a country, this year and next, each a date that is closed. */
export async function holidaysAction(country: string): Promise<{ date: string; name: string; openings: [] }[]> {
  const { w, actor } = await signedIn();
  return publicHolidays(w, actor, country).map((holiday) => ({ ...holiday, openings: [] }));
}
