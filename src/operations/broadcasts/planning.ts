/** Planning in the engine: every person of the audience is judged, and what it comes to is kept with the broadcast. */
import { addCost, affordable, type Cost, CREDIT_RESERVE, NO_COST } from '../../core/broadcast/cost';
import { type ForecastMessage, forecastOf, type OtherMessages } from '../../core/broadcast/forecast';
import { ALIKE, likeness } from '../../core/broadcast/likeness';
import { addressKey, type Judged, judge, type Planned } from '../../core/broadcast/plan';
import type { BroadcastPlan } from '../../core/broadcast/summary';
import type { BroadcastRecipientRow, BroadcastRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import { type AppContext, invalidText, isOperationError, noteChanges } from '../context';
import { syncProfiles } from '../profiles';
import { type Member, membersOf } from './audience';
import { startByItself } from './course';
import { type BroadcastFacts, readFacts } from './facts';
import { type Read, type ReadingOf, readPeople } from './people';

/** People judged in a row: few enough that replies get their turn in between. */
const PAGE = 250;
/** Rows of an earlier plan that are removed in a row. */
const REMOVED_AT_ONCE = 5000;
const NOTED_EVERY = 20;

/** Plans whatever waits for it. It begins anew when the engine starts again, and ends when the broadcast was changed meanwhile. */
export async function planBroadcasts(ctx: AppContext, leaveOff: () => boolean): Promise<undefined> {
  for (const { id } of await ctx.store.select<{ id: string }>(
    `SELECT id FROM broadcasts WHERE state = 'planning' ORDER BY changed_at`,
  )) {
    try {
      const row = await ctx.store.broadcasts.one({ id });
      if (row) await planOne(ctx, row, leaveOff);
    } catch (error) {
      if (leaveOff()) return undefined;
      ctx.log.error({ err: error, broadcast: id }, 'a broadcast could not be planned');
      const problem = isOperationError(error) ? error.message : 'It could not be planned; the engine’s log says why.';
      await ctx.store.write(async (unit) => {
        await unit.execute(
          `UPDATE broadcasts SET state = 'draft', plan = NULL, plan_problem = :problem WHERE id = :id AND state = 'planning'`,
          { id, problem },
        );
        await noteChanges(unit, ctx.now(), [['broadcast', id]]);
      });
    }
    if (leaveOff()) return undefined;
  }
  return undefined;
}

async function planOne(ctx: AppContext, row: BroadcastRow, leaveOff: () => boolean): Promise<void> {
  await syncProfiles(ctx, true);
  const now = ctx.now();
  await removeRecipients(ctx, row.id);
  const known = await readFacts(ctx, ctx.store, row.definition, now);
  const taken = new Set<string>();
  const facts = { ...known.facts, taken };
  const tally = newTally(known, row, now);
  const of = { country: facts.country, capSince: known.capSince };
  let seq = 0;
  let pages = 0;
  for await (const members of membersOf(ctx.store, row.list_id, row.definition.audience, now, PAGE)) {
    const read = await readEach(ctx, members, of);
    const rows: BroadcastRecipientRow[] = [];
    const began = ctx.clock.elapsed();
    for (const [index, each] of read.entries()) {
      const judged = 'said' in each ? unreadable(each.said) : judge(facts, each.person);
      if (judged.goes) taken.add(addressKey(judged.message.identity));
      seq += 1;
      tally.add(judged, seq);
      rows.push(recipientRow(row.id, seq, each, judged, members[index]));
      refuseSlowText(ctx.clock.elapsed() - began, rows.length);
    }
    pages += 1;
    const going = await ctx.store.write(
      async (unit) => {
        if (!(await isStill(unit, row))) return false;
        await unit.broadcastRecipients.insert(rows);
        if (pages % NOTED_EVERY === 0) await noteChanges(unit, ctx.now(), [['broadcast', row.id]]);
        return true;
      },
      { durable: false },
    );
    if (!going || leaveOff()) return;
  }
  const plan = await tally.end(ctx);
  await ctx.store.write(async (unit) => {
    if (!(await isStill(unit, row))) return;
    await unit.broadcasts.change({ id: row.id }, { state: 'draft', plan, plan_problem: null });
    await startByItself(unit, row.id, ctx.now());
    await noteChanges(unit, ctx.now(), [['broadcast', row.id]]);
  });
  if (row.starts_itself) ctx.engineWakeUp.ring('broadcasts');
}

/** Somebody of whom a row is damaged is left out with the reason, and keeps nobody else from being planned. */
interface Unreadable {
  contactId: string | null;
  fields: null;
  said: string;
}

const unreadable = (said: string): Judged => ({ goes: false, why: { code: 'refused', said } });

async function readEach(ctx: AppContext, members: readonly Member[], of: ReadingOf): Promise<(Read | Unreadable)[]> {
  try {
    return await readPeople(ctx.store, members, of);
  } catch (error) {
    if (isStoreTrouble(error)) throw error;
    const read: (Read | Unreadable)[] = [];
    for (const member of members)
      read.push(
        ...(await readPeople(ctx.store, [member], of).catch((why: unknown): Unreadable[] => {
          if (isStoreTrouble(why)) throw why;
          const said = why instanceof Error ? why.message.slice(0, 200) : 'it cannot be read';
          return [{ contactId: member.contactId, fields: null, said }];
        })),
      );
    return read;
  }
}

/** Milliseconds for one person that no ordinary text takes, on any machine; said after so many of them at the soonest. */
const SLOWEST = 50;
const JUDGED_AFTER = 1000;

/** The engine sends while it plans: a text that takes long to fill for each of many would keep everybody waiting. */
function refuseSlowText(ms: number, people: number): void {
  if (ms < JUDGED_AFTER || ms / people <= SLOWEST) return;
  throw invalidText(
    'text',
    `Filling the text takes ${Math.round(ms / people)} milliseconds for each person.`,
    'Leave out loops and long chains of filters.',
  );
}

async function isStill(unit: Unit, { id, version }: BroadcastRow): Promise<boolean> {
  return (await unit.broadcasts.count({ id, version, state: 'planning' })) > 0;
}

export async function removeRecipients(ctx: AppContext, id: string): Promise<void> {
  for (let removed = REMOVED_AT_ONCE; removed >= REMOVED_AT_ONCE; )
    removed = await ctx.store.write(
      (unit) =>
        unit.execute(
          `DELETE FROM broadcast_recipients WHERE broadcast_id = :id AND seq IN
             (SELECT seq FROM broadcast_recipients WHERE broadcast_id = :id ORDER BY seq LIMIT :most)`,
          { id, most: REMOVED_AT_ONCE },
        ),
      { durable: false },
    );
}

function recipientRow(
  broadcast_id: string,
  seq: number,
  { contactId, fields }: Pick<Read, 'contactId' | 'fields'>,
  judged: Judged,
  member: Member | undefined,
): BroadcastRecipientRow {
  const shared = {
    broadcast_id,
    seq,
    contact_id: contactId,
    fields,
    message_id: null,
    replied_at: null,
    pressed: null,
    opted_out_at: null,
  };
  return { ...shared, ...standingOf(judged, member?.line?.address) };
}

type Standing = Omit<
  BroadcastRecipientRow,
  'broadcast_id' | 'seq' | 'contact_id' | 'fields' | 'message_id' | 'replied_at' | 'pressed' | 'opted_out_at'
>;

/** What a judgement says of a recipient. `address`: as a list gives it, for somebody who has none. */
export function standingOf(judged: Judged, address?: string): Standing {
  if (judged.goes) {
    const { message } = judged;
    return {
      ...message.identity,
      state: 'planned',
      reason: '',
      said: null,
      channel_id: message.channelId,
      country: message.country ?? '',
      due_at: message.due.at,
      language: message.language ?? null,
      parts: message.parts,
      price_micros: message.price?.micros ?? null,
      price_currency: message.price?.currency ?? null,
    };
  }
  const { why } = judged;
  return {
    kind: null,
    scope: null,
    value: address ?? null,
    state: 'left-out',
    reason: why.code,
    said: why.said ?? null,
    channel_id: why.channelId ?? '',
    country: '',
    due_at: null,
    language: null,
    parts: null,
    price_micros: null,
    price_currency: null,
  };
}

/** What a plan comes to, gathered person by person. */
function newTally(
  { facts, lines, lineOf, accounts }: BroadcastFacts,
  { id, version, definition }: BroadcastRow,
  now: number,
) {
  const more = (counts: Record<string, number>, key: string) => {
    counts[key] = (counts[key] ?? 0) + 1;
  };
  const messages: ForecastMessage[] = [];
  const byAccount = new Map<string, Cost>();
  const accountOf = new Map(facts.channels.map((channel) => [channel.id, channel.accountId]));
  const plan: BroadcastPlan = {
    at: now,
    version,
    people: 0,
    going: 0,
    leftOut: {},
    channels: {},
    countries: {},
    languages: {},
    otherLanguage: 0,
    maybeLandline: 0,
    parts: 0,
    longest: 0,
    zones: { contact: 0, number: 0, installation: 0 },
    moved: { nextDay: 0, atOnce: 0, quiet: 0, clock: 0 },
    cost: NO_COST,
    credit: [],
    bound: 'time',
    tooLate: 0,
    hours: [],
    samples: [],
  };
  const samples = newSamples();
  function add(judged: Judged, seq: number) {
    plan.people += 1;
    if (!judged.goes) return more(plan.leftOut as Record<string, number>, judged.why.code);
    const { message } = judged;
    samples.look(seq, message);
    plan.going += 1;
    more(plan.channels, message.channelId);
    more(plan.countries, message.country ?? '');
    more(plan.languages, message.language ?? '');
    if (message.otherLanguage) plan.otherLanguage += 1;
    if (message.maybeLandline) plan.maybeLandline += 1;
    plan.parts += message.parts;
    plan.longest = Math.max(plan.longest, message.parts);
    plan.zones[message.zone.from] += 1;
    const { due } = message;
    if (due.passed === 'next-day') plan.moved.nextDay += 1;
    if (due.passed === 'at-once') plan.moved.atOnce += 1;
    if (due.quiet) plan.moved.quiet += 1;
    if (due.clock) plan.moved.clock += 1;
    plan.cost = addCost(plan.cost, message.price);
    const account = accountOf.get(message.channelId) ?? '';
    byAccount.set(account, addCost(byAccount.get(account) ?? NO_COST, message.price));
    const line = lineOf(message.channelId);
    messages.push({
      line: line.id,
      dueAt: due.at,
      turns: line.partsTakeTurns ? message.parts : 1,
      starts: message.template !== undefined,
      ...(definition.usefulMinutes === null ? {} : { validUntil: due.at + definition.usefulMinutes * 60_000 }),
    });
  }
  async function end(ctx: AppContext): Promise<BroadcastPlan> {
    const { first, last, bound, tooLate, hours } = forecastOf(lines, messages, now, await othersOver(ctx, id, lineOf));
    const promised = await promisedBy(ctx, id);
    const credit = [...byAccount].flatMap(([accountId, { micros }]) => {
      const account = accounts.get(accountId);
      const balance = account?.facts.balance;
      const cost = balance && micros[balance.currency];
      if (!account || !balance || cost === undefined) return [];
      const before = promised.get(`${accountId} ${balance.currency}`) ?? 0;
      const verdict = affordable(balance, cost, { promised: before, reserve: CREDIT_RESERVE });
      if (!verdict.known) return [];
      const shared = { accountId, account: account.name, currency: balance.currency, balance: balance.micros, cost };
      return verdict.enough
        ? [{ ...shared, enough: true }]
        : [{ ...shared, enough: false, short: verdict.short, fits: verdict.fits }];
    });
    const alike = await alikeLately(ctx, { id, definition }, now);
    return { ...plan, credit, first, last, bound, tooLate: tooLate.length, hours, alike, samples: samples.chosen() };
  }
  return { add, end };
}

/** Of one kind at most so many are worth a look. */
const MOST_OF_A_KIND = 5;

/** Recipients worth a look before it starts: the first, the longest, the last, the first of each country, language and channel. */
function newSamples() {
  let first: number | undefined;
  let longest: { seq: number; parts: number } | undefined;
  let last: { seq: number; at: number } | undefined;
  const firstOf = new Map<string, number>();
  const kinds = new Map<string, number>();
  function note(kind: string, value: string, seq: number) {
    const key = `${kind} ${value}`;
    if (value === '' || firstOf.has(key) || (kinds.get(kind) ?? 0) >= MOST_OF_A_KIND) return;
    kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
    firstOf.set(key, seq);
  }
  return {
    look(seq: number, message: Planned) {
      first ??= seq;
      if (!longest || message.parts > longest.parts) longest = { seq, parts: message.parts };
      if (!last || message.due.at > last.at) last = { seq, at: message.due.at };
      note('another country', message.country ?? '', seq);
      note('another language', message.language ?? '', seq);
      note('another channel', message.channelId, seq);
      note('in a language they may not read', message.otherLanguage ?? '', seq);
      note('on the day the clock changes', message.due.clock ?? '', seq);
    },
    chosen(): BroadcastPlan['samples'] {
      const found = new Map<number, string>();
      const take = (seq: number | undefined, why: string) => {
        if (seq !== undefined && !found.has(seq)) found.set(seq, why);
      };
      take(first, 'the first');
      take(longest?.seq, 'the longest');
      take(last?.seq, 'the last to get it');
      for (const [key, seq] of firstOf) take(seq, key.slice(0, key.lastIndexOf(' ')));
      return [...found].map(([seq, why]) => ({ seq, why }));
    },
  };
}

/** So long ago nobody remembers what they got. */
const LATELY = 7 * 86_400_000;

/** Broadcasts of the last days that said nearly the same to some of those who get this one, the latest first. */
async function alikeLately(
  ctx: AppContext,
  { id, definition: { message } }: Pick<BroadcastRow, 'id' | 'definition'>,
  now: number,
): Promise<NonNullable<BroadcastPlan['alike']>> {
  const rows = await ctx.store.select<{ id: string; name: string; at: number; text: string; template: string | null }>(
    `SELECT id, name, started_at AS at, definition->>'$.message.text' AS text, definition->>'$.message.template.id' AS template
       FROM broadcasts WHERE started_at > :since AND id <> :id ORDER BY started_at DESC LIMIT 50`,
    { since: now - LATELY, id },
  );
  const alike = [];
  for (const { text, template, ...row } of rows) {
    const same = message.template ? template === message.template.id : likeness(text, message.text) >= ALIKE;
    if (!same) continue;
    const [both] = await ctx.store.select<{ n: number }>(
      `SELECT count(*) AS n FROM broadcast_recipients a
         CROSS JOIN broadcast_recipients b ON b.broadcast_id = :before AND b.kind = a.kind AND b.scope = a.scope
            AND b.value = a.value AND b.state <> 'left-out'
        WHERE a.broadcast_id = :id AND a.state = 'planned' AND b.state IN ('queued', 'sending', 'sent', 'delivered', 'read')`,
      { id, before: row.id },
    );
    if ((both?.n ?? 0) > 0) alike.push({ ...row, people: both?.n ?? 0 });
  }
  return alike;
}

/** What other broadcasts still send over the same lines. */
async function othersOver(ctx: AppContext, except: string, lineOf: BroadcastFacts['lineOf']): Promise<OtherMessages[]> {
  const rows = await ctx.store.select<{
    broadcast: string;
    channel: string;
    due: number;
    parts: number;
    template: number;
    n: number;
  }>(
    `SELECT b.id AS broadcast, r.channel_id AS channel, r.due_at AS due, r.parts,
            b.definition->>'$.message.template' IS NOT NULL AS template, count(*) AS n
       FROM broadcasts b JOIN broadcast_recipients r ON r.broadcast_id = b.id AND r.state = 'planned'
      WHERE b.state IN ('scheduled', 'running') AND b.id <> :except
      GROUP BY b.id, r.channel_id, r.due_at, r.parts`,
    { except },
  );
  return rows.map(({ broadcast, channel, due, parts, template, n }) => {
    const { id, partsTakeTurns } = lineOf(channel);
    return {
      broadcast,
      line: id,
      dueAt: due,
      turns: partsTakeTurns ? parts : 1,
      starts: template === 1,
      count: n,
    };
  });
}

/** What other broadcasts still have to spend, by account and currency. */
async function promisedBy(ctx: AppContext, except: string): Promise<Map<string, number>> {
  const rows = await ctx.store.select<{ account_id: string; currency: string; micros: number }>(
    `SELECT c.account_id, r.price_currency AS currency, sum(r.price_micros) AS micros
       FROM broadcasts b JOIN broadcast_recipients r ON r.broadcast_id = b.id AND r.state = 'planned'
       JOIN channels c ON c.id = r.channel_id
      WHERE b.state IN ('approval', 'scheduled', 'running', 'held') AND b.id <> :except AND r.price_micros IS NOT NULL
      GROUP BY c.account_id, r.price_currency`,
    { except },
  );
  return new Map(rows.map(({ account_id, currency, micros }) => [`${account_id} ${currency}`, micros]));
}
