/** Signing in through the identity provider: there, back, and who somebody is here. */
import {
  beginJourney,
  endJourney,
  type IdentityClaims,
  IdentityError,
  type Journey,
  signOutUrl,
} from '../../../connectors/identity/openIdConnect';
import { newId } from '../../../store/ids';
import type { UserRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  isOperationError,
  OperationError,
  recordAudit,
  requireRole,
  SYSTEM,
} from '../../context';
import { noteConfirmed } from '../factors/secondFactor';
import { beginStep, stepGone, takeStep } from '../factors/steps';
import { type Person, toPerson } from '../person';
import { endSessionsOf } from '../sessions';
import { putIntoTeams } from '../teams';
import {
  accessOf,
  PROVIDER_SETTING,
  type ProviderSetting,
  providerSetting,
  returnAddress,
  standingOf,
  surroundingsOf,
  wordsOf,
} from './settings';

/** Where somebody goes to sign in, and a token for a cookie. `anew`: to show that it is they, signed in or not. */
export async function beginProviderSignIn(
  ctx: AppContext,
  { next, anew }: { next: string; anew: boolean },
): Promise<{ url: string; token: string }> {
  const setting = await requireSetting(ctx);
  const begun = await beginJourney(accessOf(ctx, setting), surroundingsOf(ctx), {
    returnTo: returnAddress(ctx),
    anew,
  }).catch((error) => refused(ctx, setting, error));
  return { url: begun.url, token: await beginStep(ctx, 'provider', { journey: begun.journey, next }) };
}

export interface CameBack {
  person: Person;
  idToken: string;
  next: string;
  anew: boolean;
}

/** Who came back. They are made, or changed, as their groups say; whoever is switched off here stays out. */
export async function endProviderSignIn(ctx: AppContext, token: string, back: URL): Promise<CameBack> {
  const setting = await requireSetting(ctx);
  const step = await takeStep(ctx, token, ['provider']);
  const journey = step.value.journey as Journey | undefined;
  if (!journey) throw stepGone();
  const claims = await endJourney(
    accessOf(ctx, setting),
    surroundingsOf(ctx),
    journey,
    back,
    setting.groupsClaim,
  ).catch((error) => refused(ctx, setting, error));
  try {
    const person = await ctx.store.write((unit) => settlePerson(ctx, unit, setting, claims));
    return { person, idToken: claims.idToken, next: String(step.value.next ?? '/'), anew: journey.anew };
  } catch (error) {
    if (isOperationError(error)) await noteRefusedPerson(ctx, claims, error.message);
    throw error;
  }
}

async function requireSetting(ctx: AppContext): Promise<ProviderSetting> {
  const setting = await providerSetting(ctx);
  if (!setting) throw new OperationError('not-found', 'No identity provider is set up here.');
  return setting;
}

async function refused(ctx: AppContext, setting: ProviderSetting, error: unknown): Promise<never> {
  if (!(error instanceof IdentityError)) throw error;
  const [problem, remedy] = wordsOf(error, setting.name);
  await noteRefused(ctx, problem);
  throw new OperationError('invalid', `${problem} ${remedy}`);
}

async function noteRefused(ctx: AppContext, what: string): Promise<void> {
  await ctx.store.write((unit) =>
    recordAudit(unit, SYSTEM, ctx.now(), {
      action: 'sign-in.refused',
      subject: PROVIDER_SETTING,
      summary: `Refused a sign-in through the identity provider. ${what}`.slice(0, 600),
    }),
  );
}

/** Whoever was here, and may do nothing here any more, is out everywhere at once. */
async function noteRefusedPerson(ctx: AppContext, claims: IdentityClaims, why: string): Promise<void> {
  await noteRefused(ctx, `${claims.email ?? claims.subject}: ${why}`);
  await ctx.store.write(async (unit) => {
    const known = await unit.users.one({ provider_subject: subjectOf(claims) });
    if (known) await endSessionsOf(unit, SYSTEM, known.id, 'another role', ctx.now());
  });
}

const subjectOf = ({ issuer, subject }: IdentityClaims) => `${issuer} ${subject}`;

async function settlePerson(
  ctx: AppContext,
  unit: Unit,
  setting: ProviderSetting,
  claims: IdentityClaims,
): Promise<Person> {
  const at = ctx.now();
  const subject = subjectOf(claims);
  const known = (await unit.users.one({ provider_subject: subject })) ?? (await byMail(unit, claims));
  const { role, teams } = standingOf(setting.rules, claims.groups);
  if (known?.disabled_at) throw new OperationError('forbidden', 'You are switched off here. Ask an owner.');
  const user = known ?? (await newPerson(unit, claims, subject, role, at));
  if (known && known.provider_subject === null) {
    await unit.users.change({ id: user.id }, { provider_subject: subject });
    const summary = `${user.name} signs in through ${setting.name} from now on`;
    await recordAudit(unit, SYSTEM, at, { action: 'person.provider', subject: user.id, summary });
  }
  // The last owner stays one, whatever a provider says: somebody has to be able to set it right.
  const owners = await unit.users.all({ role: 'owner', disabled_at: null });
  const lastOwner = user.role === 'owner' && owners.every(({ id }) => id === user.id);
  if (user.role !== role && !lastOwner) {
    await unit.users.change({ id: user.id }, { role });
    await endSessionsOf(unit, SYSTEM, user.id, 'another role', at);
    const summary = `${user.name}: ${user.role} → ${role}, by their groups at ${setting.name}`;
    await recordAudit(unit, SYSTEM, at, { action: 'person.role', subject: user.id, summary });
  }
  await putIntoTeams(unit, user.id, teams, at);
  if (!setting.provenAt || at - setting.provenAt > 60_000)
    await unit.settings.put({ name: PROVIDER_SETTING, value: { ...setting, provenAt: at } });
  return { ...toPerson(user), role: lastOwner ? 'owner' : role };
}

/** Somebody who has an account here already. An address nobody has verified is nobody's. */
async function byMail(unit: Unit, { email, emailVerified }: IdentityClaims): Promise<UserRow | undefined> {
  if (!email) return undefined;
  const user = await unit.users.one({ email: email.trim().toLowerCase() });
  if (!user) return undefined;
  if (!emailVerified)
    throw new OperationError(
      'forbidden',
      'Somebody here has your e-mail, and your organisation’s provider does not say that it verified it.',
    );
  if (user.provider_subject !== null)
    throw new OperationError('forbidden', 'Somebody else of your organisation has this e-mail here. Ask an owner.');
  return user;
}

async function newPerson(
  unit: Unit,
  { email, name, subject: short }: IdentityClaims,
  subject: string,
  role: UserRow['role'],
  at: number,
): Promise<UserRow> {
  const row: UserRow = {
    id: newId('usr', at),
    email: (email ?? `${short}@provider.invalid`).trim().toLowerCase().slice(0, 320),
    name: (name ?? email ?? short).slice(0, 80),
    role,
    password_hash: '',
    created_at: at,
    disabled_at: null,
    may_start: 1,
    mail_me: 0,
    seen_at: null,
    sealed_code_secret: null,
    code_step: null,
    provider_subject: subject,
  };
  await unit.users.insert([row]);
  const summary = `Added ${row.name} as ${role}, by their groups at the identity provider`;
  await recordAudit(unit, SYSTEM, at, { action: 'person.added', subject: row.id, summary });
  return row;
}

/** Somebody who is signed in showed again, at the provider, that it is they. */
export async function confirmByProvider(
  ctx: AppContext,
  actor: Extract<Actor, { kind: 'user' }>,
  back: CameBack,
): Promise<void> {
  requireRole(actor, 'viewer');
  if (!back.anew || back.person.id !== actor.id)
    throw new OperationError('forbidden', 'Somebody else signed in at the provider.');
  await noteConfirmed(ctx, actor);
}

/** Where a session that came from the provider is ended there, too; undefined for one that did not. */
export async function providerSignOut(ctx: AppContext, sessionId: string): Promise<string | undefined> {
  const [session, setting] = await Promise.all([ctx.store.sessions.one({ id: sessionId }), providerSetting(ctx)]);
  if (!session?.provider_token || !setting?.signsOut) return undefined;
  return signOutUrl(accessOf(ctx, setting), surroundingsOf(ctx), {
    idToken: ctx.sealer.open<string>(session.provider_token),
    returnTo: `${ctx.config.publicUrl}/sign-in`,
    // Being signed out here does not wait for the provider.
  }).catch(() => undefined);
}
