/**
 * Single-use codes with which somebody comes in without a password: invited, or having lost it. An owner makes one, and
 * hands it over or has it mailed; who uses it chooses a password.
 */
import { createHash, randomBytes } from 'node:crypto';
import { newId } from '../../store/ids';
import type { Role } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  OperationError,
  recordAudit,
  requireConfirmed,
  requireRole,
  SYSTEM,
} from '../context';
import { hasMail, mailSecret } from './mailNotices';
import { hashPassword } from './passwords';
import { requireGoodPassword } from './people';
import { type Person, toPerson } from './person';
import { endSessionsOf } from './sessions';
import { reserveTries } from './tries';

const DAY = 86_400_000;
const LASTS = { invite: 7 * DAY, recover: DAY };
/** Of a link that was asked for on the sign-in page. */
const ASKED_LASTS = 3_600_000;

export interface EntryCode {
  userId: string;
  /** Shown this once. */
  code: string;
  expiresAt: number;
}

/** Adds somebody who chooses their own password. */
export async function invitePerson(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; email: string; role: Role },
): Promise<EntryCode> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  const email = input.email.trim().toLowerCase();
  const id = newId('usr', at);
  await ctx.store.write(async (unit) => {
    if (await unit.users.one({ email }))
      throw invalidText('email', 'Somebody has this e-mail already.', 'Use another one.');
    await unit.users.insert([
      {
        id,
        email,
        name: input.name.trim(),
        role: input.role,
        // No password is right until they have chosen one.
        password_hash: '',
        created_at: at,
        disabled_at: null,
        may_start: 1,
        mail_me: 0,
        seen_at: null,
        sealed_code_secret: null,
        code_step: null,
        provider_subject: null,
      },
    ]);
    await recordAudit(unit, actor, at, {
      action: 'person.invited',
      subject: id,
      summary: `Invited ${input.name.trim()} as ${input.role}`,
    });
  });
  return makeCode(ctx, actor, id, 'invite');
}

/** A code for somebody who lost their password, or whose invitation ran out. Codes made before end. */
export async function makeEntryCode(ctx: AppContext, actor: Actor, userId: string): Promise<EntryCode> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const user = found(await ctx.store.users.one({ id: userId }), 'person');
  if (user.disabled_at !== null) throw new OperationError('conflict', `${user.name} is switched off.`);
  return makeCode(ctx, actor, userId, user.password_hash === '' ? 'invite' : 'recover');
}

async function makeCode(
  ctx: AppContext,
  actor: Actor,
  userId: string,
  kind: 'invite' | 'recover',
  lasts = LASTS[kind],
): Promise<EntryCode> {
  requireRole(actor, 'owner');
  const at = ctx.now();
  const code = randomBytes(15).toString('base64url');
  const expiresAt = at + lasts;
  await ctx.store.write(async (unit) => {
    await unit.execute('UPDATE entry_codes SET used_at = :at WHERE user_id = :userId AND used_at IS NULL', {
      at,
      userId,
    });
    await unit.entryCodes.insert([
      {
        id: newId('ent', at),
        user_id: userId,
        code_hash: hashOf(code),
        kind,
        made_by: actor.name,
        created_at: at,
        expires_at: expiresAt,
        used_at: null,
      },
    ]);
    await recordAudit(unit, actor, at, {
      action: 'person.entry-code',
      subject: userId,
      summary: kind === 'invite' ? 'Made an invitation' : 'Made a code to choose a new password',
    });
  });
  return { userId, code, expiresAt };
}

/** The link a code opens with. The code stands behind the #, which no server on the way gets to see. */
export function entryLink({ config }: AppContext, { code }: EntryCode): string {
  return `${config.publicUrl}/enter#${code}`;
}

/** Mails a code to the person it is for. Returns what went wrong, in words; undefined when the mail was taken. */
export async function mailEntryCode(ctx: AppContext, actor: Actor, code: EntryCode): Promise<string | undefined> {
  requireRole(actor, 'owner');
  const user = found(await ctx.store.users.one({ id: code.userId }), 'person');
  const invited = user.password_hash === '';
  const name = new URL(ctx.config.publicUrl).host;
  return mailSecret(ctx, {
    to: user.email,
    subject: invited ? `${actor.name} invites you to Windgap` : 'A new password for Windgap',
    text: [
      `${user.name},`,
      '',
      invited
        ? `${actor.name} has made an account for you at ${name}. Open this link and choose a password:`
        : `Open this link to choose a new password at ${name}:`,
      '',
      entryLink(ctx, code),
      '',
      `It works once, until ${new Date(code.expiresAt).toISOString().slice(0, 16).replace('T', ' ')} UTC. If you did not expect it, do nothing.`,
    ].join('\n'),
  });
}

/**
 * Mails a link to whoever lost their password and asks for one. The answer is the same whoever is asked about, and does not
 * wait for the mail: neither tells who has an account here.
 */
export async function askForLink(ctx: AppContext, email: string, from: string): Promise<void> {
  const address = email.trim().toLowerCase().slice(0, 320);
  if (!(await hasMail(ctx))) throw new OperationError('conflict', 'No mail is set up here. Ask an owner for a link.');
  await reserveTries(ctx, [
    { subject: `link:${address}`, most: 3 },
    { subject: `link-from:${from}`, most: 20 },
  ]);
  const user = await ctx.store.users.one({ email: address, disabled_at: null });
  if (!user || user.password_hash === '') return;
  void (async () => {
    const code = await makeCode(ctx, SYSTEM, user.id, 'recover', ASKED_LASTS);
    const problem = await mailEntryCode(ctx, SYSTEM, code);
    if (problem) ctx.log.warn({ problem }, 'a link for a new password could not be mailed');
  })().catch((error) => ctx.log.error({ err: error }, 'a link for a new password could not be made'));
}

/** Whose code this is, while it opens something. */
export async function personOfCode(ctx: AppContext, code: string): Promise<Person | undefined> {
  const row = await ctx.store.entryCodes.one({ code_hash: hashOf(code), used_at: null });
  if (!row || row.expires_at <= ctx.now()) return undefined;
  const user = await ctx.store.users.one({ id: row.user_id, disabled_at: null });
  return user && toPerson(user);
}

/** Uses a code up: the password is theirs from now on, and whoever was signed in as them no longer is. */
export async function enterByCode(ctx: AppContext, code: string, password: string): Promise<Person> {
  const whose = await personOfCode(ctx, code);
  if (!whose) throw gone();
  requireGoodPassword(password, whose);
  const password_hash = await hashPassword(password);
  return ctx.store.write(async (unit) => {
    const at = ctx.now();
    const row = await unit.entryCodes.one({ code_hash: hashOf(code), used_at: null });
    const user = row && row.expires_at > at ? await unit.users.one({ id: row.user_id, disabled_at: null }) : undefined;
    if (!row || !user) throw gone();
    const self: Actor = { kind: 'user', id: user.id, name: user.name, role: user.role };
    await unit.entryCodes.change({ id: row.id }, { used_at: at });
    await unit.users.change({ id: user.id }, { password_hash });
    await endSessionsOf(unit, self, user.id, 'new password', at);
    await recordAudit(unit, self, at, {
      action: 'person.password',
      subject: user.id,
      summary: `${user.name} chose a password by ${row.kind === 'invite' ? 'an invitation' : 'a code'} of ${row.made_by}`,
    });
    return toPerson(user);
  });
}

function gone(): OperationError {
  return new OperationError(
    'invalid',
    'This code was used, has run out, or is not complete. Ask an owner for another.',
  );
}

function hashOf(code: string): string {
  return createHash('sha256').update(code).digest('base64url');
}
