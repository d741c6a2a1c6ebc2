/** Letting in somebody who has shown a password, or leading them to their second factor first. */
import 'server-only';
import { redirect } from 'next/navigation';
import { afterPassword, type Person } from '../../operations/people';
import { keepStep, localPath, openSession } from './session';
import { windgap } from './windgap';

/** `next`: where they were going. Redirects in any case. */
export async function admit(person: Person, next: string): Promise<never> {
  const after = await afterPassword(await windgap(), person, localPath(next));
  if (after.step !== 'in') {
    await keepStep(after.token);
    redirect('/sign-in/second');
  }
  await openSession(person, { way: 'password' });
  redirect(landingOf(person, next));
}

/** Where somebody is shown to who was going nowhere in particular. */
export function landingOf({ role }: Pick<Person, 'role'>, next: string): string {
  const path = localPath(next);
  if (path !== '/') return path;
  return role === 'agent' ? '/route/conversations' : '/';
}
