/** Rules about the second way of a channel's messages: entered by administrators, read when a message is ordered. */
import { countryName } from '../../../core/addresses/display';
import { FALLBACK_SCOPES, type FallbackRule, type FallbackScope } from '../../../core/delivery/fallback';
import { newId } from '../../../store/ids';
import type { FallbackRuleRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  noteChanges,
  recordAudit,
  requireReached,
  requireRole,
} from '../../context';
import { countryCodeOf } from '../../organisation';

/** The shortest time worth giving the first way, and the longest, milliseconds. */
const SHORTEST = 60_000;
const LONGEST = 7 * 86_400_000;
const MOST_RULES = 8;

export interface FallbackInput {
  to: string;
  /** As people write them; none for all. */
  countries: readonly string[];
  what: string;
  /** Absent: only once it has certainly failed. */
  minutes?: number;
  twice: boolean;
}

export interface FallbackRuleView extends FallbackRule {
  toName: string;
  /** Both go through one account: what stops it stops both. */
  sameAccount: boolean;
  countryNames: string[];
}

/** Rules of a channel in the order in which they are tried: what is for some countries or messages goes before what is for all. */
export async function listFallbacks(ctx: AppContext, actor: Actor, channelId: string): Promise<FallbackRuleView[]> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const [rules, channels] = await Promise.all([
    ctx.store.fallbackRules.all({ channel_id: channelId }),
    ctx.store.channels.all(),
  ]);
  const accountOf = (id: string) => channels.find((channel) => channel.id === id)?.account_id;
  return inOrder(rules).map((row) => ({
    ...ruleOf(row),
    sameAccount: accountOf(row.to_id) === accountOf(channelId),
    toName: channels.find(({ id }) => id === row.to_id)?.name ?? 'a channel that is gone',
    countryNames: (row.countries ?? []).map((code) => countryName(code)),
  }));
}

export async function saveFallback(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
  input: FallbackInput,
): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  if (input.to === channelId)
    throw invalidText('to', 'This is the channel itself.', 'Choose the channel that steps in for it.');
  if (!(await ctx.store.channels.one({ id: input.to })))
    throw invalidText('to', 'The second channel is missing.', 'Choose the channel that steps in.');
  await requireReached(ctx.store, actor, 'channel', input.to);
  if (!Object.hasOwn(FALLBACK_SCOPES, input.what))
    throw invalidText('what', 'Which messages this is for is missing.', 'Choose one of the three.');
  const after = input.minutes === undefined ? null : Math.round(input.minutes * 60_000);
  if (after !== null && !(after >= SHORTEST && after <= LONGEST))
    throw invalidText(
      'minutes',
      'This is no time between a minute and a week.',
      'Give minutes, such as 5; leave it empty to wait until it has certainly failed.',
    );
  const codes = new Set(input.countries.map(countryCodeOf));
  const countries = codes.size > 0 ? [...codes].sort() : null;
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const channel = found(await unit.channels.one({ id: channelId }), 'channel');
    const second = found(await unit.channels.one({ id: input.to }), 'channel');
    const others = await unit.fallbackRules.all({ channel_id: channelId });
    if (others.length >= MOST_RULES)
      throw invalidText('form', `There are ${MOST_RULES} rules already.`, 'Remove one first.');
    const rule: FallbackRuleRow = {
      id: newId('fbr', at),
      channel_id: channelId,
      to_id: input.to,
      countries,
      what: input.what as FallbackScope,
      after_ms: after,
      twice: input.twice ? 1 : 0,
      created_at: at,
    };
    if (others.some((other) => scopeOf(other) === scopeOf(rule)))
      throw invalidText('form', 'There is a rule for these messages already.', 'Remove that one first.');
    await unit.fallbackRules.insert([rule]);
    await recordAudit(unit, actor, at, {
      action: 'channel.fallback',
      subject: channelId,
      summary: `What ${channel.name} does not deliver goes over ${second.name}${input.twice ? ', also where it may arrive twice' : ''}`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
}

const scopeOf = ({ countries, what }: FallbackRuleRow) => `${what} ${[...(countries ?? [])].sort().join(',')}`;

export async function removeFallback(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const rule = found(await ctx.store.fallbackRules.one({ id }), 'rule');
  await requireReached(ctx.store, actor, 'channel', rule.channel_id);
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const channel = found(await unit.channels.one({ id: rule.channel_id }), 'channel');
    await unit.fallbackRules.remove({ id });
    await recordAudit(unit, actor, at, {
      action: 'channel.fallback',
      subject: rule.channel_id,
      summary: `Removed a second way of ${channel.name}`,
    });
    await noteChanges(unit, at, [['channel', rule.channel_id]]);
  });
}

/** The rules of several channels, by channel, each in the order in which they are tried. */
export async function rulesOf(unit: Unit, channelIds: readonly string[]): Promise<Map<string, FallbackRule[]>> {
  const rows = await unit.fallbackRules.allBy('channel_id', [...new Set(channelIds)]);
  const rules = new Map<string, FallbackRule[]>();
  for (const row of inOrder(rows)) rules.set(row.channel_id, [...(rules.get(row.channel_id) ?? []), ruleOf(row)]);
  return rules;
}

/** What is for some goes before what is for all. */
function inOrder(rows: readonly FallbackRuleRow[]): FallbackRuleRow[] {
  const width = ({ countries, what }: FallbackRuleRow) => (countries ? 0 : 2) + (what === 'all' ? 1 : 0);
  return [...rows].sort((a, b) => width(a) - width(b) || (a.id < b.id ? -1 : 1));
}

function ruleOf({ id, to_id, countries, what, after_ms, twice }: FallbackRuleRow): FallbackRule {
  return { id, to: to_id, countries, what, after: after_ms, twice: twice === 1 };
}
