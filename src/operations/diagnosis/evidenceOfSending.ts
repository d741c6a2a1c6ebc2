/** Evidence of what was sent: what messages met, what was refused at once, and what came twice. */
import { type CauseCode, isCauseCode } from '../../core/delivery/causes';
import type { Healed, Named } from '../../core/diagnosis/diagnose';
import type { Symptom } from '../../core/diagnosis/symptoms';
import type { MessageRow } from '../../store/schema/rows';
import type { AppContext } from '../context';
import { foreseeRefusal } from '../outbound';
import { askText } from './askText';
import {
  type Found,
  nothing,
  OF_ONE_PERSON,
  PERSONAL,
  RECEIPT_PATIENCE,
  type Scope,
  seen,
  told,
  wasTaken,
} from './complaintEvidence';

/** An order and its like within this are one thing asked for twice. */
const SAME_ORDER = 10 * 60_000;

const LOOKED_AT = 300;

/** So many that failed alike are no accident, though others arrived meanwhile. */
const MANY = 3;

type OutRow = Pick<MessageRow, 'id' | 'state' | 'cause' | 'recipient' | 'channel_id' | 'created_at' | 'text'> & {
  account: string;
  waiting_cause: CauseCode | null;
  said: string | null;
  /** What it is like: one like it that arrives shows that this one would. */
  likeness: string;
};

const arrived = ({ state }: Pick<OutRow, 'state'>) => state === 'delivered' || state === 'read';

/** Why a message has not arrived, where that is known. */
const codeOf = ({ cause: own, state, waiting_cause }: OutRow) =>
  own ?? (['queued', 'sending', 'uncertain'].includes(state) ? waiting_cause : null);

export async function outEvidence(ctx: AppContext, symptom: Symptom, scope: Scope, since: number): Promise<Found> {
  const rows = await ctx.store.select<OutRow>(
    `SELECT m.id, m.state, m.cause, m.recipient, m.channel_id, m.created_at, m.text, a.name AS account,
            coalesce(m.country, '') || '|' || m.encoding || '|' || (m.parts > 1) || '|' || (m.media IS NOT NULL)
              || '|' || coalesce(m.template->>'$.id', '') AS likeness,
            (SELECT e.cause FROM message_events e WHERE e.message_id = m.id AND e.cause IS NOT NULL ORDER BY e.id DESC LIMIT 1) AS waiting_cause,
            (SELECT e.detail->>'$.said' FROM message_events e WHERE e.message_id = m.id AND e.cause IS NOT NULL ORDER BY e.id DESC LIMIT 1) AS said
       FROM messages m JOIN channels c ON c.id = m.channel_id JOIN provider_accounts a ON a.id = c.account_id
      WHERE m.direction = 'out' AND m.created_at > :since
        ${scope.channel ? 'AND m.channel_id = :channel' : ''} ${scope.phone ? 'AND m.recipient = :phone' : ''}
        ${scope.app ? "AND m.origin_kind = 'app' AND m.origin_id = :app" : ''}
      ORDER BY m.id DESC LIMIT ${LOOKED_AT}`,
    { since, channel: scope.channel ?? '', phone: scope.phone ?? '', app: scope.app ?? '' },
  );
  if (rows.length === 0) return nothing();
  const { standing, passed } = sorted(rows, symptom, scope);
  const named = new Map<CauseCode, Named>();
  for (const [code, group] of standing) {
    const [row] = group as [OutRow];
    const ofOne = concernsOne(code, group, rows);
    // One person's phone or STOP is no reason for what is said of everybody, while others get theirs.
    if (ofOne && symptom !== 'only-some' && !scope.phone) continue;
    named.set(
      code,
      told(code, {
        who: row.account,
        saying: row.said ?? undefined,
        about: row.recipient,
        href: `/watch/messages/${row.id}`,
        at: row.created_at,
        messages: group.length,
        ...(ofOne ? { ofOne } : {}),
        ...(scope.message && !group.some(({ id }) => id === scope.message) ? { ofOthers: true } : {}),
      }),
    );
  }
  const newest = rows[0] as OutRow;
  const link = newest.state === 'queued' ? await unboundTrunk(ctx, newest.channel_id) : undefined;
  if (link && !named.has(link.cause))
    named.set(link.cause, told(link.cause, { who: newest.account, saying: link.said, at: newest.created_at }));
  const healed = healedOf(rows, passed);
  return {
    named: [...named.values()],
    observed: await observedOf(ctx, since, rows),
    traffic: true,
    ...(healed ? { healed } : {}),
  };
}

/** Whether nobody but one person is concerned, while others get theirs. */
function concernsOne(code: CauseCode, group: readonly OutRow[], rows: readonly OutRow[]): boolean {
  const people = new Set(group.map(({ recipient }) => recipient));
  const first = group.at(-1)?.created_at ?? 0;
  const whole = OF_ONE_PERSON.includes(code);
  // Whom one person's phone fails, others got theirs at about the time; whom a channel fails, nobody since.
  const from = whole ? first - 3_600_000 : first;
  const others = rows.some((row) => arrived(row) && !people.has(row.recipient) && row.created_at >= from);
  return others && (whole || people.size === 1);
}

/**
 * What failed and still would, by cause and newest first, and what failed and is over: one to the same person, or
 * like it to somebody else, has arrived since.
 */
function sorted(rows: readonly OutRow[], symptom: Symptom, scope: Scope) {
  const standing = new Map<CauseCode, OutRow[]>();
  const passed: OutRow[] = [];
  const reached = new Set<string>();
  const well = new Set<string>();
  const newestWell = rows.find(arrived)?.created_at ?? 0;
  for (const row of rows) {
    const code = codeOf(row);
    if (arrived(row)) {
      reached.add(row.recipient);
      well.add(row.likeness);
    } else if (!code) continue;
    else if (
      reached.has(row.recipient) ||
      (well.has(row.likeness) && !OF_ONE_PERSON.includes(code) && symptom !== 'only-some')
    )
      passed.push(row);
    else standing.set(code, [...(standing.get(code) ?? []), row]);
  }
  // What failed before others arrived, and is not many, says nothing of now, unless it is about the very person.
  if (symptom !== 'only-some' && !scope.phone)
    for (const [code, group] of standing)
      if ((group[0]?.created_at ?? 0) < newestWell && group.length < MANY) {
        standing.delete(code);
        passed.push(...group);
      }
  return { standing, passed };
}

/** From when to when the path was broken, and what was lost; undefined where it was not, or only for one person. */
function healedOf(rows: readonly OutRow[], passed: readonly OutRow[]): Healed | undefined {
  const failed = passed.filter((row) => {
    const code = codeOf(row);
    return row.state === 'failed' && code !== null && !OF_ONE_PERSON.includes(code) && code !== 'opted-out';
  });
  if (failed.length === 0) return undefined;
  const times = failed.map(({ created_at }) => created_at);
  const until = Math.max(...times);
  const since = rows.filter((row) => arrived(row) && row.created_at > until).at(-1)?.created_at;
  if (since === undefined) return undefined;
  const lost = failed.filter(
    ({ recipient, text, created_at }) =>
      !rows.some(
        (row) => arrived(row) && row.recipient === recipient && row.text === text && row.created_at > created_at,
      ),
  );
  return {
    from: Math.min(...times),
    until,
    wellSince: since,
    codes: [...new Set(failed.flatMap((row) => codeOf(row) ?? []))],
    lost: lost.map(({ id }) => id),
    kind: 'messages',
  };
}

async function observedOf(ctx: AppContext, since: number, rows: readonly OutRow[]) {
  const newest = rows[0] as OutRow;
  const observed = [seen('out-asked', true)];
  const href = `/watch/messages/${newest.id}`;
  const taken =
    ['sent', 'delivered', 'read'].includes(newest.state) || (newest.state === 'failed' && wasTaken(newest.cause));
  const old = ctx.now() - newest.created_at;
  if (taken || newest.state === 'failed' || old > 10_000) observed.push(seen('out-taken', taken, undefined, href));
  const came = arrived(newest);
  if (came || newest.state === 'failed' || old > RECEIPT_PATIENCE)
    observed.push(seen('out-delivered', came, undefined, href));
  const whole = rows.findIndex(arrived);
  const firstBad = (whole < 0 ? rows : rows.slice(0, whole)).at(-1)?.created_at;
  if (firstBad !== undefined && !came) {
    const [others] = await ctx.store.select<{ n: number }>(
      `SELECT count(*) AS n FROM messages WHERE channel_id = :channel AND direction = 'out' AND state IN ('delivered', 'read')
          AND created_at >= :from AND recipient <> :recipient`,
      { channel: newest.channel_id, from: Math.max(since, firstBad - 3_600_000), recipient: newest.recipient },
    );
    observed.push(seen('others-delivered', (others?.n ?? 0) > 0));
  }
  return observed;
}

/** Why nothing leaves over a channel’s trunk now; undefined for any other channel. */
async function unboundTrunk(
  ctx: AppContext,
  channel: string,
): Promise<{ cause: CauseCode; said?: string } | undefined> {
  const row = await ctx.store.channels.one({ id: channel });
  const state = row && (await ctx.store.trunkStates.one({ account_id: row.account_id }));
  if (!state || state.state === 'bound') return undefined;
  return { cause: state.cause ?? 'trunk-down', ...(state.said ? { said: state.said } : {}) };
}

/** Orders refused at once since the last that arrived; all of the day where only some are concerned. */
export async function refusedOrders(
  ctx: AppContext,
  symptom: Symptom,
  { channel, app, phone }: Scope,
  since: number,
): Promise<Found> {
  const rows = await ctx.store.select<{
    cause: CauseCode;
    said: string;
    at: number;
    who: string;
    recipient: string | null;
    channel_id: string | null;
    arrived_at: number | null;
  }>(
    `SELECT r.cause, r.said, r.at, r.origin_name AS who, r.recipient, r.channel_id,
            (SELECT max(m.created_at) FROM messages m WHERE m.direction = 'out' AND m.state IN ('delivered', 'read')
                ${channel ? 'AND m.channel_id = :channel' : ''} ${phone ? 'AND m.recipient = :phone' : ''}) AS arrived_at
       FROM refused_orders r WHERE r.at > :since ${channel ? 'AND (r.channel_id = :channel OR r.channel_id IS NULL)' : ''}
        ${app ? "AND r.origin_kind = 'app' AND r.origin_id = :app" : ''} ${phone ? 'AND r.recipient = :phone' : ''}
      ORDER BY r.id DESC LIMIT 50`,
    { since, channel: channel ?? '', app: app ?? '', phone: phone ?? '' },
  );
  const standing = rows.filter(({ at, arrived_at }) => symptom === 'only-some' || at > (arrived_at ?? 0));
  const named = new Map<CauseCode, Named>();
  const people = (code: CauseCode) =>
    new Set(standing.filter((each) => each.cause === code).map((each) => each.recipient));
  for (const { cause: code, said, at, who, recipient, channel_id, arrived_at } of standing) {
    // One person's STOP answers for nobody else, unless it is an app that asks why just this was refused.
    const ofOne = PERSONAL.has(code) && arrived_at !== null && people(code).size === 1;
    if (ofOne && symptom !== 'only-some' && !phone && !app) continue;
    if (!named.has(code) && (await stillRefused(ctx, recipient, channel_id)))
      named.set(code, told(code, { said: `${who} was refused: ${said}`, at, ...(ofOne ? { ofOne } : {}) }));
  }
  if (named.size === 0) return nothing();
  return {
    named: [...named.values()],
    observed: [seen('out-asked', true), seen('out-taken', false, 'The latest orders were refused at once')],
    traffic: true,
  };
}

/** What was fixed since does not count. */
async function stillRefused(ctx: AppContext, recipient: string | null, channel: string | null): Promise<boolean> {
  if (!recipient || !channel) return true;
  return (await foreseeRefusal(ctx, { to: recipient, from: channel, text: 'Windgap asks' })) !== undefined;
}

/** What the provider says of the text that is meant, where no receipt says anything of it. */
export async function askedOfText(
  ctx: AppContext,
  message: { id: string; state: string; person: string; at: number } | undefined,
  provider: string,
): Promise<Pick<Found, 'named' | 'observed'>> {
  const asked = message?.state === 'sent' ? await askText(ctx, message.id) : undefined;
  if (!message || !asked?.known) return nothing();
  const href = `/watch/messages/${message.id}`;
  const words = { who: provider, saying: asked.said, about: message.person, href, at: asked.at ?? asked.askedAt };
  if (asked.state === 'undelivered')
    return { named: [told(asked.cause ?? 'undelivered-unknown', words)], observed: [] };
  const arrived = asked.state === 'delivered' || asked.state === 'read';
  if (!arrived || asked.askedAt - message.at < RECEIPT_PATIENCE) return nothing();
  const said = `No receipt says so, and ${provider}, asked now, says that it arrived`;
  return { named: [told('receipts-not-coming', words)], observed: [seen('out-delivered', true, said, href)] };
}

/** What would be said to an order for this person now: it was said to every order before, too. */
export async function foreseenEvidence(ctx: AppContext, symptom: Symptom, { channel, phone }: Scope): Promise<Found> {
  if (!channel || !phone || symptom === 'replies-missing' || symptom === 'app-silent') return nothing();
  const refused = await foreseeRefusal(ctx, {
    to: phone,
    from: channel,
    text: 'Windgap asks whether this would leave',
  });
  const finding = refused?.findings[0]?.finding;
  if (!finding || !isCauseCode(finding.code)) return nothing();
  return {
    named: [told(finding.code, { said: finding.problem, href: `/connect/channels/${channel}`, at: ctx.now() })],
    observed: [seen('out-taken', false, 'An order for this person would be refused')],
    traffic: true,
  };
}

/** An attempt that ended so may have reached the provider all the same. */
const LOST_ANSWERS = `'provider-timeout', 'outcome-unknown', 'provider-unreachable', 'provider-error'`;

/** The same text to the same phone more than once, and who made it two. */
export async function twiceEvidence(ctx: AppContext, scope: Scope, since: number): Promise<Found> {
  const [pair] = await ctx.store.select<{ id: string; other: string; origin: string; origin_other: string }>(
    `SELECT m.id, o.id AS other, coalesce(m.origin_name, m.origin_kind) AS origin, coalesce(o.origin_name, o.origin_kind) AS origin_other
       FROM messages m JOIN messages o ON o.conversation_id = m.conversation_id AND o.direction = 'out' AND o.id < m.id
         AND o.text = m.text AND m.created_at - o.created_at < ${SAME_ORDER}
      WHERE m.direction = 'out' AND m.created_at > :since ${scope.channel ? 'AND m.channel_id = :channel' : ''}
        ${scope.phone ? 'AND m.recipient = :phone' : ''} ${scope.message ? 'AND :message IN (m.id, o.id)' : ''}
      ORDER BY m.id DESC LIMIT 1`,
    { since, channel: scope.channel ?? '', phone: scope.phone ?? '', message: scope.message ?? '' },
  );
  const [handed] = await ctx.store.select<{ id: string; account: string; connector: string }>(
    `SELECT m.id, a.name AS account, a.connector FROM messages m JOIN channels c ON c.id = m.channel_id JOIN provider_accounts a ON a.id = c.account_id
      WHERE m.direction = 'out' AND m.created_at > :since
        ${scope.channel ? 'AND m.channel_id = :channel' : ''} ${scope.phone ? 'AND m.recipient = :phone' : ''}
        ${scope.message ? 'AND m.id = :message' : ''}
        AND EXISTS (SELECT 1 FROM message_events e WHERE e.message_id = m.id AND e.cause IN (${LOST_ANSWERS}))
        AND (SELECT count(*) FROM message_events e WHERE e.message_id = m.id AND e.kind = 'attempted') > 1
        AND m.state IN ('sent', 'delivered', 'read')
      ORDER BY m.id DESC LIMIT 1`,
    { since, channel: scope.channel ?? '', phone: scope.phone ?? '', message: scope.message ?? '' },
  );
  // Where a repeat is said to be recognised, handing over twice should make no second message.
  const promised =
    handed && ctx.connectors.has(handed.connector) && ctx.connectors.get(handed.connector).honoursReference;
  return {
    named: [
      ...(pair
        ? [
            told('asked-twice', {
              saying: `from ${pair.origin_other} and from ${pair.origin}`,
              href: `/watch/messages/${pair.id}`,
            }),
          ]
        : []),
      ...(handed
        ? [
            told('handed-twice', {
              who: handed.account,
              href: `/watch/messages/${handed.id}`,
              ...(promised
                ? {
                    doubt: `${handed.account} is said to recognise repeats by our reference; this shows whether it did.`,
                  }
                : {}),
            }),
          ]
        : []),
    ],
    observed: [
      seen('ordered-twice', pair !== undefined, undefined, pair && `/watch/messages/${pair.id}`),
      seen('handed-twice', handed !== undefined, undefined, handed && `/watch/messages/${handed.id}`),
    ],
    traffic: false,
  };
}
