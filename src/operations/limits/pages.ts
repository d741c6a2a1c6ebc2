/** The limits as a page shows them: what each is, how near it is, what it stopped, and for whom it is lifted. */
import { countryName } from '../../core/addresses/display';
import { type CountedBy, LIMITS, type Limit, type LimitName, limitNamed } from '../../core/limits/limits';
import { amountWords, placeWords } from '../../core/limits/wording';
import type { LimitLiftRow, SendingStopRow } from '../../store/schema/rows';
import { type Actor, type AppContext, requireRole } from '../context';
import { readAmounts, wordsOf } from './settings';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const SHOWN = 200;

export interface LimitView {
  name: LimitName;
  /** “40 texts to one number in an hour”. */
  words: string;
  help: string;
  unit: Limit['unit'];
  rise: boolean;
  /** Null: none. Money in micro-units. */
  amount: number | null;
  usual: number | null;
  /** What comes nearest to it now; absent where nothing was sent. */
  nearest?: { place: string; amount: string; share: number };
}

export interface StopView {
  key: string;
  limit: SendingStopRow['limit_name'];
  subject: string;
  /** What was stopped: “to +44 …”. */
  place: string;
  words: string;
  orders: number;
  held: boolean;
  by: string;
  /** Epoch milliseconds. */
  firstAt: number;
  lastAt: number;
  liftedUntil?: number;
}

export interface LiftView {
  limit: LimitLiftRow['limit_name'];
  subject: string;
  place: string;
  words: string;
  until: number;
  by: string;
}

export async function viewLimits(
  ctx: AppContext,
  actor: Actor,
): Promise<{ limits: LimitView[]; stops: StopView[]; lifts: LiftView[] }> {
  requireRole(actor, 'viewer');
  const now = ctx.now();
  const [amounts, near, stops, lifts, apps] = await Promise.all([
    readAmounts(ctx.store),
    busiestPlaces(ctx, now),
    readStops(ctx, now - 14 * DAY),
    ctx.store.limitLifts.all(),
    ctx.store.apps.all(),
  ]);
  const place = placesOf(apps);
  const open = lifts.filter(({ until }) => until > now);
  return {
    limits: (LIMITS as readonly (Limit & { name: LimitName })[]).map(({ name, by, hours, words, ...limit }) => {
      const amount = amounts[name];
      const top = near.get(`${by} ${hours}`);
      return {
        name,
        words,
        help: limit.help,
        unit: limit.unit,
        rise: limit.rise === true,
        amount,
        usual: limit.usual,
        ...(top
          ? {
              nearest: {
                place: place(by, top.subject),
                amount: amountWords(name, top.amount, top.subject),
                share: amount ? top.amount / amount : 0,
              },
            }
          : {}),
      };
    }),
    stops: stops.map((row) => viewOfStop(row, place, open)),
    lifts: open.map((lift) => ({
      limit: lift.limit_name,
      subject: lift.subject,
      place: placeOfStop(lift, place),
      words: wordsOf(lift.limit_name),
      until: lift.until,
      by: lift.by,
    })),
  };
}

type Places = (by: CountedBy, subject: string) => string;

/** Counted places by the names people know, apps by theirs. */
function placesOf(apps: readonly { id: string; name: string }[]): Places {
  const names = new Map(apps.map(({ id, name }) => [id, name]));
  return (by, subject) => placeWords(by, subject) ?? names.get(subject) ?? 'all of it';
}

function readStops(ctx: AppContext, from: number): Promise<SendingStopRow[]> {
  return ctx.store.select<SendingStopRow>(
    `SELECT * FROM sending_stops WHERE last_at > :from ORDER BY last_at DESC LIMIT ${SHOWN}`,
    { from },
  );
}

function viewOfStop(row: SendingStopRow, place: Places, lifts: readonly LimitLiftRow[]): StopView {
  const lift = lifts.find(({ limit_name, subject }) => limit_name === row.limit_name && subject === row.subject);
  return {
    key: `${row.limit_name} ${row.subject} ${row.day}`,
    limit: row.limit_name,
    subject: row.subject,
    place: placeOfStop(row, place),
    words: wordsOf(row.limit_name),
    orders: row.orders,
    held: row.held === 1,
    by: row.origin_name ?? '',
    firstAt: row.first_at,
    lastAt: row.last_at,
    ...(lift ? { liftedUntil: lift.until } : {}),
  };
}

function placeOfStop({ limit_name, subject }: Pick<SendingStopRow, 'limit_name' | 'subject'>, place: Places): string {
  if (limit_name !== 'codes-unread') return place(limitNamed(limit_name).by, subject);
  return subject.startsWith('+') ? `${subject}….` : countryName(subject);
}

/** Of each kind of place the one with most, in the last hour and the last day; single numbers by the hour only. */
async function busiestPlaces(ctx: AppContext, now: number): Promise<Map<string, { subject: string; amount: number }>> {
  const most = new Map<string, { subject: string; amount: number }>();
  for (const hours of [1, 24] as const) {
    const rows = await ctx.store.select<{ counted_by: CountedBy; subject: string; amount: number }>(
      `SELECT counted_by, subject, max(n) AS amount FROM
         (SELECT counted_by, subject, sum(amount) AS n FROM sending_counts
           WHERE slot > :from AND (:hours = 1 OR counted_by IN ('country', 'all', 'spend')) GROUP BY counted_by, subject)
        GROUP BY counted_by`,
      { from: now - hours * HOUR, hours },
    );
    for (const { counted_by, subject, amount } of rows) most.set(`${counted_by} ${hours}`, { subject, amount });
  }
  return most;
}

/** What limits stopped or held in the last hour, for the examination of the set-up. */
export async function recentStops(ctx: AppContext): Promise<StopView[]> {
  const now = ctx.now();
  const [stops, apps] = await Promise.all([readStops(ctx, now - HOUR), ctx.store.apps.all()]);
  return stops.map((row) => viewOfStop(row, placesOf(apps), []));
}

/** Forgets counts that decide nothing any more: two weeks tell what is usual of a range or a country, a day of the rest. */
export async function pruneCounts(ctx: AppContext): Promise<void> {
  const now = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.execute(
      `DELETE FROM sending_counts WHERE slot < :day AND counted_by NOT IN ('range', 'country') OR slot < :weeks`,
      { day: now - DAY - HOUR, weeks: now - 15 * DAY },
    );
    await unit.execute('DELETE FROM limit_lifts WHERE until < :now', { now });
  });
}
