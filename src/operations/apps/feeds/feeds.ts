/** Calendar feeds: whose events become reminders. Set up here, read and kept in step by the engine. */
import { channelKind } from '../../../core/connect/channelKinds';
import { isZone } from '../../../core/schedule/clock';
import { EXAMPLE_EVENT } from '../../../core/schedule/exampleEvent';
import { recordOfEvent } from '../../../core/schedule/reminders';
import { mergeText } from '../../../core/text/merge';
import { newId } from '../../../store/ids';
import type { FeedEventRow, FeedRow, RunRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  found,
  invalid,
  invalidText,
  requireConfirmed,
  requireReached,
  requireRole,
  type View,
} from '../../context';
import { readMailAddresses } from '../../people';
import { beginProofs, groupProofs, type HopProof } from '../../proofs';
import { noteAutomation } from '../../runs';
import { readMessage, type SenderInput } from '../hooks';

const FEED_HOPS = ['call-in'] as const;

export interface FeedInput extends SenderInput {
  name: string;
  /** Empty when it stays as it is. */
  url: string;
  periodMinutes: number;
  zone: string;
  country?: string;
  dayTime: string;
  /** Minutes before. */
  offsets: number[];
  text: string;
  /** The mailbox over which those are reminded of whom only an e-mail address is there; none for nobody. */
  mailChannel?: string;
  tags?: string[];
  /** E-mail addresses in any form. */
  notify: string;
}

export async function addFeed(ctx: AppContext, actor: Actor, appId: string, input: FeedInput): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await requireReached(ctx.store, actor, 'app', appId);
  const at = ctx.now();
  const id = newId('fed', at);
  await ctx.store.write(async (unit) => {
    const app = found(await unit.apps.one({ id: appId }), 'app');
    const url = readUrl(input.url);
    await unit.feeds.insert([
      {
        id,
        app_id: app.id,
        ...(await readFeedInput(unit, input)),
        sealed_url: ctx.sealer.seal(url),
        shown_url: shown(url),
        etag: null,
        read_began_at: null,
        synced_at: null,
        wanted_at: at,
        calendar_name: null,
        problem: null,
        problems: [],
        created_at: at,
        changed_at: at,
        disabled_at: null,
      },
    ]);
    await beginProofs(unit, id, FEED_HOPS, at);
    await noteAutomation(
      unit,
      actor,
      at,
      { id, app_id: app.id },
      { action: 'feed.added', summary: `Added the calendar feed “${input.name.trim()}”` },
    );
  });
  ctx.engineWakeUp.ring('feeds');
  return { id };
}

export async function changeFeed(ctx: AppContext, actor: Actor, id: string, input: FeedInput): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.feeds.one({ id }), 'calendar feed');
    await requireReached(unit, actor, 'app', before.app_id);
    const url = input.url.trim() ? readUrl(input.url) : undefined;
    await unit.feeds.change(
      { id },
      {
        ...(await readFeedInput(unit, input)),
        ...(url ? { sealed_url: ctx.sealer.seal(url), shown_url: shown(url) } : {}),
        etag: null,
        wanted_at: at,
        changed_at: at,
      },
    );
    await noteAutomation(unit, actor, at, before, {
      action: 'feed.changed',
      summary: `Changed the calendar feed “${before.name}”`,
      touches: FEED_HOPS,
      note: 'it was changed',
    });
  });
  ctx.engineWakeUp.ring('feeds');
}

/** Reads it at once. */
export async function syncNow(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const feed = found(await ctx.store.feeds.one({ id }), 'calendar feed');
  await requireReached(ctx.store, actor, 'app', feed.app_id);
  await ctx.store.write((unit) => unit.feeds.change({ id }, { wanted_at: ctx.now() }));
  ctx.engineWakeUp.ring('feeds');
}

/** Without it no reminder leaves; those that are planned are cancelled at the next look. */
export async function switchFeed(ctx: AppContext, actor: Actor, id: string, on: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.feeds.one({ id }), 'calendar feed');
    await requireReached(unit, actor, 'app', before.app_id);
    await unit.feeds.change({ id }, { disabled_at: on ? null : at, wanted_at: at, etag: null });
    const word = on ? 'on' : 'off';
    await noteAutomation(unit, actor, at, before, {
      action: `feed.${word}`,
      summary: `Switched the calendar feed “${before.name}” ${word}`,
      touches: FEED_HOPS,
      note: `it was switched ${word}`,
    });
  });
  ctx.engineWakeUp.ring('feeds');
}

function readUrl(text: string): string {
  const url = text.trim().replace(/^webcals?:/i, (scheme) => (scheme.toLowerCase() === 'webcal:' ? 'http:' : 'https:'));
  if (URL.canParse(url) && /^https?:$/.test(new URL(url).protocol)) return url;
  throw invalidText(
    'url',
    'This is no address of a calendar feed.',
    'It begins with https or webcal and often ends in .ics.',
  );
}

/** Whoever knows the whole address reads the calendar. */
function shown(url: string): string {
  const { origin, pathname } = new URL(url);
  return `${origin}/…${pathname.slice(-8)}`;
}

async function readMailChannel(unit: Unit, id: string | undefined): Promise<string | null> {
  if (!id) return null;
  const channel = await unit.channels.one({ id });
  if (channel && channelKind(channel.kind).subjects) return channel.id;
  throw invalidText('mailChannel', 'This is no mailbox.', 'Choose a channel that carries mail, or none.');
}

async function readFeedInput(unit: Unit, input: FeedInput) {
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The feed has no name.', 'Say which calendar it is.');
  if (!isZone(input.zone)) throw invalidText('zone', `There is no time zone ${input.zone}.`, 'Such as Europe/London.');
  if (!/^([01]\d|2[0-3]):[0-5]\d$/.test(input.dayTime))
    throw invalidText('dayTime', 'This is no time of day.', 'Hours and minutes, such as 09:00.');
  const offsets = [...new Set(input.offsets)].sort((a, b) => b - a);
  if (
    offsets.length === 0 ||
    offsets.some((minutes) => !Number.isInteger(minutes) || minutes < 0 || minutes > 60 * 24 * 60)
  )
    throw invalidText('offsets', 'The time of the reminder is not chosen.', 'Choose at least one.');
  if (!Number.isInteger(input.periodMinutes) || input.periodMinutes < 1)
    throw invalidText('periodMinutes', 'A calendar is read every minute at most.', 'Choose how often.');
  const [finding] = mergeText(input.text, recordOfEvent(EXAMPLE_EVENT, input.zone)).findings;
  if (finding) throw invalid('text', finding);
  // The number comes from the event and not from a field.
  const { text, country, sender, tags } = await readMessage(unit, { ...input, phoneField: 'event' });
  return {
    name,
    mail_channel: await readMailChannel(unit, input.mailChannel),
    period_minutes: input.periodMinutes,
    zone: input.zone,
    country,
    day_time: input.dayTime,
    offsets,
    text,
    sender,
    tags,
    notify: readMailAddresses('notify', input.notify),
  };
}

export interface FeedEventView {
  event: View<FeedEventRow>;
  reminders: View<Pick<RunRow, 'id' | 'state' | 'due_at' | 'results' | 'next'>>[];
}

export interface FeedView {
  feed: View<Omit<FeedRow, 'sealed_url'>>;
  proofs: HopProof[];
  events: FeedEventView[];
  skipped: View<FeedEventRow>[];
}

const EVENTS_SHOWN = 30;

export async function listFeeds(ctx: AppContext, actor: Actor, appId: string): Promise<FeedView[]> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'app', appId);
  const feeds = await ctx.store.feeds.all({ app_id: appId }, { order: [['id', 'ASC']] });
  const proofs = groupProofs(await ctx.store.proofs.all({ subject_id: feeds.map(({ id }) => id) }), ctx.now());
  return Promise.all(feeds.map((feed) => viewFeed(ctx, feed, proofs.get(feed.id) ?? [])));
}

async function viewFeed(ctx: AppContext, { sealed_url: _, ...feed }: FeedRow, proofs: HopProof[]): Promise<FeedView> {
  const coming = ctx.store.feedEvents.read(
    await ctx.store.select<FeedEventRow>(
      `SELECT * FROM feed_events WHERE feed_id = :id AND starts_at > :since ORDER BY starts_at LIMIT ${EVENTS_SHOWN * 2}`,
      { id: feed.id, since: ctx.now() - 24 * 3_600_000 },
    ),
  );
  const shownEvents = coming
    .filter(({ state, answer }) => state !== 'skipped' || answer !== null)
    .slice(0, EVENTS_SHOWN);
  const runs = await ctx.store.runs.all(
    { source_id: feed.id, subject_id: shownEvents.map(({ event_key }) => event_key) },
    { order: [['due_at', 'ASC']] },
  );
  return {
    feed: asView(feed),
    proofs,
    events: shownEvents.map((event) => ({
      event: asView(event),
      reminders: asViews(runs.filter((run) => run.subject_id === event.event_key)),
    })),
    skipped: asViews(coming.filter(({ state }) => state === 'skipped').slice(0, EVENTS_SHOWN)),
  };
}
