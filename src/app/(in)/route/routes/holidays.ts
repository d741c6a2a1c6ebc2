'use server';

import { publicHolidays } from '../../../../operations/routes';
import { signedIn } from '../../../_server/session';

/** Public holidays of a country, this year and next, each a date that is closed. */
export async function holidaysAction(country: string): Promise<{ date: string; name: string; openings: [] }[]> {
  const { ctx, actor } = await signedIn();
  return publicHolidays(ctx, actor, country).map((holiday) => ({ ...holiday, openings: [] }));
}
