/** What each declared operation does. */
import { normaliseAddress } from '../../core/addresses/address';
import { publishedRemedy } from '../../core/remedy';
import { allVariables } from '../../core/templates/template';
import { measureText } from '../../core/text/measure';
import { listNumbers } from '../../operations/accounts';
import {
  changeSubscription,
  endSubscription,
  listDeliveries,
  listSubscriptions,
  messageData,
  pauseSubscription,
  redeliverRange,
  replaceSecret,
  resumeSubscription,
  sendTestEvent,
  subscribe,
} from '../../operations/apps/webhooks';
import { listChannels } from '../../operations/channels';
import { type CodeView, checkCode, createCode, getCode } from '../../operations/codes';
import { type ContactView, getContact, listContacts } from '../../operations/contacts';
import { found, invalidText } from '../../operations/context';
import { listConversations } from '../../operations/conversations';
import { askForRuns, listTests, reportRuns } from '../../operations/deliveryTests';
import { getMessage, messageRows } from '../../operations/log';
import { offeredTemplates } from '../../operations/templates';
import { BROADCAST_HANDLERS } from './broadcastHandlers';
import { API } from './catalogue';
import { on } from './handle';
import { moment } from './moment';

function contactData({ id, name, country, identities, consents, created_at }: ContactView) {
  return {
    id,
    name,
    country,
    identities,
    consents: consents.map(({ way, state, since }) => ({ way, state, since: moment(since) })),
    createdAt: moment(created_at),
  };
}

function codeData({ id, to, state, attemptsLeft, expiresAt, messageId }: CodeView) {
  return { id, to, state, attemptsLeft, expiresAt: moment(expiresAt), messageId };
}

export const HANDLERS = [
  on(API.sendMessage, async ({ web, actor, body, request }) => {
    const input = { ...body, validUntil: body.validUntil === undefined ? undefined : Date.parse(body.validUntil) };
    const answer = await web.send(actor, input, request.headers.get('idempotency-key') ?? undefined);
    const headers: Record<string, string> = { location: `/api/v1/messages/${answer.message.id}` };
    if (answer.replayed) headers['windgap-replayed'] = 'true';
    return Response.json(answer.message, { status: answer.status, headers });
  }),
  on(API.listMessages, async ({ ctx, actor, query }) => {
    const { direction, cursor, since, until, ...rest } = query;
    const page = await messageRows(ctx, actor, {
      ...rest,
      direction: direction && (direction === 'inbound' ? 'in' : 'out'),
      ...(since === undefined ? {} : { since: Date.parse(since) }),
      ...(until === undefined ? {} : { until: Date.parse(until) }),
      before: cursor,
    });
    return { messages: page.rows.map(messageData), next: page.next ?? null };
  }),
  on(API.getMessage, async ({ ctx, actor, id }) => messageData(await getMessage(ctx, actor, id))),

  on(API.createCode, async ({ web, ctx, actor, body, request }) => {
    const key = request.headers.get('idempotency-key') ?? undefined;
    return codeData(await createCode(ctx, web.send, { app: actor }, body, key));
  }),
  on(API.getCode, async ({ ctx, actor, id }) => codeData(await getCode(ctx, actor, id))),
  on(API.checkCode, async ({ ctx, actor, id, body }) => codeData(await checkCode(ctx, actor, id, body.code))),

  on(API.listTemplates, async ({ ctx, actor }) => ({
    templates: (await offeredTemplates(ctx, actor)).map(({ id, name, variants, problem }) => ({
      id,
      name,
      languages: variants.map(({ language }) => language),
      variables: allVariables(variants),
      problem: problem ? { code: problem.code, problem: problem.problem, ...publishedRemedy(problem.remedy) } : null,
    })),
  })),
  on(API.listChannels, async ({ ctx, actor }) => ({
    channels: (await listChannels(ctx, actor)).map(({ channel, proofs }) => ({
      id: channel.id,
      name: channel.name,
      kind: channel.kind,
      address: channel.address,
      pace: channel.pace,
      proofs: proofs.map(({ hop, state, evidenceAt, cause }) => ({
        hop,
        state,
        evidenceAt: moment(evidenceAt),
        cause: cause ?? null,
      })),
    })),
  })),
  on(API.listNumbers, async ({ ctx, actor }) => ({
    numbers: (await listNumbers(ctx, actor)).map(({ number, channel }) => ({
      id: number.id,
      address: number.address,
      country: number.country,
      abilities: number.abilities,
      purpose: number.purpose,
      channelId: channel?.id ?? null,
    })),
  })),
  on(API.listContacts, async ({ ctx, actor, query: { cursor, ...query } }) => {
    const page = await listContacts(ctx, actor, { ...query, before: cursor });
    return { contacts: page.contacts.map(contactData), next: page.next ?? null };
  }),
  on(API.getContact, async ({ ctx, actor, id }) => contactData(await getContact(ctx, actor, id))),
  on(API.listConversations, async ({ ctx, actor, query }) => ({
    conversations: (await listConversations(ctx, actor, query.search)).map((row) => ({
      id: row.id,
      contactId: row.contactId,
      contactName: row.contactName,
      address: row.address,
      channelId: row.channelId,
      lastMessageAt: moment(row.lastMessageAt),
      lastText: row.lastText,
      unread: row.unread,
    })),
  })),

  on(API.measureText, async ({ body }) => {
    const { encoding, characters, units, parts, remaining, forcing } = measureText(body.text);
    return {
      encoding,
      characters,
      units,
      parts: parts.length,
      unitsLeftInLastPart: remaining,
      forcing: forcing.map(({ char, at, substitute }) => ({ character: char, at, substitute: substitute ?? null })),
    };
  }),
  on(API.normaliseAddress, async ({ body }) => {
    const result = normaliseAddress(body.address, { defaultCountry: body.country?.toUpperCase() });
    if (!result.ok) {
      const { code, problem, remedy } = result.finding;
      return { address: null, finding: { code, problem, ...publishedRemedy(remedy) } };
    }
    const { value, kind, country } = result.address;
    return { address: { value, kind, country: country ?? null }, finding: null };
  }),

  on(API.listSubscriptions, async ({ ctx, actor }) => ({
    webhooks: (await listSubscriptions(ctx, actor, actor.id)).map((row) => ({
      id: row.id,
      url: row.url,
      events: row.events,
      filter: row.filter,
      state: row.disabled_at ? 'ended' : row.paused_at ? 'paused' : row.breaker?.open ? 'held-back' : 'on',
      failingSince: moment(row.breaker?.failingSince),
      nextTryAt: moment(row.paused_at ? undefined : row.breaker?.open?.retryAt),
      waiting: row.waiting,
      createdAt: moment(row.created_at),
    })),
  })),
  on(API.createSubscription, ({ ctx, actor, body }) => subscribe(ctx, actor, { appId: actor.id, ...body })),
  on(API.changeSubscription, ({ ctx, actor, id, body }) => changeSubscription(ctx, actor, id, body)),
  on(API.endSubscription, ({ ctx, actor, id }) => endSubscription(ctx, actor, id)),
  on(API.replaceSecret, ({ ctx, actor, id }) => replaceSecret(ctx, actor, id)),
  on(API.pauseSubscription, ({ ctx, actor, id }) => pauseSubscription(ctx, actor, id)),
  on(API.resumeSubscription, ({ ctx, actor, id }) => resumeSubscription(ctx, actor, id)),
  on(API.sendTestEvent, ({ ctx, actor, id }) => sendTestEvent(ctx, actor, id)),
  on(API.listDeliveries, async ({ ctx, actor, id, query }) => {
    const { cursor, ...rest } = query;
    const page = await listDeliveries(ctx, actor, id, { ...rest, before: cursor });
    return {
      deliveries: page.deliveries.map((row) => ({
        id: row.id,
        eventId: row.event_id,
        eventType: row.event_type,
        messageId: row.message_id,
        state: row.state,
        attempts: row.attempts,
        lastStatus: row.last_status,
        cause: row.cause,
        nextAttemptAt: row.state === 'due' ? moment(row.due_at) : null,
        createdAt: moment(row.created_at),
        deliveredAt: moment(row.delivered_at),
      })),
      next: page.next ?? null,
    };
  }),
  on(API.replay, async ({ ctx, actor, id, body }) => {
    const range = { from: Date.parse(body.from), to: Date.parse(body.to), which: body.which };
    return { replayed: await redeliverRange(ctx, actor, id, range) };
  }),

  on(API.listTests, async ({ ctx, actor }) => ({
    tests: (await listTests(ctx, actor)).map(({ test, words, last, flaky }) => ({
      id: test.id,
      name: test.name,
      words,
      last: last?.state ?? null,
      flaky,
    })),
  })),
  on(API.runTests, async ({ ctx, actor, body }) => {
    const wanted = body.tests;
    const tests = (await listTests(ctx, actor)).map(({ test }) => test);
    const stray = wanted?.find((name) => !tests.some((test) => test.id === name || test.name === name));
    if (stray !== undefined)
      throw invalidText('tests', `There is no delivery test ${stray}.`, 'GET /tests lists them.');
    const chosen = tests.filter((test) => !wanted || wanted.includes(test.id) || wanted.includes(test.name));
    return askForRuns(
      ctx,
      actor,
      chosen.map(({ id }) => id),
      'pipeline',
    );
  }),
  on(API.getTestRuns, async ({ ctx, actor, id }) => {
    const { runs, junit, done } = await reportRuns(ctx, actor, { batch: id });
    if (runs.length === 0) found(undefined, 'batch of runs');
    const count = (state: string) => runs.filter((run) => run.state === state).length;
    return {
      done,
      passed: count('passed'),
      failed: count('failed'),
      stopped: count('stopped'),
      runs: runs.map((run) => ({
        id: run.id,
        name: run.name,
        state: run.state,
        startedAt: moment(run.started_at),
        endedAt: moment(run.ended_at),
        problem: run.problem,
        failures: run.rounds
          .flatMap(({ verdicts }) => verdicts)
          .filter(({ holds }) => holds === false)
          .map(({ expected, said, cause }) => ({ expected, said, cause: cause ?? null })),
      })),
      junit,
    };
  }),
  ...BROADCAST_HANDLERS,
];
