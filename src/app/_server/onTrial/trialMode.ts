/** Whether somebody makes the changes of this browser on trial, and for how long; and one change made so. */
import 'server-only';
import { cookies } from 'next/headers';
import { LONGEST_TRIAL, onTrial, SHORTEST_TRIAL } from '../../../operations/changeTrials';
import { hasRole } from '../../../operations/context';
import { actorOf } from '../../../operations/people';
import { currentSession } from '../session';
import { windgap } from '../windgap';

const COOKIE = 'windgap-trial';
/** Somebody who forgot it is not surprised by it on another day. */
const SECONDS = 8 * 3600;

/** Minutes; undefined while changes are made at once. */
export async function trialMinutes(): Promise<number | undefined> {
  const minutes = Number((await cookies()).get(COOKIE)?.value ?? Number.NaN);
  return minutes >= SHORTEST_TRIAL && minutes <= LONGEST_TRIAL ? minutes : undefined;
}

export async function setTrialMinutes(minutes: number | undefined): Promise<void> {
  const jar = await cookies();
  if (minutes === undefined) jar.delete(COOKIE);
  else jar.set(COOKIE, String(minutes), { httpOnly: true, sameSite: 'lax', path: '/', maxAge: SECONDS });
}

/** Does what an action does: on trial where this browser makes its changes so. `began` hears until when. */
export async function asThisBrowserDoes<Result>(
  work: () => Promise<Result>,
  began: (until: number) => void,
): Promise<Result> {
  const minutes = await trialMinutes();
  const open = minutes === undefined ? undefined : await currentSession();
  if (minutes === undefined || !open) return work();
  const actor = actorOf(open.person);
  if (!hasRole(actor, 'administrator')) return work();
  return onTrial(await windgap(), actor, minutes, work, ({ until_at }) => began(until_at));
}
