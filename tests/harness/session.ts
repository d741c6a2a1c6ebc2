/** A browser's cookie of somebody who is signed in, as the pages make it. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { sealData } from 'iron-session';
import type { AppContext } from '../../src/operations/context/appContext';

export async function cookieOf(ctx: AppContext, email: string): Promise<string> {
  const person = await ctx.store.users.one({ email });
  if (!person) throw new Error(`There is nobody with ${email}`);
  const key = readFileSync(join(ctx.config.dataFolder, 'sealing.key'), 'utf8').trim();
  const password = createHash('sha256').update(`session ${key}`).digest('hex');
  const session = { personId: person.id, sessionVersion: person.session_version };
  return `windgap=${await sealData(session, { password, ttl: 3600 })}`;
}
