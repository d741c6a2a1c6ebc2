/**
 * Keeps reminders in step with calendars: what is new is planned, what moved moves, what is
 * gone is cancelled. Answers to reminders mark their event.
 */
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { answerIn } from '../../../core/schedule/answer';
import { type ContactsFound, contactsIn } from '../../../core/schedule/contactsIn';
import type { FeedReading, FeedSpan, Occurrence } from '../../../core/schedule/feed';
import { recordOfEvent, remindersOf, usefulUntil } from '../../../core/schedule/reminders';
import { cancel } from '../../../core/steps/run';
import { mergeText } from '../../../core/text/merge';
import type { FeedEventRow, FeedRow, MessageRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { BrokenOff, GivenUp } from '../../../workers/apart';
import { type AppContext, noteChanges } from '../../context';
import { fault, recordFacts } from '../../proofs';
import { beginRuns, columnsOf, type RunInput, runOf } from '../../runs';
import { createBeside } from '../../workQueue';

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;
/** How far ahead reminders are planned. */
const HORIZON = 62 * DAY;
const LARGEST_FEED = 16 * 1024 * 1024;

/** Read beside one another: each may take as long as a download and an hour's worth of recurrences do. */
const AT_ONCE = 4;

export interface FeedReader {
  /** Begins to read every feed whose time has come. Returns in how many milliseconds the next one is due. */
  round(): Promise<number | undefined>;
  drained(): Promise<void>;
}

/** `ring` is called when one has been read. One that fails in a way nobody thought of says so, and delays no other. */
export function createFeedReader(ctx: AppContext, ring: () => void): FeedReader {
  const beside = createBeside(AT_ONCE, ring);
  return {
    async round() {
      let next: number | undefined;
      for (const feed of await ctx.store.feeds.readable()) {
        const dueIn = untilDue(ctx, feed);
        if (dueIn === undefined) continue;
        if (dueIn <= 0) beside.begin(feed.id, () => readOne(ctx, feed.id));
        else next = Math.min(next ?? Number.POSITIVE_INFINITY, dueIn);
      }
      return next;
    },
    drained: () => beside.drained(),
  };
}

/** Milliseconds until a feed is to be read, not above 0 when it is; undefined for one that is switched off. */
function untilDue(ctx: AppContext, feed: FeedRow): number | undefined {
  if ((feed.wanted_at ?? 0) > (feed.synced_at ?? 0)) return 0;
  return feed.disabled_at === null ? (feed.synced_at ?? 0) + feed.period_minutes * MINUTE - ctx.now() : undefined;
}

async function readOne(ctx: AppContext, id: string): Promise<void> {
  try {
    // As it is now: it may have been read since it was found to be due.
    const [feed] = await ctx.store.feeds.readableBy('id', [id]);
    if (feed && (untilDue(ctx, feed) ?? 1) <= 0) await syncFeed(ctx, feed);
  } catch (error) {
    ctx.log.error({ err: error, feed: id }, 'a calendar could not be read');
    await ctx.store
      .write((unit) => noteUnread(ctx, unit, id, `It could not be read: ${(error as Error).message}.`, ctx.now()))
      .catch((trouble) => ctx.log.error({ err: trouble, feed: id }, 'a calendar’s problem could not be noted'));
  }
}

async function syncFeed(ctx: AppContext, feed: FeedRow): Promise<void> {
  const at = ctx.now();
  if (feed.disabled_at !== null) {
    await ctx.store.write(async (unit) => {
      await cancelAll(unit, feed, at);
      // What was kept may be what could not be read: next time it is to come whole.
      await unit.feeds.change({ id: feed.id }, { synced_at: at });
    });
    return;
  }
  // Noted before anything of it is read: whatever reading does to this process, the next one does not begin with it.
  await ctx.store.write((unit) => unit.feeds.change({ id: feed.id }, { read_began_at: at }));
  const fetched = await fetchFeed(ctx, feed);
  const span = { from: at - DAY, to: at + HORIZON, zone: feed.zone };
  const reading = fetched.ok ? await readApart(ctx, fetched.text, span) : fetched;
  if (!reading) {
    await ctx.store.write((unit) => unit.feeds.change({ id: feed.id }, { read_began_at: null }));
    return;
  }
  await ctx.store.write(async (unit) => {
    if (!reading.ok) await noteUnread(ctx, unit, feed.id, reading.reason, at);
    else {
      await unit.feeds.change(
        { id: feed.id },
        {
          read_began_at: null,
          synced_at: at,
          etag: fetched.ok ? fetched.etag : null,
          problem: null,
          calendar_name: reading.name ?? null,
          problems: reading.problems.map(({ title, reason }) => ({ title, reason })),
        },
      );
      await plan(unit, feed, reading.occurrences, at);
    }
    await noteChanges(unit, at, [['run', feed.id]]);
  });
  ctx.engineWakeUp.ring('runs');
}

/** Undefined when it was broken off, as the engine stops. */
async function readApart(ctx: AppContext, text: string, span: FeedSpan): Promise<FeedReading | undefined> {
  try {
    return await ctx.apart.run('feed', { text, span });
  } catch (error) {
    if (error instanceof BrokenOff) return undefined;
    if (error instanceof GivenUp) return { ok: false, reason: error.message };
    throw error;
  }
}

/** It is asked for whole next time: what was kept may be what could not be read. */
async function noteUnread(ctx: AppContext, unit: Unit, id: string, reason: string, at: number): Promise<void> {
  await unit.feeds.change({ id }, { read_began_at: null, synced_at: at, problem: reason, etag: null });
  await recordFacts(unit, [fault(id, 'feed-not-read', ctx.now(), id)], at);
}

/** At start: calendars whose reading ended with an engine before wait for their next turn, and say so. */
export async function recoverFeeds(ctx: AppContext): Promise<number> {
  const feeds = (await ctx.store.feeds.all()).filter(({ read_began_at }) => read_began_at !== null);
  for (const { id, read_began_at } of feeds)
    await ctx.store.write(async (unit) => {
      const at = ctx.now();
      const reason = 'Windgap ended while it read this calendar. It is read again when its time comes.';
      await noteUnread(ctx, unit, id, reason, read_began_at ?? at);
      await noteChanges(unit, at, [['run', id]]);
    });
  return feeds.length;
}

type Fetched = { ok: true; text: string; etag: string | null } | { ok: false; reason: string };

/** The feed as it is; unchanged, as it was kept. */
async function fetchFeed(ctx: AppContext, feed: FeedRow): Promise<Fetched> {
  const kept = join(ctx.config.dataFolder, `${feed.id}.ics`);
  const known: Record<string, string> = feed.etag && existsSync(kept) ? { 'if-none-match': feed.etag } : {};
  try {
    const answer = await ctx.http({
      method: 'GET',
      url: ctx.sealer.open<string>(feed.sealed_url),
      headers: { accept: 'text/calendar', 'user-agent': 'Windgap', ...known },
      timeoutMs: 20_000,
      largest: LARGEST_FEED,
    });
    if (answer.status === 304) return { ok: true, text: readFileSync(kept, 'utf8'), etag: feed.etag };
    if (answer.status >= 300 && answer.status < 400)
      return {
        ok: false,
        reason: `The address leads to another one (${answer.status}): ${answer.headers.location ?? 'it does not say which'}.`,
      };
    if (answer.status !== 200)
      return {
        ok: false,
        reason: `The calendar answered ${answer.status}: the address has probably been replaced by a new one.`,
      };
    writeFileSync(`${kept}.new`, answer.body, { mode: 0o600 });
    renameSync(`${kept}.new`, kept);
    return { ok: true, text: answer.body, etag: answer.headers.etag ?? null };
  } catch (error) {
    return { ok: false, reason: `The calendar could not be reached: ${(error as Error).message}.` };
  }
}

/** Brings events and runs to what the calendar says now. */
async function plan(unit: Unit, feed: FeedRow, occurrences: readonly Occurrence[], at: number): Promise<void> {
  const known = new Map((await unit.feedEvents.all({ feed_id: feed.id })).map((row) => [row.event_key, row]));
  const changed: string[] = [];
  const runs: RunInput[] = [];
  for (const event of occurrences) {
    const found = contactsIn(event, feed.country ?? undefined);
    const reached = reachedBy(feed, found);
    const fingerprint = fingerprintOf(feed, event, reached.to);
    const before = known.get(event.key);
    if (before?.fingerprint === fingerprint && before.state !== 'cancelled') continue;
    const judged = judge(feed, event, reached, at);
    changed.push(event.key);
    runs.push(...judged.runs);
    const moved = before !== undefined && before.starts_at !== event.startsAt;
    await unit.feedEvents.put({
      feed_id: feed.id,
      event_key: event.key,
      title: event.title,
      starts_at: event.startsAt,
      all_day: event.allDay ?? null,
      ...found,
      fingerprint,
      state: judged.state,
      reason: judged.reason ?? null,
      // Whoever said yes said it to another time.
      answer: moved ? null : (before?.answer ?? null),
      answered_at: moved ? null : (before?.answered_at ?? null),
      answer_message_id: moved ? null : (before?.answer_message_id ?? null),
      changed_at: at,
    });
  }
  const present = new Set(occurrences.map(({ key }) => key));
  const gone = [...known.values()].filter(
    (row) =>
      row.state !== 'cancelled' && row.starts_at > at && row.starts_at < at + HORIZON && !present.has(row.event_key),
  );
  for (const row of gone)
    await unit.feedEvents.change(
      { feed_id: feed.id, event_key: row.event_key },
      { state: 'cancelled', reason: 'It is no longer in the calendar.', changed_at: at },
    );
  await cancelRuns(unit, feed, [...changed, ...gone.map(({ event_key }) => event_key)], at);
  await beginRuns(unit, runs, at);
}

/** Whom a reminder goes to, and from which channel: by telephone, or where no number stands in the event by mail. */
interface Reached {
  to: readonly string[];
  sender: FeedRow['sender'];
  byMail: boolean;
}

function reachedBy(feed: FeedRow, { phones, emails }: ContactsFound): Reached {
  if (phones.length > 0 || feed.mail_channel === null) return { to: phones, sender: feed.sender, byMail: false };
  return { to: emails, sender: { by: 'channel', channel: feed.mail_channel }, byMail: true };
}

function fingerprintOf(feed: FeedRow, event: Occurrence, reached: readonly string[]): string {
  const { startsAt, allDay, title, description, location, cancelled } = event;
  const parts = [startsAt, allDay, title, description, location, cancelled, reached, feed.changed_at, feed.disabled_at];
  return createHash('sha256').update(JSON.stringify(parts)).digest('base64url').slice(0, 22);
}

interface Judged {
  state: FeedEventRow['state'];
  reason?: string;
  runs: RunInput[];
}

/** Whether an event has reminders, and why not. */
function judge(feed: FeedRow, event: Occurrence, { to: reached, sender, byMail }: Reached, at: number): Judged {
  const skipped = (reason: string): Judged => ({ state: 'skipped', reason, runs: [] });
  if (event.cancelled) return { state: 'cancelled', reason: 'The calendar says it is cancelled.', runs: [] };
  if (reached.length === 0) {
    const hint = feed.country ? '' : ' Numbers without a country code are not read, as the feed has no country.';
    return skipped(
      `There is no phone number${byMail ? ' and no e-mail address' : ''} in its title, attendees or description.${hint}`,
    );
  }
  const due = remindersOf(event, { offsets: feed.offsets, dayTime: feed.day_time, zone: feed.zone }).filter(
    ({ at: due }) => due > at,
  );
  if (due.length === 0) return skipped('The time of its reminders had passed when it was first seen.');
  const { text, findings } = mergeText(feed.text, recordOfEvent(event, feed.zone));
  const [finding] = findings;
  if (finding) return skipped(`${finding.problem} ${finding.remedy}`);
  const runs = due.flatMap(({ at: until }) =>
    reached.map(
      (to): RunInput => ({
        appId: feed.app_id,
        source: 'feed',
        sourceId: feed.id,
        subjectId: event.key,
        steps: [
          { kind: 'wait', until },
          {
            kind: 'send',
            to,
            text: text.trim(),
            sender,
            ...(byMail ? { subject: event.title } : {}),
            tags: feed.tags,
            usefulUntil: usefulUntil(event, until),
          },
        ],
      }),
    ),
  );
  return { state: 'planned', runs };
}

async function cancelAll(unit: Unit, feed: FeedRow, at: number): Promise<void> {
  const planned = await unit.feedEvents.all({ feed_id: feed.id, state: 'planned' });
  await unit.feedEvents.change(
    { feed_id: feed.id, state: 'planned' },
    { state: 'cancelled', reason: 'The feed is switched off.', changed_at: at },
  );
  await cancelRuns(
    unit,
    feed,
    planned.map(({ event_key }) => event_key),
    at,
  );
}

async function cancelRuns(unit: Unit, feed: FeedRow, keys: readonly string[], at: number): Promise<void> {
  if (keys.length === 0) return;
  const open = await unit.runs.all({
    source_id: feed.id,
    subject_id: [...keys],
    state: ['due', 'waiting'],
    lease_owner: null,
  });
  await unit.runs.changeEach(
    'id',
    open.map((row) => ({
      id: row.id,
      ...columnsOf(cancel(runOf(row), at, 'The event was changed or cancelled')),
      ended_at: at,
    })),
  );
}

/** An answer counts for the latest reminder of so long ago. */
const ANSWERS_WITHIN = 3 * DAY;

/** Marks the events that these messages answer with yes or no, and tells who is to know. */
export async function noteAnswers(unit: Unit, messages: readonly MessageRow[], at: number): Promise<void> {
  for (const message of messages) {
    const answer = answerIn(message.text);
    if (!answer) continue;
    const [reminded] = await unit.select<{ feed: string; key: string }>(
      `SELECT source_id AS feed, subject_id AS key FROM runs
        WHERE source = 'feed' AND state = 'done' AND ended_at > :since AND json_extract(steps, '$[1].to') = :from
        ORDER BY ended_at DESC LIMIT 1`,
      { since: at - ANSWERS_WITHIN, from: message.sender },
    );
    if (!reminded) continue;
    const event = await unit.feedEvents.one({ feed_id: reminded.feed, event_key: reminded.key });
    const feed = await unit.feeds.one({ id: reminded.feed });
    if (!event || !feed) continue;
    await unit.feedEvents.change(
      { feed_id: feed.id, event_key: event.event_key },
      { answer, answered_at: at, answer_message_id: message.id, changed_at: at },
    );
    await noteChanges(unit, at, [['run', feed.id]]);
    if (feed.notify.length > 0) await beginRuns(unit, [noticeOf(feed, event, message, answer)], at);
  }
}

function noticeOf(feed: FeedRow, event: FeedEventRow, message: MessageRow, answer: 'yes' | 'no'): RunInput {
  const { day, date, time } = recordOfEvent(
    {
      title: event.title,
      description: '',
      location: '',
      startsAt: event.starts_at,
      allDay: event.all_day ?? undefined,
    },
    feed.zone,
  ).event as Record<string, string>;
  const what = `${event.title}, ${day} ${date}, ${time}`;
  const text = `${message.sender} answered ${answer} to the reminder of ${what}.\n\nIn their words: ${message.text}\n`;
  return {
    appId: feed.app_id,
    source: 'feed',
    sourceId: feed.id,
    subjectId: message.id,
    steps: [{ kind: 'notify', to: feed.notify, subject: `${answer === 'yes' ? 'Yes' : 'No'}: ${what}`, text }],
  };
}
