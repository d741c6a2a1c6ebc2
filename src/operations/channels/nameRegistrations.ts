/** Where a sender name stands with the networks of countries that carry registered names alone, as administrators hear from the carrier. */
import { countryName } from '../../core/addresses/display';
import { NAMES_BY_CARRIAGE, nameCarriage } from '../../core/addresses/senderNames';
import type { NameRegistrationRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  recordAudit,
  requireReached,
  requireRole,
} from '../context';

export type NameRegistrationState = NameRegistrationRow['state'];
export const NAME_REGISTRATION_WORDS: Record<NameRegistrationState, string> = {
  submitted: 'handed in, not decided yet',
  approved: 'registered',
  rejected: 'rejected',
};

export interface NameRegistrationView {
  country: string;
  /** Undefined where nothing has been handed in. */
  state?: NameRegistrationState;
  since?: number;
  said?: string;
}

/** Every country that wants the name registered, those where something was done first; undefined where the sender is no name. */
export async function listNameRegistrations(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
): Promise<NameRegistrationView[] | undefined> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const number = await nameOf(ctx.store, channelId);
  if (!number) return undefined;
  const rows = await ctx.store.nameRegistrations.all({ number_id: number.id });
  return NAMES_BY_CARRIAGE.registered
    .map((country): NameRegistrationView => {
      const row = rows.find((each) => each.country === country);
      return row ? { country, state: row.state, since: row.since, said: row.said ?? undefined } : { country };
    })
    .sort((a, b) => Number(b.state !== undefined) - Number(a.state !== undefined));
}

/** Notes where the registration stands in one country; `undefined` for nothing handed in. */
export async function noteNameRegistration(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
  { country, state, said }: { country: string; state: string; said: string },
): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  if (nameCarriage(country) !== 'registered')
    throw invalidText('country', 'Names are not registered there.', 'Choose one of the countries that are listed.');
  const known = Object.keys(NAME_REGISTRATION_WORDS) as NameRegistrationState[];
  const now = known.find((each) => each === state);
  if (!now && state !== 'none') throw invalidText('state', 'Where it stands is missing.', 'Choose one of the four.');
  if (said.length > 300) throw invalidText('said', 'This is too long.', 'Use 300 characters at most.');
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const number = found(await nameOf(unit, channelId), 'sender name');
    const where = { number_id: number.id, country };
    const before = await unit.nameRegistrations.one(where);
    if (now) {
      const since = before?.state === now ? before.since : at;
      await unit.nameRegistrations.put({ ...where, state: now, since, said: said.trim() || null, by: actor.name });
    } else await unit.nameRegistrations.remove(where);
    await recordAudit(unit, actor, at, {
      action: 'channel.name-registration',
      subject: channelId,
      summary: `The name ${number.address} in ${countryName(country)}: ${now ? NAME_REGISTRATION_WORDS[now] : 'nothing handed in'}`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
}

async function nameOf(tables: Pick<Tables, 'channels' | 'numbers'>, channelId: string) {
  const channel = found(await tables.channels.one({ id: channelId }), 'channel');
  const number = found(await tables.numbers.one({ id: channel.number_id }), 'number');
  return number.kind === 'sender-name' ? number : undefined;
}
