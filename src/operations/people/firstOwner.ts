/** The first owner of an empty installation: whoever has the code that was printed where it was started. */
import { createHash, randomBytes } from 'node:crypto';
import { type AppContext, invalidText, OperationError, recordAudit, SYSTEM } from '../context';
import { newUser, requireGoodPassword } from './people';
import { type Person, toPerson } from './person';
import { forgetTries, MOST_TRIES, reserveTries } from './tries';

const SETTING = 'first-owner-code';

export async function hasOwner(ctx: AppContext): Promise<boolean> {
  return (await ctx.store.users.count({ role: 'owner' })) > 0;
}

/** A new code, for printing where only whoever runs the installation reads it; undefined once somebody owns it. */
export async function firstOwnerCode(ctx: AppContext): Promise<string | undefined> {
  if (await hasOwner(ctx)) return undefined;
  const code = randomBytes(9).toString('base64url');
  await ctx.store.write((unit) => unit.settings.put({ name: SETTING, value: hashOf(code) }));
  return code;
}

export interface NewOwner {
  name: string;
  email: string;
  password: string;
}

/** Makes the first owner for whoever has the code. */
export async function claimInstallation(ctx: AppContext, code: string, input: NewOwner, from: string): Promise<Person> {
  const tries = await reserveTries(ctx, [{ subject: `address:${from}`, most: MOST_TRIES.address }]);
  const kept = (await ctx.store.settings.one({ name: SETTING }))?.value;
  if (kept !== hashOf(code.trim()))
    throw invalidText(
      'code',
      'This is not the code of this start.',
      'It was printed where Windgap was started, and is another one after each start.',
    );
  await forgetTries(ctx, tries);
  return createFirstOwner(ctx, input);
}

/** Only on an installation without an owner; afterwards accounts are made by one. */
export async function createFirstOwner(ctx: AppContext, input: NewOwner): Promise<Person> {
  requireGoodPassword(input.password, input);
  const row = await newUser(ctx, { ...input, role: 'owner' });
  await ctx.store.write(async (unit) => {
    if ((await unit.users.count({ role: 'owner' })) > 0)
      throw new OperationError('conflict', 'There is an owner already. Sign in.');
    await unit.users.insert([row]);
    await unit.settings.remove({ name: SETTING });
    await recordAudit(unit, SYSTEM, ctx.now(), {
      action: 'owner.created',
      subject: row.id,
      summary: `First owner ${row.name}`,
    });
  });
  return toPerson(row);
}

function hashOf(code: string): string {
  return createHash('sha256').update(code).digest('base64url');
}
