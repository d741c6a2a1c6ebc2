/** A browser's cookie of somebody who is signed in, as the pages make it. */
import type { AppContext } from '../../src/operations/context/appContext';
import { beginSession } from '../../src/operations/people/sessions';

export async function cookieOf(ctx: AppContext, email: string): Promise<string> {
  const person = await ctx.store.users.one({ email });
  if (!person) throw new Error(`There is nobody with ${email}`);
  const { token } = await beginSession(ctx, person, { address: '127.0.0.1', browser: 'A test', way: 'password' });
  return `windgap=${token}`;
}
