/** What a channel may text: ordinary numbers in the countries the organisation works in, unless it is said otherwise. */
import { type AllowedDestinations, COSTLY_KINDS } from '../../core/limits/destination';
import type { ChannelRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, found, noteChanges, recordAudit, requireReached, requireRole } from '../context';
import { countryCodeOf, type Organisation, readOrganisation } from '../organisation';

/** Written once, when countries had to be allowed for the first time. */
const BEFORE = 'countries-before';

export async function countriesBefore(from: Pick<Unit, 'settings'>): Promise<string[]> {
  return ((await from.settings.one({ name: BEFORE }))?.value ?? []) as string[];
}

/** The countries of the organisation's own numbers, and those it said it works in. */
export function homeOf(
  numbers: readonly Pick<ProviderNumberRow, 'country' | 'gone_at'>[],
  { countries }: Pick<Organisation, 'countries'>,
): ReadonlySet<string> {
  return new Set([
    ...countries,
    ...numbers.flatMap(({ country, gone_at }) => (country && gone_at === null ? [country] : [])),
  ]);
}

export function allowedDestinations(
  { destinations, default_country }: Pick<ChannelRow, 'destinations' | 'default_country'>,
  { home, before }: { home: ReadonlySet<string>; before: readonly string[] },
): AllowedDestinations {
  if (destinations) return destinations;
  const countries = new Set([...home, ...(default_country ? [default_country] : []), ...before]);
  return { countries: [...countries].sort(), costly: [] };
}

export async function readDestinations(
  ctx: AppContext,
  { destinations, defaultCountry }: { destinations: AllowedDestinations | null; defaultCountry: string | null },
): Promise<AllowedDestinations & { chosen: boolean }> {
  const [numbers, before, organisation] = await Promise.all([
    ctx.store.numbers.all(),
    countriesBefore(ctx.store),
    readOrganisation(ctx.store),
  ]);
  const channel = { destinations, default_country: defaultCountry };
  return {
    ...allowedDestinations(channel, { home: homeOf(numbers, organisation), before }),
    chosen: destinations !== null,
  };
}

/** `countries` as codes or names, in any order; undefined goes back to the countries the organisation works in. */
export async function saveDestinations(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
  given: { countries: readonly string[]; costly: readonly string[] } | undefined,
): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const channel = found(await ctx.store.channels.one({ id: channelId }), 'channel');
  const destinations = given && {
    countries: [...new Set(given.countries.map(countryCodeOf))].sort(),
    costly: COSTLY_KINDS.filter((kind) => given.costly.includes(kind)),
  };
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.channels.change({ id: channelId }, { destinations: destinations ?? null });
    const words = destinations
      ? [...destinations.countries, ...destinations.costly].join(', ') || 'nowhere'
      : 'the countries of its organisation';
    await recordAudit(unit, actor, at, {
      action: 'channel.destinations',
      subject: channelId,
      summary: `${channel.name} may text: ${words}`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
}
