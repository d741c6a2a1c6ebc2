/**
 * A believable past week, relative to now: the same rows that live traffic would have
 * left, some of it failed for reasons worth reading. Deterministic for a given start.
 */
import type { CauseCode } from '../src/core/delivery/causes';
import { standingAfter } from '../src/core/delivery/lifecycle';
import { measureText } from '../src/core/text/measure';
import type { AppContext } from '../src/operations/context/appContext';
import { standingColumns, toCoreEvent } from '../src/operations/messages/messageEvents';
import { threadKey, threadsFor } from '../src/operations/threads/findOrCreateConversation';
import type { ChannelRow, MessageEventRow, MessageRow } from '../src/store/schema/rows';
import { blankMessage, event, type HistoryPlaces, type Pile, postedRequest, sendExchange, tellApp } from './pastRows';
import { BOATERS, EXCHANGES } from './talk';

type Ending = 'delivered' | 'handset-off' | 'not-in-service' | 'credit' | 'provider-down';

const DAY = 86_400_000;
const PER_DAY = 34;

export async function writeHistory(ctx: AppContext, places: HistoryPlaces, now: number): Promise<number> {
  const random = seeded(7);
  const pile: Pile = { messages: [], events: [], requests: [], exchanges: [], deliveries: [] };
  const days = Array.from({ length: 7 }, (_, index) => now - (7 - index) * DAY);
  const moments = days
    .flatMap((day) => Array.from({ length: PER_DAY }, () => day + random() * DAY))
    .sort((a, b) => a - b);

  await ctx.store.write(async (unit) => {
    const threads = await threadsFor(
      unit,
      BOATERS.map(({ number }) => ({ address: number, channel: places.harbour })),
      { at: now - 8 * DAY, source: 'wrote' },
    );
    for (const boater of BOATERS) {
      const thread = threads.get(threadKey(boater.number, places.harbour));
      if (thread && boater.name) await unit.contacts.change({ id: thread.contactId }, { name: boater.name });
    }
    for (const [index, moment] of moments.entries()) {
      const talk = EXCHANGES[Math.floor(random() * EXCHANGES.length)] as (typeof EXCHANGES)[number];
      const boater = BOATERS[Math.floor(random() ** 1.6 * BOATERS.length)] as (typeof BOATERS)[number];
      const thread = threads.get(threadKey(boater.number, places.harbour));
      if (!thread) continue;
      const channel = places[talk.channel];
      const at = Math.round(moment);
      const asked = received(pile, places, channel, thread, boater.number, talk.asks, at, index % 41 === 17);
      if (random() < 0.9) {
        const wait = talk.by === 'app' ? 900 + random() * 2500 : 60_000 + random() * 900_000;
        const answerAt = Math.min(now - 60_000, at + Math.round(wait));
        sent(pile, places, channel, thread, boater.number, talk, asked.id, answerAt, endingFor(index));
      }
    }
    refusedRequests(pile, places, now);
    await unit.inbound.insert(pile.requests);
    await unit.messages.insert(pile.messages);
    await unit.exchanges.insert(pile.exchanges);
    await unit.events.insert(pile.events);
    await unit.deliveries.insert(pile.deliveries);
    await unit.execute(
      `UPDATE conversations SET
         (last_message_at, last_text, last_direction, channel_id) = (SELECT created_at, substr(text, 1, 160), direction, channel_id FROM messages m WHERE m.conversation_id = conversations.id ORDER BY created_at DESC LIMIT 1)
       WHERE EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = conversations.id)`,
    );
    await unit.execute(
      `UPDATE conversations SET unread = (SELECT count(*) FROM messages m WHERE m.conversation_id = conversations.id AND m.direction = 'in'
          AND m.created_at > coalesce((SELECT max(created_at) FROM messages o WHERE o.conversation_id = m.conversation_id AND o.direction = 'out'), 0))`,
    );
    await unit.execute(
      `DELETE FROM conversations WHERE NOT EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = conversations.id)`,
    );
  });
  return pile.messages.length;
}

/** Every so often something goes wrong, each time in its own way. */
function endingFor(index: number): Ending {
  if (index % 19 === 7) return 'handset-off';
  if (index % 53 === 21) return 'not-in-service';
  if (index >= 120 && index < 123) return 'credit';
  if (index >= 171 && index < 175) return 'provider-down';
  return 'delivered';
}

function received(
  pile: Pile,
  places: HistoryPlaces,
  channel: ChannelRow,
  thread: { contactId: string; conversationId: string },
  from: string,
  text: string,
  at: number,
  appStumbles: boolean,
): MessageRow {
  const providerId = `bwt_h${at.toString(36)}${pile.messages.length.toString(36)}`;
  const sentAt = at - 700;
  const request = postedRequest(places, channel, at, {
    events: [
      {
        kind: 'text-in',
        id: providerId,
        from,
        to: channel.address,
        text,
        parts: 1,
        at: new Date(sentAt).toISOString(),
      },
    ],
  });
  const measure = measureText(text);
  const message: MessageRow = {
    ...blankMessage(channel, thread, text, at),
    direction: 'in',
    sender: from,
    recipient: channel.address,
    encoding: measure.encoding,
    parts: measure.parts.length,
    ...standingColumns(standingAfter({ kind: 'received', at })),
    provider_message_id: providerId,
    origin_kind: 'provider',
    inbound_request_id: request.id,
  };
  request.outcome = { messages: [message.id], repeats: 0, unmatched: 0 };
  pile.requests.push(request);
  pile.messages.push(message);
  pile.events.push(
    event(message, 'received', at, {
      detail: { sentAt, from, to: channel.address, route: places.route },
      inbound_request_id: request.id,
    }),
  );
  tellApp(pile, places, message, 'windgap.message.received', at + 24, appStumbles);
  return message;
}

function sent(
  pile: Pile,
  places: HistoryPlaces,
  channel: ChannelRow,
  thread: { contactId: string; conversationId: string },
  to: string,
  talk: (typeof EXCHANGES)[number],
  inReplyTo: string,
  at: number,
  ending: Ending,
): void {
  const measure = measureText(talk.answer);
  const byApp = talk.by === 'app';
  const message: MessageRow = {
    ...blankMessage(channel, thread, talk.answer, at),
    direction: 'out',
    sender: channel.address,
    recipient: to,
    encoding: measure.encoding,
    parts: measure.parts.length,
    origin_kind: byApp ? 'app' : 'user',
    origin_id: byApp ? places.app.id : places.agent.id,
    origin_name: byApp ? places.app.name : places.agent.name,
    in_reply_to: inReplyTo,
  };
  const events = [event(message, 'queued', at, { attempt: 0, detail: { by: message.origin_name } })];
  let attempt = 1;
  let when = at + 31;
  if (ending === 'provider-down') {
    for (const delay of [0, 2100, 7400, 23_000]) {
      const exchange = sendExchange(message, channel, when + delay, null, 'provider-unreachable');
      pile.exchanges.push(exchange);
      events.push(event(message, 'attempted', when + delay, { attempt }));
      events.push(
        event(message, 'deferred', when + delay + 3, {
          attempt,
          cause: 'provider-unreachable',
          detail: { said: 'ECONNREFUSED' },
          exchange_id: exchange.id,
        }),
      );
      attempt += 1;
    }
    when += 61_000;
  }
  events.push(event(message, 'attempted', when, { attempt }));
  if (ending === 'credit') {
    const said = 'The credit does not cover this text';
    const exchange = sendExchange(
      message,
      channel,
      when,
      { status: 402, body: { problem: { code: 'credit-short', text: said } } },
      'credit-gone',
    );
    pile.exchanges.push(exchange);
    events.push(
      event(message, 'refused', when + 44, {
        attempt,
        cause: 'credit-gone',
        detail: { said },
        exchange_id: exchange.id,
      }),
    );
  } else {
    message.provider_message_id = `bwt_h${at.toString(36)}${pile.messages.length.toString(36)}`;
    message.price_micros = 38_000 * message.parts;
    message.price_currency = 'GBP';
    const answer = {
      text: {
        id: message.provider_message_id,
        state: 'taken',
        price: { amount: message.price_micros / 1e6, currency: 'GBP' },
      },
      repeated: false,
    };
    const exchange = sendExchange(message, channel, when, { status: 201, body: answer });
    pile.exchanges.push(exchange);
    events.push(event(message, 'accepted', when + 52, { attempt, exchange_id: exchange.id }));
    receipts(pile, places, channel, message, events, when + 400, ending);
  }
  const standing = events
    .map(toCoreEvent)
    .reduce((before, next) => standingAfter(next, before), standingAfter({ kind: 'queued', at }));
  Object.assign(message, standingColumns(standing));
  pile.messages.push(message);
  pile.events.push(...events);
  tellApp(pile, places, message, 'windgap.message.state', standing.at + 30, false);
}

function receipts(
  pile: Pile,
  places: HistoryPlaces,
  channel: ChannelRow,
  message: MessageRow,
  events: MessageEventRow[],
  at: number,
  ending: Ending,
): void {
  const fates: Record<
    string,
    { state: string; kind: MessageEventRow['kind']; code?: string; cause?: CauseCode; after: number }
  > = {
    delivered: { state: 'arrived', kind: 'delivered', after: 2300 },
    'provider-down': { state: 'arrived', kind: 'delivered', after: 1900 },
    'handset-off': {
      state: 'lost',
      kind: 'undelivered',
      code: 'handset-off',
      cause: 'handset-unreachable',
      after: 3_600_000,
    },
    'not-in-service': {
      state: 'lost',
      kind: 'undelivered',
      code: 'no-such-number',
      cause: 'number-not-in-service',
      after: 5100,
    },
  };
  const fate = fates[ending];
  if (!fate) return;
  for (const [state, kind, code, cause, when] of [
    ['passed-on', 'sent', undefined, undefined, at],
    [fate.state, fate.kind, fate.code, fate.cause, at + fate.after],
  ] as const) {
    const body = {
      events: [
        {
          kind: 'report',
          id: message.provider_message_id,
          reference: message.id,
          state,
          code,
          at: new Date(when - 40).toISOString(),
        },
      ],
    };
    const request = postedRequest(places, channel, when, body, '/receipts');
    request.outcome = { messages: [message.id], repeats: 0, unmatched: 0 };
    pile.requests.push(request);
    events.push(
      event(message, kind, when - 40, {
        recorded_at: when + 12,
        cause: cause ?? null,
        detail: { said: code ? `${state} (${code})` : state },
        inbound_request_id: request.id,
      }),
    );
  }
}

/** Two requests somebody made who does not have the secret, and one by hand. */
function refusedRequests(pile: Pile, places: HistoryPlaces, now: number): void {
  const body = {
    events: [
      {
        kind: 'text-in',
        id: 'bwt_x',
        from: '+447700900999',
        to: places.locks.address,
        text: 'hello',
        at: new Date(now).toISOString(),
      },
    ],
  };
  for (const hours of [52, 51.9]) {
    const request = postedRequest(places, places.harbour, now - hours * 3_600_000, body);
    Object.assign(request, {
      headers: { ...request.headers, 'x-brackwater-signature': `h1=${'0'.repeat(64)}` },
      signature: 'wrong',
      answer_status: 401,
      state: 'refused',
      cause: 'signature-wrong',
      outcome: { reason: 'signature wrong' },
      processed_at: null,
    });
    pile.requests.push(request);
  }
}

/** A small congruential generator (Numerical Recipes constants): the same week every time. */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}
