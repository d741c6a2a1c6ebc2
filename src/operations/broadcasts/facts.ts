/** What a plan is judged by beside people: channels with what their accounts may, the template as it may be sent now, settings. */

import { settingsOf } from '../../connectors/smpp/dialect';
import type { BroadcastDefinition } from '../../core/broadcast/definition';
import type { ForecastLine } from '../../core/broadcast/forecast';
import type { PlanChannel, PlanFacts, PlanTemplate } from '../../core/broadcast/plan';
import { createTimetable } from '../../core/broadcast/timetable';
import { isAnswered } from '../../core/connect/facts';
import { BULK_SHARE, bulkAllowance } from '../../core/pacing/bulk';
import type { ChannelRow, ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Unit } from '../../store/store';
import type { AppContext } from '../context';
import { allowedDestinations, countriesBefore, homeOf, pricesOf } from '../limits';
import { readOrganisation } from '../organisation';
import { problemOf, servedContent } from '../templates';
import { readBroadcastRules } from './settings';

const DAY = 86_400_000;

export interface BroadcastFacts {
  facts: PlanFacts;
  /** The lines its messages share turns on, for the forecast. */
  lines: ForecastLine[];
  /** Which line a channel is on, and how many turns a part takes there. */
  lineOf(channelId: string): { id: string; partsTakeTurns: boolean };
  /** Accounts of its channels. */
  accounts: ReadonlyMap<string, ProviderAccountRow>;
  /** Since when marketing counts against the cap. */
  capSince: number | undefined;
}

type From = Pick<Unit, 'select'> & Tables;

/** `zone`: of the machine where the organisation has said none. Channels that are gone are left out. */
export async function readFacts(
  ctx: AppContext,
  from: From,
  definition: BroadcastDefinition,
  now: number,
): Promise<BroadcastFacts> {
  const rows = await from.channels.allBy('id', definition.channels);
  const channels = definition.channels.flatMap((id) => rows.find((row) => row.id === id) ?? []);
  const [accounts, numbers, before, organisation, rules] = await Promise.all([
    from.accounts.all(),
    from.numbers.all(),
    countriesBefore(from),
    readOrganisation(from),
    readBroadcastRules(from),
  ]);
  const prices = await pricesOf(ctx, from, accounts);
  const home = homeOf(numbers, organisation);
  const names = await from.nameRegistrations.all({ state: 'approved' });
  const accountOf = new Map(accounts.map((row) => [row.id, row]));
  const numberOf = new Map(numbers.map((row) => [row.id, row]));
  const lines = new Map<string, ForecastLine>();
  const lineOf = new Map<string, { id: string; partsTakeTurns: boolean }>();
  const known: PlanChannel[] = [];
  for (const channel of channels) {
    const account = accountOf.get(channel.account_id);
    const number = numberOf.get(channel.number_id);
    if (!account || !number || !ctx.connectors.has(account.connector)) continue;
    known.push(
      channelOf(
        ctx,
        { channel, account, number },
        {
          destinations: allowedDestinations(channel, { home, before }),
          prices: prices.get(account.id) ?? [],
          registeredIn: names.filter(({ number_id }) => number_id === number.id).map(({ country }) => country),
        },
      ),
    );
    const line = await lineFor(ctx, from, { channel, account, number }, now);
    lines.set(line.id, line);
    lineOf.set(channel.id, { id: line.id, partsTakeTurns: ctx.connectors.get(account.connector).trunk !== undefined });
  }
  return {
    facts: {
      now,
      message: definition.message,
      template: definition.message.template && (await templateOf(from, definition.message.template.id)),
      channels: known,
      due: createTimetable(definition.when, now, definition.quietHours ? rules.quiet : undefined),
      zone: organisation.zone ?? 'UTC',
      language: organisation.language,
      country: organisation.countries[0] ?? [...home][0],
      cap: rules.cap,
      taken: new Set(),
    },
    lines: [...lines.values()],
    lineOf: (id) => lineOf.get(id) ?? { id, partsTakeTurns: false },
    accounts: accountOf,
    capSince: definition.message.purpose === 'marketing' ? now - rules.cap.days * DAY : undefined,
  };
}

interface Line {
  channel: ChannelRow;
  account: ProviderAccountRow;
  number: ProviderNumberRow;
}

function channelOf(
  ctx: AppContext,
  { channel, account, number }: Line,
  rest: Pick<PlanChannel, 'destinations' | 'prices' | 'registeredIn'>,
): PlanChannel {
  const connector = ctx.connectors.get(account.connector);
  return {
    ...rest,
    id: channel.id,
    name: channel.name,
    kind: channel.kind,
    address: channel.address,
    accountId: account.id,
    accountName: account.name,
    facts: account.facts,
    requires: connector.requires,
    disabled: account.disabled_at !== null,
    senderName: number.kind === 'sender-name',
    purpose: number.purpose,
    answered: isAnswered(number),
    sendsTexts: number.gone_at === null && number.abilities.includes('text-out'),
    replyWindowHours: connector.limits.replyWindowHours,
    longestText: connector.limits.longestText ?? 1600,
    choices: connector.choices,
  };
}

/** Channels of one trunk share its pace; any other has its own. */
async function lineFor(
  ctx: AppContext,
  from: From,
  { channel, account, number }: Line,
  now: number,
): Promise<ForecastLine> {
  const { limits, trunk } = ctx.connectors.get(account.connector);
  const reserve = 1 - BULK_SHARE;
  if (trunk) return { id: account.id, pace: Math.min(channel.pace, settingsOf(trunk, account.settings).pace), reserve };
  const pace = Math.min(channel.pace, limits.pace);
  const most = number.facts.allowance;
  if (most === undefined) return { id: channel.id, pace, reserve };
  const begun = await from.select<{ at: number }>(
    `SELECT created_at AS at FROM messages
      WHERE channel_id = :id AND direction = 'out' AND template IS NOT NULL AND created_at > :since`,
    { id: channel.id, since: now - DAY },
  );
  return { id: channel.id, pace, reserve, allowance: { most: bulkAllowance(most), begun: begun.map(({ at }) => at) } };
}

/** As it may be sent now: the version that serves. */
async function templateOf(from: From, id: string): Promise<PlanTemplate | undefined> {
  const served = await servedContent(from, id);
  if (!served) return { id, name: 'the template', variants: [], unserved: 'it was archived' };
  const { row, content, version } = served;
  const problem = await problemOf(from, id);
  return {
    id,
    name: row.name,
    variants: content.variants,
    ...(row.kind === 'platform'
      ? {
          accountId: row.account_id ?? '',
          version: version?.number,
          remoteId: version?.remote_id,
          edition: version?.edition,
        }
      : {}),
    ...(problem ? { unserved: problem.problem } : {}),
  };
}
