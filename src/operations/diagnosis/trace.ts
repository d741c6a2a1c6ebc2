/** Pins a complaint to a message, and says of each place on the message's way whether it has it, and from what evidence. */
import { type CauseCode, cause } from '../../core/delivery/causes';
import type { Observed } from '../../core/diagnosis/diagnose';
import type { Symptom } from '../../core/diagnosis/symptoms';
import { type Known, locate, type Names, type Place, type Segment, type Way } from '../../core/diagnosis/way';
import { CAUSE_OF_DELIVERY } from '../apps/webhooks';
import type { AppContext } from '../context';
import { type AskedText, askText } from './askText';
import { JUST_NOW, NONE_OF_THEM, RECEIPT_PATIENCE, type Scope, wasTaken } from './complaintEvidence';

export interface TracedMessage {
  id: string;
  direction: 'in' | 'out';
  at: number;
  /** The other end: who it is to, or from. */
  person: string;
  text: string;
  state: string;
}

export interface Trace {
  segment: Segment;
  known: Known[];
  names: Names;
  /** The message that is meant; absent where none is here. */
  message?: TracedMessage;
  /** Those that may be meant, newest first. */
  candidates: TracedMessage[];
  /** Somebody chose the message; otherwise the newest is taken. */
  chosen: boolean;
}

/** The ways a complaint may be about. */
const WAYS_OF: Readonly<Record<Symptom, readonly Way[]>> = {
  'replies-missing': ['in'],
  'app-silent': ['in'],
  'nothing-arrives': ['out'],
  'only-some': ['out'],
  'arrives-wrong': ['out'],
  'arrives-twice': ['out'],
  'app-cannot-send': ['out'],
  'worked-before': ['out', 'in'],
};

/** A message is not late before this. */
const QUEUE_PATIENCE = 10_000;
const MOST_CANDIDATES = 6;

export async function traceComplaint(
  ctx: AppContext,
  symptom: Symptom,
  scope: Scope,
  since: number,
  given: readonly Observed[],
): Promise<Trace> {
  const [names, candidates] = await Promise.all([namesOf(ctx, scope), candidatesOf(ctx, symptom, scope, since)]);
  const chosen = scope.message === undefined ? undefined : candidates.find(({ id }) => id === scope.message);
  const traces = await Promise.all(
    (chosen ? [chosen.direction] : WAYS_OF[symptom]).map(async (way): Promise<Trace> => {
      const ofWay = candidates.filter(({ direction }) => direction === way);
      const message = scope.message === NONE_OF_THEM ? undefined : (chosen ?? worst(ofWay, symptom));
      if (way === 'in') return trace(message, await inKnown(ctx, symptom, scope, message, given));
      const refused =
        symptom === 'app-cannot-send' && !chosen
          ? await newestRefusedCall(ctx, scope, Math.max(since, message?.at ?? 0))
          : undefined;
      if (refused) return trace(undefined, refused);
      const own = await outKnown(ctx, scope, message, names.provider);
      const test = await failedTest(ctx, scope, since, given);
      // What arrived before the test failed shows how it was, and the test how it is.
      if (test && (locate(way, own).whole || !message))
        return trace(test, await testKnown(ctx, scope, test, names.provider));
      const here = !test && failed(given) ? await refusedTest(ctx, scope) : undefined;
      if (here) return trace(undefined, here);
      return trace(message, changedByTest(own, given));

      function trace(traced: TracedMessage | undefined, known: Known[]): Trace {
        return {
          segment: locate(way, known),
          known,
          names,
          candidates,
          chosen: scope.message !== undefined,
          ...(traced ? { message: traced } : {}),
        };
      }
    }),
  );
  // Of two ways the one that is known not to end well is meant.
  const [first] = [...traces].sort((a, b) => badness(b.segment) - badness(a.segment));
  return first as Trace;
}

const badness = ({ sure, whole, from }: Segment) => (sure ? 3 : whole ? 1 : from ? 2 : 0);

/** Where only some are concerned, the newest that did not arrive; otherwise the newest. */
function worst(candidates: readonly TracedMessage[], symptom: Symptom): TracedMessage | undefined {
  const failing = candidates.find(({ state }) => !['delivered', 'read'].includes(state));
  return (symptom === 'only-some' ? failing : undefined) ?? candidates[0];
}

export async function candidatesOf(
  ctx: AppContext,
  symptom: Symptom,
  scope: Scope,
  since: number,
): Promise<TracedMessage[]> {
  const ways = WAYS_OF[symptom];
  const rows = await ctx.store.select<{
    id: string;
    direction: 'in' | 'out';
    created_at: number;
    person: string;
    text: string;
    state: string;
  }>(
    `SELECT m.id, m.direction, m.created_at, CASE m.direction WHEN 'out' THEN m.recipient ELSE m.sender END AS person, m.text, m.state
       FROM messages m WHERE m.created_at > :since AND m.direction IN (:ways)
        AND (m.id = :message OR (coalesce(m.tags, '') NOT LIKE '%"delivery test"%' AND m.text NOT LIKE 'Windgap test %'))
        ${scope.channel ? 'AND m.channel_id = :channel' : ''}
        ${scope.phone ? "AND (CASE m.direction WHEN 'out' THEN m.recipient ELSE m.sender END) = :phone" : ''}
        ${scope.app ? "AND (m.direction = 'in' OR (m.origin_kind = 'app' AND m.origin_id = :app) OR EXISTS (SELECT 1 FROM runs r WHERE r.id = m.origin_id AND r.app_id = :app))" : ''}
        ${scope.message && scope.message !== NONE_OF_THEM ? 'AND m.id <= :message' : ''}
      ORDER BY m.created_at DESC, m.id DESC LIMIT ${MOST_CANDIDATES * ways.length}`,
    {
      since,
      ways,
      channel: scope.channel ?? '',
      phone: scope.phone ?? '',
      app: scope.app ?? '',
      message: scope.message ?? '',
    },
  );
  return rows.map(({ created_at, ...row }) => ({ ...row, at: created_at }));
}

async function namesOf(ctx: AppContext, { channel, app }: Scope): Promise<Names> {
  const row = channel ? await ctx.store.channels.one({ id: channel }) : undefined;
  const account = row && (await ctx.store.accounts.one({ id: row.account_id }));
  const named = app ? await ctx.store.apps.one({ id: app }) : undefined;
  return {
    provider: account?.name ?? 'the provider',
    app: named?.name ?? 'the app',
    channel: row?.name ?? 'the channel',
  };
}

const knownOf = (place: Place, has: boolean | undefined, said: string, more: Partial<Known> = {}): Known => ({
  place,
  has,
  said,
  ...more,
});

/** What is known of a message going out. */
async function outKnown(
  ctx: AppContext,
  scope: Scope,
  message: TracedMessage | undefined,
  provider: string,
): Promise<Known[]> {
  if (!message) return [noOrder(scope)];
  const [row] = await ctx.store.select<{
    state: string;
    cause: CauseCode | null;
    origin: string;
    taken_at: number | null;
    receipt_at: number | null;
    said: string | null;
    /** What its latest attempt met. */
    met: CauseCode | null;
  }>(
    `SELECT m.state, m.cause,
            (SELECT e.cause FROM message_events e WHERE e.message_id = m.id AND e.cause IS NOT NULL ORDER BY e.id DESC LIMIT 1) AS met,
            coalesce(m.origin_name, m.origin_kind) AS origin,
            (SELECT min(e.at) FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('accepted', 'sent')) AS taken_at,
            (SELECT max(e.at) FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('delivered', 'read', 'undelivered')) AS receipt_at,
            (SELECT e.detail->>'$.said' FROM message_events e WHERE e.message_id = m.id AND e.cause IS NOT NULL ORDER BY e.id DESC LIMIT 1) AS said
       FROM messages m WHERE m.id = :id`,
    { id: message.id },
  );
  if (!row) return [noOrder(scope)];
  const href = `/watch/messages/${message.id}`;
  const old = ctx.now() - message.at;
  const why = row.cause ?? row.met;
  const words = why ? `${cause(why).title}${row.said ? `: “${row.said}”` : ''}` : undefined;
  const known = [
    knownOf('asker', true, `${row.origin} asked for it`, { at: message.at, href }),
    knownOf('windgap', true, 'Windgap has it', { at: message.at, href }),
  ];
  const taken = ['sent', 'delivered', 'read'].includes(row.state) || (row.state === 'failed' && wasTaken(row.cause));
  if (taken) known.push(knownOf('provider', true, 'The provider took it', { at: row.taken_at ?? message.at, href }));
  else if (row.state === 'uncertain')
    known.push(knownOf('provider', undefined, 'The answer was lost, so whether it was taken is not known', { href }));
  else if (row.state === 'failed' || row.met || old > QUEUE_PATIENCE)
    known.push(knownOf('provider', false, words ?? 'It has not been taken', { href }));
  const arrived = row.state === 'delivered' || row.state === 'read';
  if (arrived)
    known.push(knownOf('phone', true, 'A receipt says that it arrived', { at: row.receipt_at ?? undefined, href }));
  else if (taken && row.state === 'failed')
    known.push(
      knownOf('phone', false, words ?? 'A receipt says that it did not arrive', {
        at: row.receipt_at ?? undefined,
        href,
      }),
    );
  else if (taken) {
    const asked = await askText(ctx, message.id);
    if (asked) return withAsked(known, asked, provider, href);
    if (old > RECEIPT_PATIENCE) known.push(knownOf('phone', undefined, 'No receipt has come', { href }));
  }
  return known;
}

/** What the provider said of a text when it was asked, since no receipt says anything. */
function withAsked(known: readonly Known[], asked: AskedText, provider: string, href: string): Known[] {
  const at = asked.askedAt;
  if (!asked.known)
    return [
      ...known.filter(({ place }) => place !== 'provider'),
      knownOf('provider', false, `It was taken, and asked for it now, ${provider} answers “${asked.said}”`, {
        at,
        href,
      }),
    ];
  const said = `No receipt has come; asked now, ${provider} says “${asked.said}”`;
  const state = asked.state;
  const has = state === 'delivered' || state === 'read' ? true : state === 'undelivered' ? false : undefined;
  return [...known, knownOf('phone', has, said, { at: has ? (asked.at ?? at) : at, href })];
}

/** Whether a text sent to test did not arrive. */
const failed = (given: readonly Observed[]) => given.some(({ id, value }) => id === 'bench-out' && !value);

/** A test that Windgap itself refused to send, so that it became no message. */
async function refusedTest(ctx: AppContext, { channel }: Scope): Promise<Known[] | undefined> {
  const [order] = await ctx.store.select<{ said: string; at: number }>(
    `SELECT said, at FROM refused_orders WHERE at > :since ${channel ? 'AND channel_id = :channel' : ''} ORDER BY id DESC LIMIT 1`,
    { since: ctx.now() - JUST_NOW, channel: channel ?? '' },
  );
  if (!order) return undefined;
  return [
    knownOf('asker', true, 'A text was ordered to test', { at: order.at }),
    knownOf('windgap', true, 'Windgap got the order', { at: order.at }),
    knownOf('provider', false, `It was refused here: ${order.said}`, { at: order.at }),
  ];
}

/** The message of a test that did not arrive, if one was made. */
async function failedTest(
  ctx: AppContext,
  { channel }: Scope,
  since: number,
  given: readonly Observed[],
): Promise<TracedMessage | undefined> {
  if (!failed(given)) return undefined;
  const [row] = await ctx.store.select<Omit<TracedMessage, 'at'> & { created_at: number }>(
    `SELECT id, direction, created_at, recipient AS person, text, state FROM messages m
      WHERE direction = 'out' AND created_at > :since
        AND NOT EXISTS (SELECT 1 FROM refused_orders r WHERE r.channel_id = m.channel_id AND r.at > m.created_at) AND tags LIKE '%"delivery test"%' ${channel ? 'AND channel_id = :channel' : ''}
      ORDER BY id DESC LIMIT 1`,
    { since, channel: channel ?? '' },
  );
  if (!row) return undefined;
  const { created_at, ...rest } = row;
  return { ...rest, at: created_at };
}

/** What is known of a test's message: that the phone did not show it was seen, whatever a receipt says. */
async function testKnown(ctx: AppContext, scope: Scope, test: TracedMessage, provider: string): Promise<Known[]> {
  const known = await outKnown(ctx, scope, test, provider);
  if (!known.some(({ place, has }) => place === 'provider' && has)) return known;
  const unseen = knownOf('phone', false, 'The phone that waited for it did not get it', {
    href: `/watch/messages/${test.id}`,
  });
  return [...known.filter(({ place }) => place !== 'phone'), unseen];
}

/** The same text came to a phone of the bench changed: by whom on the way is not known. */
function changedByTest(known: Known[], given: readonly Observed[]): Known[] {
  if (!given.some(({ id, value }) => id === 'bench-same' && !value)) return known;
  const before = known.filter(({ place }) => place !== 'provider' && place !== 'phone');
  return [...before, knownOf('phone', false, 'The same text, sent to test, came to a phone changed')];
}

/** A call of the app, or with a key that is nobody's, that was refused after the last message: what is complained of. */
async function newestRefusedCall(
  ctx: AppContext,
  { app, channel }: Scope,
  after: number,
): Promise<Known[] | undefined> {
  // Calls belong to apps; whoever asks about a channel alone may not reach every app.
  if (!app && channel) return undefined;
  const [row] = await ctx.store.select<{
    app_id: string | null;
    app_name: string | null;
    at: number;
    said: string;
    status: number;
  }>(
    `SELECT app_id, app_name, last_at AS at, said, status FROM refused_calls
      WHERE last_at > :after ${app ? 'AND (app_id = :app OR app_id IS NULL)' : ''} ORDER BY last_at DESC LIMIT 1`,
    { after, app: app ?? '' },
  );
  if (!row) return undefined;
  const href = row.app_id ? `/apps/${row.app_id}#refused-calls` : undefined;
  return [
    ...(row.app_id ? [knownOf('asker', true, `${row.app_name ?? 'The app'} called`, { at: row.at, href })] : []),
    knownOf('windgap', false, `A call was answered ${row.status}: ${row.said}`, { at: row.at, href }),
  ];
}

function noOrder(scope: Scope): Known {
  const said = scope.app
    ? 'Nothing of the kind was asked for by the app'
    : scope.phone
      ? `Nothing to ${scope.phone} was asked for`
      : 'Nothing was asked for';
  return knownOf('windgap', false, `${said} in the last day`);
}

/** What is known of what somebody wrote. */
async function inKnown(
  ctx: AppContext,
  symptom: Symptom,
  scope: Scope,
  message: TracedMessage | undefined,
  given: readonly Observed[],
): Promise<Known[]> {
  const said = (id: Observed['id']) => given.find((each) => each.id === id)?.value;
  const known: Known[] = [];
  const tested = said('bench-in');
  if (said('shown-sent') === true) known.push(knownOf('person', true, 'Their phone shows it as sent'));
  if (said('provider-log-has-it') !== undefined)
    known.push(
      knownOf(
        'provider',
        said('provider-log-has-it'),
        said('provider-log-has-it') ? 'The provider’s log has it' : 'The provider’s log does not have it',
      ),
    );
  const recent = message && ctx.now() - message.at < JUST_NOW;
  const refused = await newestRefusal(ctx, scope, message?.at ?? 0);
  if (refused) {
    const shown = !refused.cause.startsWith('signature-');
    known.push(
      knownOf(
        'provider',
        shown ? true : undefined,
        shown
          ? 'The provider posted it'
          : 'A request came; without a signature that holds nothing shows that it is the provider’s',
        { at: refused.received_at, href: refused.href },
      ),
    );
    known.push(
      knownOf('door', true, 'It came to the inbound address', {
        at: refused.received_at,
        href: refused.href,
      }),
    );
    known.push(knownOf('windgap', false, `It was refused: ${cause(refused.cause).title}`, { href: refused.href }));
    return withoutRepeats(known);
  }
  if (tested === false || (!message && (scope.phone || scope.message === NONE_OF_THEM))) {
    known.push(
      knownOf(
        'door',
        false,
        tested === false
          ? 'A text written to test did not come to the inbound address'
          : `Nothing ${scope.phone ? `from ${scope.phone} ` : ''}has come to the inbound address in the last day`,
      ),
    );
    return known;
  }
  // What came long ago shows nothing of now; for what is asked about a certain message it is that message that counts.
  if (!message || !(recent || tested || scope.message || scope.phone || symptom === 'app-silent')) return known;
  const href = `/watch/messages/${message.id}`;
  known.push(knownOf('person', true, 'They wrote it', { at: message.at, href }));
  known.push(knownOf('provider', true, 'The provider passed it on', { at: message.at, href }));
  known.push(knownOf('door', true, 'It came to the inbound address', { at: message.at, href }));
  known.push(knownOf('windgap', true, 'Windgap has it', { at: message.at, href }));
  known.push(await appKnown(ctx, scope, message.id, href));
  return withoutRepeats(known);
}

/** What was seen outweighs what was said of the same place. */
function withoutRepeats(known: readonly Known[]): Known[] {
  const last = new Map(known.map((each) => [each.place, each]));
  return [...last.values()];
}

async function appKnown(ctx: AppContext, scope: Scope, message: string, href: string): Promise<Known> {
  const deliveries = await ctx.store.select<{ app: string; delivered_at: number | null; cause: CauseCode | null }>(
    `SELECT a.name AS app, d.delivered_at, ${CAUSE_OF_DELIVERY} AS cause FROM webhook_deliveries d
       JOIN webhook_subscriptions s ON s.id = d.subscription_id JOIN apps a ON a.id = s.app_id
      WHERE d.message_id = :message AND d.event_type = 'windgap.message.received' ${scope.app ? 'AND a.id = :app' : ''}`,
    { message, app: scope.app ?? '' },
  );
  const runs = (await ctx.store.runs.all({ subject_id: message })).filter(
    ({ source, app_id }) => source === 'record' && (!scope.app || app_id === scope.app),
  );
  const open = deliveries.find(({ delivered_at }) => delivered_at === null);
  if (open)
    return knownOf(
      'app',
      false,
      open.cause ? `${open.app}: ${cause(open.cause).title}` : `${open.app} has not taken it yet`,
      {
        href,
      },
    );
  if (runs.some(({ state }) => state !== 'done'))
    return knownOf('app', false, 'Its record could not be written', { href });
  const [last] = deliveries;
  if (last)
    return knownOf('app', true, `${last.app} answered that it took it`, {
      at: last.delivered_at ?? undefined,
      href,
    });
  if (runs.length > 0) return knownOf('app', true, 'Its record was written', { href });
  if (scope.app) return knownOf('app', false, 'No route gave it to the app', { href });
  return knownOf('app', true, 'It is in Conversations', { href });
}

async function newestRefusal(ctx: AppContext, { channel }: Scope, after: number) {
  const [row] = await ctx.store.select<{ id: string; cause: CauseCode; received_at: number; taken_at: number | null }>(
    `SELECT r.id, r.cause, r.received_at,
            (SELECT max(received_at) FROM inbound_requests t WHERE t.channel_id = r.channel_id AND t.state = 'done') AS taken_at
       FROM inbound_requests r WHERE r.received_at > :since AND r.cause IS NOT NULL AND r.cause <> 'inbound-partly-unreadable' AND r.state IN ('refused', 'unreadable')
        ${channel ? 'AND r.channel_id = :channel' : ''} ORDER BY r.received_at DESC LIMIT 1`,
    { since: Math.max(after, ctx.now() - JUST_NOW * 96), channel: channel ?? '' },
  );
  if (!row || row.received_at <= (row.taken_at ?? 0)) return undefined;
  return { ...row, href: `/watch/inbound/${row.id}` };
}
