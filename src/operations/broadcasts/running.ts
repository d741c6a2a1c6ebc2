/**
 * Running in the engine: what is due is taken into the outbox in batches, as many as its channels have turns for; what
 * became of it is watched; and it ends, or holds itself.
 */
import { CREDIT_RESERVE } from '../../core/broadcast/cost';
import { judgeFirst, reasonToHold, type Surroundings } from '../../core/broadcast/course';
import type { LeftOut } from '../../core/broadcast/leftOut';
import { type Judged, judge, type Planned } from '../../core/broadcast/plan';
import { type Identity, identityKey } from '../../core/identities/identityKinds';
import { bulkPace } from '../../core/pacing/bulk';
import type {
  BroadcastRecipientRow,
  BroadcastRow,
  ChannelRow,
  MessageRow,
  MessageTemplate,
} from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import { emitBroadcastEvent, noteTold } from '../apps/webhooks';
import { type AppContext, isOperationError, noteChanges, recordAudit, SYSTEM } from '../context';
import { holdersOf } from '../identities';
import { type Draft, queueBroadcast } from '../outbound';
import { syncProfiles } from '../profiles';
import type { Member } from './audience';
import { holdIn, pathProblem } from './course';
import { type BroadcastFacts, readFacts } from './facts';
import { balanceProblem, outcomesOf } from './outcomes';
import { type Read, readPeople } from './people';
import { standingOf } from './planning';
import { nextDueOver } from './watching';

/** Seconds of its pace that a channel has in the outbox, so that no turn is missed until the next look. */
const AHEAD_SECONDS = 4;
const LEAST_AHEAD = 20;
/** Messages written in one unit: as many as take so many milliseconds, since replies wait for a unit that has begun. */
const BATCH = { least: 10, most: 250, ms: 25 };
/** While one runs its outcomes are looked at this often, and its next ones queued. */
const LOOK_EVERY = 1000;

/** Returns how long until there is something to do again; undefined where nothing runs or is scheduled. */
export async function runBroadcasts(ctx: AppContext, leaveOff: () => boolean): Promise<number | undefined> {
  const rows = await ctx.store.select<{ id: string }>(
    `SELECT id FROM broadcasts WHERE state IN ('scheduled', 'running') ORDER BY changed_at`,
  );
  if (rows.length > 0) await syncProfiles(ctx);
  let next: number | undefined;
  for (const { id } of rows) {
    if (leaveOff()) return undefined;
    // One that cannot be worked on keeps no other from going out.
    const wait = await workOn(ctx, id, leaveOff).catch((error: unknown) => {
      ctx.log.error({ err: error, broadcast: id }, 'a broadcast could not be worked on');
      return LOOK_EVERY;
    });
    if (wait !== undefined) next = Math.min(next ?? wait, wait);
  }
  return next;
}

async function workOn(ctx: AppContext, id: string, leaveOff: () => boolean): Promise<number | undefined> {
  let row = await ctx.store.broadcasts.one({ id });
  if (row?.state === 'scheduled') {
    const wait = await begin(ctx, row);
    if (wait > 0) return wait;
    row = await ctx.store.broadcasts.one({ id });
  }
  if (row?.state !== 'running') return undefined;
  const now = ctx.now();
  const known = await readFacts(ctx, ctx.store, row.definition, now);
  if (!(await watch(ctx, row, known, now))) return undefined;
  const queued = await feed(ctx, row, known, leaveOff);
  if (queued === 0 && (await finishIfOver(ctx, row))) return undefined;
  return queued > 0 ? LOOK_EVERY / 4 : untilNextDue(ctx, row, now);
}

/** What is scheduled begins when the first of its messages is due. */
async function begin(ctx: AppContext, row: BroadcastRow): Promise<number> {
  const at = ctx.now();
  const first = await nextDue(ctx, row);
  if (first !== undefined && first > at) return Math.min(first - at, 60_000);
  await ctx.store.write(async (unit) => {
    const changed = await unit.broadcasts.change(
      { id: row.id, state: 'scheduled', version: row.version },
      { state: 'running', version: row.version + 1, started_at: at, changed_at: at },
    );
    if (changed === 0) return;
    await emitBroadcastEvent(unit, 'windgap.broadcast.started', { ...row, state: 'running' }, at);
    await noteChanges(unit, at, [['broadcast', row.id]]);
  });
  ctx.engineWakeUp.ring('webhooks');
  return 0;
}

async function nextDue(ctx: AppContext, { id, definition }: BroadcastRow): Promise<number | undefined> {
  const times = await Promise.all(definition.channels.map((channel) => nextDueOver(ctx.store, id, channel)));
  const known = times.filter((at) => at !== undefined);
  return known.length > 0 ? Math.min(...known) : undefined;
}

async function untilNextDue(ctx: AppContext, row: BroadcastRow, now: number): Promise<number> {
  const wait = ((await nextDue(ctx, row)) ?? now) - now;
  return Math.min(Math.max(wait, LOOK_EVERY), 30_000);
}

/** False where it was held. */
async function watch(ctx: AppContext, row: BroadcastRow, known: BroadcastFacts, now: number): Promise<boolean> {
  const receipts = async (ids: readonly string[]) =>
    known.facts.channels
      .filter(({ id }) => ids.includes(id))
      .some(({ accountId }) => {
        const connector = known.accounts.get(accountId)?.connector;
        return connector !== undefined && ctx.connectors.has(connector) && ctx.connectors.get(connector).givesReceipts;
      });
  const outcomes = await outcomesOf(ctx.store, row, now, false, receipts);
  const around: Surroundings = {
    broken: brokenWords(await pathProblem(ctx.store, row, now)) ?? (row.judged_from ? undefined : offWords(row, known)),
    template: templateProblem(known),
    balance: balanceProblem(row, [...known.accounts.values()], CREDIT_RESERVE),
  };
  const { rules } = row.definition;
  // Nothing is left to be held back.
  if (outcomes.waiting === 0 && !(await anyPlanned(ctx, row.id))) return true;
  const why = reasonToHold(rules, outcomes, around);
  if (why) return hold(ctx, row, why);
  if (row.phase === 'all') return true;
  const left = await leftOf(ctx, row.id);
  if (left < rules.first && (await anyPlanned(ctx, row.id))) return true;
  const verdict = judgeFirst(rules, outcomes, around, { lastLeftAt: await lastLeftAt(ctx, row.id, now), now });
  if (verdict.say === 'hold') return hold(ctx, row, verdict.why);
  if (verdict.say === 'go on') await goOn(ctx, row, left);
  return true;
}

const brokenWords = (path: Awaited<ReturnType<typeof pathProblem>>) =>
  path?.state === 'broken' ? path.words : undefined;

/**
 * A channel that is gone or cannot send at all: it is no reason to leave out everybody it was planned for. Whoever resumes it
 * all the same has been told, and then each goes another way or is left out.
 */
function offWords({ definition }: BroadcastRow, { facts }: BroadcastFacts): string | undefined {
  for (const id of definition.channels) {
    const channel = facts.channels.find((each) => each.id === id);
    if (!channel) return 'One of its channels was removed.';
    if (channel.disabled) return `${channel.accountName}, over which ${channel.name} sends, is switched off.`;
    if (!channel.sendsTexts) return `${channel.name} does not send any more.`;
  }
  return undefined;
}

/** Only where nothing is left to say it with: a text stands in on channels that do not carry the template. */
function templateProblem({ facts: { template } }: BroadcastFacts): string | undefined {
  return template?.unserved === undefined
    ? undefined
    : `${template.name} cannot be sent any more: ${template.unserved}`;
}

async function hold(ctx: AppContext, row: BroadcastRow, why: Parameters<typeof holdIn>[3]): Promise<false> {
  await ctx.store.write(async (unit) => {
    const now = await unit.broadcasts.one({ id: row.id, state: 'running', version: row.version });
    if (!now) return;
    const at = ctx.now();
    await holdIn(unit, now, at, why);
    await recordAudit(unit, SYSTEM, at, {
      action: 'broadcast.held',
      subject: row.id,
      summary: `The broadcast ${row.name} held itself: ${why.problem}`,
    });
  });
  return false;
}

/** The first ones went well: all others follow. */
async function goOn(ctx: AppContext, row: BroadcastRow, left: number): Promise<void> {
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const changed = await unit.broadcasts.change(
      { id: row.id, state: 'running', version: row.version },
      { phase: 'all' },
    );
    if (changed === 0) return;
    await recordAudit(unit, SYSTEM, at, {
      action: 'broadcast.went-on',
      subject: row.id,
      summary: `The first ${left} of the broadcast ${row.name} went well; the others follow`,
    });
    await noteChanges(unit, at, [['broadcast', row.id]]);
  });
  row.phase = 'all';
}

/** Those that were taken into the outbox, whatever has become of them. */
async function leftOf(ctx: AppContext, id: string): Promise<number> {
  const [row] = await ctx.store.select<{ n: number | null }>(
    `SELECT sum(n) AS n FROM broadcast_counts WHERE broadcast_id = :id AND state NOT IN ('left-out', 'planned')`,
    { id },
  );
  return row?.n ?? 0;
}

async function anyPlanned(ctx: AppContext, id: string): Promise<boolean> {
  const [row] = await ctx.store.select<{ n: number | null }>(
    `SELECT sum(n) AS n FROM broadcast_counts WHERE broadcast_id = :id AND state = 'planned'`,
    { id },
  );
  return (row?.n ?? 0) > 0;
}

/** While few have left this looks at each. */
async function lastLeftAt(ctx: AppContext, id: string, now: number): Promise<number> {
  const [row] = await ctx.store.select<{ at: number | null }>(
    `SELECT max(m.state_at) AS at FROM broadcast_recipients r JOIN messages m ON m.id = r.message_id
      WHERE r.broadcast_id = :id AND r.state NOT IN ('left-out', 'planned')`,
    { id },
  );
  return row?.at ?? now;
}

/** How many fit next time, by how long so many took. */
function fitting(batch: number, looked: number, ms: number): number {
  if (looked === 0) return batch;
  const wanted = Math.round((looked * BATCH.ms) / Math.max(1, ms));
  return Math.min(BATCH.most, Math.max(BATCH.least, Math.min(wanted, 2 * batch)));
}

/** Takes what is due into the outbox, each channel as far as it has turns. Returns how many were taken. */
async function feed(
  ctx: AppContext,
  row: BroadcastRow,
  known: BroadcastFacts,
  leaveOff: () => boolean,
): Promise<number> {
  let left =
    row.phase === 'first' ? row.definition.rules.first - (await leftOf(ctx, row.id)) : Number.POSITIVE_INFINITY;
  let taken = 0;
  let batch = BATCH.least;
  for (const { id, pace, allowed } of pacesOf(row, known)) {
    const [waiting] = await ctx.store.select<{ n: number }>(
      `SELECT count(*) AS n FROM broadcast_recipients WHERE broadcast_id = :id AND state IN ('queued', 'sending') AND channel_id = :channel`,
      { id: row.id, channel: id },
    );
    const full = Math.max(LEAST_AHEAD, Math.ceil(pace * AHEAD_SECONDS));
    // A few more are not worth a unit of their own: what is there lasts until the next looks.
    if ((waiting?.n ?? 0) > full / 2) continue;
    let room = Math.min(full - (waiting?.n ?? 0), allowed);
    while (room > 0 && left > 0 && !leaveOff()) {
      const most = Math.min(room, left, batch);
      const { looked, queued, ms = 0, stop } = await takeBatchOrEach(ctx, row, known, id, most);
      batch = fitting(batch, looked, ms);
      room -= queued;
      left -= queued;
      taken += queued;
      if (stop) return taken;
      if (looked < most) break;
    }
  }
  return taken;
}

interface Turns {
  id: string;
  pace: number;
  /** Conversations that may be begun now. */
  allowed: number;
}

/** Channels that are gone are among them: whoever was planned for one is judged anew. */
function pacesOf({ definition }: BroadcastRow, { lines, lineOf }: BroadcastFacts): Turns[] {
  return definition.channels.map((id) => {
    const line = lines.find((each) => each.id === lineOf(id).id);
    const allowance = definition.message.template && line?.allowance;
    const allowed = allowance ? allowance.most - allowance.begun.length : Number.POSITIVE_INFINITY;
    return { id, pace: bulkPace(line?.pace ?? 1), allowed };
  });
}

/** A batch that fails is taken one by one; whoever cannot be worked on alone is left out with the reason, and keeps nobody. */
async function takeBatchOrEach(...[ctx, row, known, channelId, most]: Parameters<typeof takeBatch>): Promise<Batch> {
  try {
    return await takeBatch(ctx, row, known, channelId, most);
  } catch (error) {
    if (isStoreTrouble(error)) throw error;
    const sum: Batch = { looked: 0, queued: 0 };
    while (sum.looked < most) {
      const one = await takeBatch(ctx, row, known, channelId, 1).catch((why: unknown) =>
        leaveOutNext(ctx, row, channelId, why),
      );
      if (one.looked === 0) return sum;
      sum.looked += 1;
      sum.queued += one.queued;
      if (one.stop) return { ...sum, stop: true };
    }
    return sum;
  }
}

async function leaveOutNext(ctx: AppContext, row: BroadcastRow, channel: string, why: unknown): Promise<Batch> {
  if (isStoreTrouble(why)) throw why;
  ctx.log.error({ err: why, broadcast: row.id }, 'a recipient cannot be worked on');
  const changed = await ctx.store.write((unit) =>
    unit.execute(
      `UPDATE broadcast_recipients SET state = 'left-out', reason = 'refused', said = :said
        WHERE broadcast_id = :id AND seq = (SELECT seq FROM broadcast_recipients WHERE broadcast_id = :id AND state = 'planned'
          AND channel_id = :channel AND due_at <= :at ORDER BY due_at, seq LIMIT 1)`,
      { id: row.id, channel, at: ctx.now(), said: why instanceof Error ? why.message.slice(0, 200) : 'unknown' },
    ),
  );
  return { looked: changed, queued: 0 };
}

interface Batch {
  /** Recipients that were due. */
  looked: number;
  queued: number;
  /** For so long others had to wait. */
  ms?: number;
  /** It is not running any more. */
  stop?: true;
}

interface JudgedAgain {
  recipient: BroadcastRecipientRow;
  judged: Judged;
}

/**
 * Recipients that are due are judged again, since the plan was made on the facts of its time; then, in one unit, messages for
 * those who still get it, and a reason for the others. What is judged before the unit begins keeps nobody else waiting for it.
 */
async function takeBatch(
  ctx: AppContext,
  row: BroadcastRow,
  known: BroadcastFacts,
  channelId: string,
  most: number,
): Promise<Batch> {
  const at = ctx.now();
  const due = ctx.store.broadcastRecipients.read(
    await ctx.store.select<BroadcastRecipientRow>(
      `SELECT * FROM broadcast_recipients WHERE broadcast_id = :id AND state = 'planned' AND channel_id = :channel
          AND due_at <= :at ORDER BY due_at, seq LIMIT :most`,
      { id: row.id, channel: channelId, at, most },
    ),
  );
  if (due.length === 0) return { looked: 0, queued: 0 };
  const facts = { ...known.facts, now: at };
  const members = await membersNow(ctx.store, due);
  const read = await readPeople(ctx.store, members, { country: facts.country, capSince: known.capSince });
  const again = due.map((recipient, index) => ({ recipient, judged: judge(facts, (read[index] as Read).person) }));
  return ctx.store.write(async (unit) => {
    const began = ctx.clock.elapsed();
    const batch = await takeJudged(ctx, unit, { row, known, channelId, again, at });
    return { ...batch, ms: ctx.clock.elapsed() - began };
  });
}

/** Whoever declined since is refused by what queues; whoever was given the address since gets it, as it is the address that counts. */
async function takeJudged(
  ctx: AppContext,
  unit: Unit,
  {
    row,
    known,
    channelId,
    again,
    at,
  }: { row: BroadcastRow; known: BroadcastFacts; channelId: string; again: readonly JudgedAgain[]; at: number },
): Promise<Batch> {
  const now = await unit.broadcasts.one({ id: row.id });
  if (now?.state !== 'running' || now.version !== row.version) return { looked: 0, queued: 0, stop: true };
  const waiting = new Set(
    (
      await unit.select<{ seq: number }>(
        `SELECT seq FROM broadcast_recipients WHERE broadcast_id = :id AND state = 'planned' AND seq IN (:seqs)`,
        { id: row.id, seqs: again.map(({ recipient }) => recipient.seq) },
      )
    ).map(({ seq }) => seq),
  );
  const going: { recipient: BroadcastRecipientRow; message: Planned }[] = [];
  for (const { recipient, judged } of again) {
    if (!waiting.has(recipient.seq)) continue;
    if (!judged.goes) await leaveOut(unit, recipient, judged.why);
    else if (isTooLate(row, recipient, at)) await leaveOut(unit, recipient, { code: 'too-late', channelId });
    else if (judged.message.channelId !== channelId || waitsOn(row, judged.message, at))
      await moveTo(unit, recipient, judged.message);
    else going.push({ recipient, message: judged.message });
  }
  const channel = await unit.channels.one({ id: channelId });
  if (!channel) return { looked: again.length, queued: 0 };
  const drafts = going.map(({ message, recipient }) => draftOf(row, channel, known.facts.template, message, recipient));
  const results = await queueBroadcast(ctx, unit, drafts, at);
  const queued: { seq: number; message: MessageRow }[] = [];
  let limit: string | undefined;
  for (const [index, { recipient }] of going.entries()) {
    const result = results[index];
    if (!isOperationError(result)) queued.push({ seq: recipient.seq, message: result as MessageRow });
    else if (result.kind === 'too-often') limit = result.message;
    else await leaveOut(unit, recipient, { code: 'declined', channelId });
  }
  await noteQueued(unit, row.id, queued);
  await tellWhoOrdered(unit, row, queued);
  if (limit !== undefined)
    await holdIn(unit, now, at, {
      code: 'limit',
      problem: limit,
      remedy: 'Lift the limit for a while on the page of limits if all of it is meant, and resume.',
    });
  await noteChanges(unit, at, [['broadcast', row.id]]);
  return { looked: again.length, queued: queued.length, ...(limit === undefined ? {} : { stop: true as const }) };
}

/** The app that ordered it sees its messages, and is told what becomes of them. */
async function tellWhoOrdered(
  unit: Unit,
  { created_by }: BroadcastRow,
  queued: readonly { message: MessageRow }[],
): Promise<void> {
  if (!created_by.startsWith('app_')) return;
  await noteTold(
    unit,
    queued.map(({ message }) => message),
    [created_by],
  );
}

async function noteQueued(
  unit: Unit,
  id: string,
  queued: readonly { seq: number; message: MessageRow }[],
): Promise<void> {
  if (queued.length === 0) return;
  await unit.execute(
    `UPDATE broadcast_recipients
        SET state = 'queued', message_id = k.value->>1, contact_id = k.value->>2, parts = k.value->>3
       FROM json_each(:rows) k WHERE broadcast_id = :id AND seq IN (:seqs) AND seq = k.value->>0`,
    {
      id,
      // Named once more, as else each row of the broadcast would be looked at.
      seqs: queued.map(({ seq }) => seq),
      rows: JSON.stringify(queued.map(({ seq, message }) => [seq, message.id, message.contact_id, message.parts])),
    },
  );
}

async function leaveOut(unit: Unit, { broadcast_id, seq, value }: BroadcastRecipientRow, why: LeftOut): Promise<void> {
  await unit.broadcastRecipients.change({ broadcast_id, seq }, standingOf({ goes: false, why }, value ?? undefined));
}

/** To another channel or another time; somebody whose other address has it already is left out. */
async function moveTo(
  unit: Unit,
  { broadcast_id, seq, value }: BroadcastRecipientRow,
  message: Planned,
): Promise<void> {
  const same = await unit.broadcastRecipients.all({ broadcast_id, ...message.identity });
  const taken = same.some((other) => other.seq !== seq && other.state !== 'left-out');
  const judged = taken
    ? { goes: false as const, why: { code: 'duplicate' as const, said: message.identity.value } }
    : { goes: true as const, message };
  await unit.broadcastRecipients.change({ broadcast_id, seq }, standingOf(judged, value ?? undefined));
}

/** Its time is that of the plan; only quiet hours that began meanwhile move it on. */
function waitsOn({ definition }: BroadcastRow, { due }: Planned, at: number): boolean {
  return definition.quietHours && due.quiet === true && due.at > at;
}

/** Whoever has the address now: contacts may have been merged or split since the plan. */
async function membersNow(from: AppContext['store'], due: readonly BroadcastRecipientRow[]): Promise<Member[]> {
  const identities = due.map(({ kind, scope, value }) => ({
    kind: kind ?? 'phone',
    scope: scope ?? '',
    value: value ?? '',
  }));
  const holders = await holdersOf(from, identities);
  return due.map(({ contact_id, fields, value }, index): Member => {
    if (fields !== null) return { contactId: null, heldOut: false, line: { address: value ?? '', fields } };
    const holder = holders.get(identityKey(identities[index] as Identity));
    return { contactId: holder?.contact_id ?? contact_id, heldOut: false };
  });
}

function isTooLate({ definition }: BroadcastRow, { due_at }: BroadcastRecipientRow, at: number): boolean {
  return definition.usefulMinutes !== null && (due_at ?? at) + definition.usefulMinutes * 60_000 <= at;
}

function draftOf(
  row: BroadcastRow,
  channel: ChannelRow,
  template: BroadcastFacts['facts']['template'],
  message: Planned,
  { due_at }: BroadcastRecipientRow,
): Draft {
  const useful = row.definition.usefulMinutes;
  return {
    order: {
      actor: { kind: 'broadcast', id: row.id, name: row.name },
      input: {
        text: message.text,
        ...(useful === null ? {} : { validUntil: (due_at ?? message.due.at) + useful * 60_000 }),
      },
    },
    channel,
    recipient: message.identity.value,
    said: {
      text: message.text,
      choices: message.choices,
      ...(message.template && template ? { template: templateOf(message, template) } : {}),
    },
    subject: message.subject ?? null,
  };
}

function templateOf(
  { template, language, otherLanguage }: Planned,
  { id, version = 0, remoteId, edition }: NonNullable<BroadcastFacts['facts']['template']>,
): MessageTemplate {
  return {
    id,
    version,
    remote_id: remoteId ?? '',
    edition: edition ?? '',
    language: language ?? '',
    ...(otherLanguage ? { instead_of: otherLanguage } : {}),
    values: template?.values ?? {},
    numbered: template?.numbered ?? [],
  };
}

/** Over when nobody waits any more; what is not known of single messages is told by those. */
async function finishIfOver(ctx: AppContext, row: BroadcastRow): Promise<boolean> {
  return ctx.store.write(async (unit: Unit) => {
    const [open] = await unit.select<{ n: number | null }>(
      `SELECT sum(n) AS n FROM broadcast_counts WHERE broadcast_id = :id AND state IN ('planned', 'queued', 'sending')`,
      { id: row.id },
    );
    if ((open?.n ?? 0) > 0) return false;
    const at = ctx.now();
    const changed = await unit.broadcasts.change(
      { id: row.id, state: 'running', version: row.version },
      { state: 'finished', version: row.version + 1, ended_at: at, changed_at: at },
    );
    if (changed > 0) {
      await emitBroadcastEvent(unit, 'windgap.broadcast.finished', { ...row, state: 'finished' }, at);
      await recordAudit(unit, SYSTEM, at, {
        action: 'broadcast.finished',
        subject: row.id,
        summary: `The broadcast ${row.name} is finished`,
      });
      await noteChanges(unit, at, [['broadcast', row.id]]);
    }
    return true;
  });
}
