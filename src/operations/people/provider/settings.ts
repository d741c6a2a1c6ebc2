/** The organisation's identity provider: where it is, and what its groups may do here. */
import { type IdentityAccess, IdentityError, readProvider } from '../../../connectors/identity/openIdConnect';
import type { Role } from '../../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  invalidText,
  OperationError,
  recordAudit,
  requireConfirmed,
  requireRole,
} from '../../context';

export const PROVIDER_SETTING = 'identity-provider';

export interface GroupRule {
  /** As the provider calls it. */
  group: string;
  role: Role;
  /** The team its people are in. */
  team: string;
}

export interface ProviderSetting {
  /** What people read on the button. */
  name: string;
  sealed: string;
  groupsClaim: string;
  rules: GroupRule[];
  /** Nobody but owners signs in with a password. */
  only: boolean;
  signsOut: boolean;
  changedAt: number;
  /** When somebody last came in through it. */
  provenAt?: number;
}

export async function providerSetting(ctx: AppContext): Promise<ProviderSetting | undefined> {
  return (await ctx.store.settings.one({ name: PROVIDER_SETTING }))?.value as ProviderSetting | undefined;
}

export function accessOf(ctx: AppContext, setting: ProviderSetting): IdentityAccess {
  return ctx.sealer.open<IdentityAccess>(setting.sealed);
}

/** What connectors need to reach a provider. */
export function surroundingsOf({ http, clock, config }: AppContext) {
  return { http, clock, allowPrivate: config.allowPrivateAddresses };
}

export function returnAddress({ config }: AppContext): string {
  return `${config.publicUrl}/sign-in/provider/back`;
}

export interface ProviderView extends Omit<ProviderSetting, 'sealed'> {
  issuer: string;
  clientId: string;
}

export async function getProvider(ctx: AppContext, actor: Actor): Promise<ProviderView | undefined> {
  requireRole(actor, 'owner');
  const setting = await providerSetting(ctx);
  if (!setting) return undefined;
  const { sealed: _, ...rest } = setting;
  const { issuer, clientId } = accessOf(ctx, setting);
  return { ...rest, issuer, clientId };
}

/** What the sign-in page offers. */
export async function providerOffered(ctx: AppContext): Promise<{ name: string; only: boolean } | undefined> {
  const setting = await providerSetting(ctx);
  return setting && { name: setting.name, only: setting.only };
}

/** Where people come in through the provider alone, an owner may still come in by themselves: the provider may be down. */
export async function requireOwnWay(ctx: AppContext, { role }: { role: Role }): Promise<void> {
  const setting = await providerSetting(ctx);
  if (setting?.only && role !== 'owner')
    throw new OperationError('forbidden', `Sign in through ${setting.name}: passwords are for owners alone here.`);
}

export interface ProviderInput {
  name: string;
  issuer: string;
  clientId: string;
  /** The one that is kept where it is empty. */
  clientSecret: string;
  groupsClaim: string;
  rules: GroupRule[];
  only: boolean;
}

/** Keeps a provider that answered as one. That people come in through it is proven by the first who does. */
export async function setProvider(ctx: AppContext, actor: Actor, input: ProviderInput): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const before = await providerSetting(ctx);
  const access = readAccess(ctx, input, before);
  if (input.rules.length === 0)
    throw invalidText(
      'rules',
      'No group may do anything here.',
      'Write at least one line: group, role, and a team if you like.',
    );
  const facts = await readProvider(access, surroundingsOf(ctx)).catch((error) => {
    if (!(error instanceof IdentityError)) throw error;
    throw invalidText('issuer', ...wordsOf(error, access.issuer));
  });
  const at = ctx.now();
  const same = before !== undefined && JSON.stringify(accessOf(ctx, before)) === JSON.stringify(access);
  if (input.only && !(same && before?.provenAt))
    throw invalidText(
      'only',
      'Nobody has come in through this provider yet, and passwords would be off.',
      'Save it without this, sign in through it once, and then choose it.',
    );
  await ctx.store.write(async (unit) => {
    await unit.settings.put({
      name: PROVIDER_SETTING,
      value: {
        name: input.name.trim() || 'your organisation',
        sealed: ctx.sealer.seal(access),
        groupsClaim: input.groupsClaim.trim() || 'groups',
        rules: input.rules,
        only: input.only,
        signsOut: facts.signsOut,
        changedAt: at,
        ...(same && before?.provenAt ? { provenAt: before.provenAt } : {}),
      } satisfies ProviderSetting,
    });
    await recordAudit(unit, actor, at, {
      action: 'identity-provider.set',
      subject: PROVIDER_SETTING,
      summary: `People sign in through ${access.issuer}${input.only ? ', and all but owners only so' : ''}`,
      details: { rules: input.rules, clientId: access.clientId },
    });
  });
}

/** Whoever came in through it has no password, and comes in by an owner's link from now on. */
export async function removeProvider(ctx: AppContext, actor: Actor): Promise<void> {
  requireRole(actor, 'owner');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.settings.remove({ name: PROVIDER_SETTING });
    const summary = 'Nobody signs in through an identity provider any more';
    await recordAudit(unit, actor, at, { action: 'identity-provider.removed', subject: PROVIDER_SETTING, summary });
  });
}

function readAccess(ctx: AppContext, input: ProviderInput, before: ProviderSetting | undefined): IdentityAccess {
  const issuer = input.issuer.trim().replace(/\/\.well-known\/openid-configuration$/, '');
  const clientId = input.clientId.trim();
  if (!URL.canParse(issuer))
    throw invalidText('issuer', 'This is no address.', 'Paste the issuer as the provider shows it.');
  if (!clientId)
    throw invalidText('clientId', 'The client id is empty.', 'The provider shows it beside the client secret.');
  const kept = before && accessOf(ctx, before);
  const secret = input.clientSecret.trim();
  // A secret goes only where it was given to go.
  if (secret === '' && (!kept || kept.issuer !== issuer || kept.clientId !== clientId))
    throw invalidText(
      'clientSecret',
      'The client secret is empty.',
      'The provider shows it once, when the client is made.',
    );
  return { issuer, clientId, clientSecret: secret || (kept?.clientSecret ?? '') };
}

/** What happened, and what to do about it. */
export function wordsOf(error: IdentityError, who: string): [string, string] {
  switch (error.kind) {
    case 'unreachable':
      return [
        `${who} cannot be reached: ${error.message}.`,
        'Check the address, and whether this machine may reach it.',
      ];
    case 'not-a-provider':
      return [
        `${who} is no provider that can be used: ${error.message}.`,
        'The address is the issuer, as the provider’s page shows it.',
      ];
    case 'refused':
      return [
        `${who} refused: ${error.message}.`,
        'Check client id, client secret and the return address at the provider.',
      ];
    case 'not-believed':
      return [
        `What ${who} answered is not to be believed: ${error.message}.`,
        'Check the clocks of both, and the client id.',
      ];
  }
}

const ROLES: readonly Role[] = ['owner', 'administrator', 'agent', 'viewer'];

/** Lines of `group, role, team`; throws at the line that is none. */
export function readRules(text: string): GroupRule[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [group = '', role = '', team = ''] = line.split(',').map((part) => part.trim());
      const known = ROLES.find((each) => each === role.toLowerCase());
      if (!group || !known)
        throw invalidText(
          'rules',
          `“${line}” is not a group and a role.`,
          `Write it as: group, role, team. Roles are ${ROLES.join(', ')}.`,
        );
      return { group, role: known, team: team.slice(0, 60) };
    });
}

/** The highest role of somebody's groups, and all their teams; throws where none of them may do anything. */
export function standingOf(rules: readonly GroupRule[], groups: readonly string[]): { role: Role; teams: string[] } {
  const mine = rules.filter(({ group }) => groups.includes(group));
  const role = ROLES.find((each) => mine.some((rule) => rule.role === each));
  if (!role)
    throw new OperationError(
      'forbidden',
      groups.length === 0
        ? 'Your organisation’s provider named no group of yours, so nothing here is open to you. Ask an owner.'
        : 'None of your groups may do anything here. Ask an owner.',
    );
  return { role, teams: [...new Set(mine.map(({ team }) => team).filter(Boolean))] };
}
