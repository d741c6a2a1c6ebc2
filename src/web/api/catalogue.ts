/**
 * The operations of the API: one declaration each, which the handler
 * parses with and the OpenAPI document is made of, so that the two cannot disagree.
 */

import { z } from 'zod';
import { CHANNEL_KINDS } from '../../core/connect/channelKinds';
import { CONSENT_WAYS } from '../../core/consent/ways';
import { causeCodes } from '../../core/delivery/causes';
import { IDENTITY_KINDS } from '../../core/identities/identityKinds';
import { EVENT_TYPES, TOLD_STATES } from '../../operations/apps/webhooks';
import { BROADCAST_OPERATIONS } from './broadcasts';
import { operation } from './operation';
import { listQuery, message, messagePage, remedyShape, sendRequest } from './schemas';

export type { Operation } from './operation';

const hop = z.object({
  hop: z.string(),
  state: z.enum(['proven', 'unproven', 'broken', 'not-applicable']),
  evidenceAt: z.iso.datetime().nullable(),
  cause: z.string().nullable(),
});

const channel = z
  .object({
    id: z.string().meta({ example: 'chn_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' }),
    name: z.string().meta({ example: 'Front desk' }),
    kind: z.enum(CHANNEL_KINDS),
    address: z.string().meta({ example: '+442079460100' }),
    pace: z.number().meta({ description: 'Messages a second at most.' }),
    proofs: z.array(hop).meta({ description: 'What is proven of each hop of the channel.' }),
  })
  .meta({ id: 'Channel' });

const testRun = z
  .object({
    id: z.string(),
    name: z.string(),
    state: z.enum(['waiting', 'running', 'passed', 'failed', 'stopped']),
    startedAt: z.iso.datetime().nullable(),
    endedAt: z.iso.datetime().nullable(),
    problem: z.string().nullable(),
    failures: z.array(z.object({ expected: z.string(), said: z.string(), cause: z.string().nullable() })),
  })
  .meta({ id: 'TestRun' });

const number = z
  .object({
    id: z.string(),
    address: z.string().meta({ example: '+442079460100' }),
    country: z.string().nullable(),
    abilities: z.array(z.string()).meta({ example: ['text-in', 'text-out'] }),
    purpose: z.string().nullable(),
    channelId: z.string().nullable(),
  })
  .meta({ id: 'Number' });

const measure = z
  .object({
    encoding: z.enum(['GSM-7', 'UCS-2']),
    characters: z.number().int().meta({ description: 'As a person counts them.' }),
    units: z.number().int().meta({ description: 'Septets or 16-bit units over all parts.' }),
    parts: z.number().int(),
    unitsLeftInLastPart: z.number().int(),
    forcing: z
      .array(z.object({ character: z.string(), at: z.number().int(), substitute: z.string().nullable() }))
      .meta({ description: 'Characters that force UCS-2, with what could safely stand in.' }),
  })
  .meta({ id: 'TextMeasure' });

const finding = z.object({ code: z.string(), problem: z.string(), ...remedyShape });

const normalised = z
  .object({
    address: z
      .object({ value: z.string(), kind: z.string(), country: z.string().nullable() })
      .nullable()
      .meta({ description: 'E.164, or null with a finding.' }),
    finding: finding.nullable(),
  })
  .meta({ id: 'NormalisedAddress' });

const conversation = z
  .object({
    id: z.string(),
    contactId: z.string(),
    contactName: z.string(),
    address: z.string(),
    channelId: z.string(),
    lastMessageAt: z.iso.datetime(),
    lastText: z.string(),
    unread: z.number().int(),
  })
  .meta({ id: 'Conversation' });

const contact = z
  .object({
    id: z.string().meta({ example: 'con_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' }),
    name: z.string().nullable(),
    country: z.string().nullable(),
    identities: z
      .array(z.object({ kind: z.enum(IDENTITY_KINDS), value: z.string().meta({ example: '+447700900123' }) }))
      .meta({ description: 'How the contact is reached: a number in E.164, or as a visitor of a web chat.' }),
    consents: z
      .array(
        z.object({
          way: z.enum(CONSENT_WAYS),
          state: z.enum(['given', 'withdrawn']),
          since: z.iso.datetime(),
        }),
      )
      .meta({ description: 'What they agreed to or declined; nothing is known of a way that is not listed.' }),
    createdAt: z.iso.datetime(),
  })
  .meta({ id: 'Contact' });

const template = z
  .object({
    id: z.string().meta({ example: 'tpl_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' }),
    name: z.string().meta({ example: 'passage-booked' }),
    languages: z.array(z.string()).meta({ example: ['en', 'sv'] }),
    variables: z.array(z.string()).meta({ example: ['skipper', 'lock', 'time'] }),
    problem: finding.nullable().meta({ description: 'What keeps it from being sent now.' }),
  })
  .meta({ id: 'Template' });

const filter = z.strictObject({
  channels: z.array(z.string().max(60)).max(200).optional(),
  states: z.array(z.enum(TOLD_STATES)).optional(),
  allApps: z.boolean().optional().meta({
    description: 'What becomes of messages that others sent, too. Needs the scope messages:all.',
  }),
});

const subscription = z
  .object({
    id: z.string(),
    url: z.url(),
    events: z.array(z.enum(EVENT_TYPES)),
    filter,
    state: z.enum(['on', 'held-back', 'paused', 'ended']).meta({
      description: 'held-back: the app takes nothing at present and is tried again; paused: until somebody resumes it.',
    }),
    failingSince: z.iso.datetime().nullable(),
    nextTryAt: z.iso.datetime().nullable(),
    waiting: z.number().int().meta({ description: 'Events that have not been taken yet.' }),
    createdAt: z.iso.datetime(),
  })
  .meta({ id: 'WebhookSubscription' });

const secret = z.string().meta({ description: 'Shown this once (Standard Webhooks, whsec_ and base64).' });

const delivery = z
  .object({
    id: z.string(),
    eventId: z.string(),
    eventType: z.string(),
    messageId: z.string().nullable(),
    state: z.enum(['due', 'leased', 'delivered', 'given-up', 'aside']),
    attempts: z.number().int(),
    lastStatus: z.number().int().nullable(),
    cause: z.enum(causeCodes() as [string, ...string[]]).nullable(),
    nextAttemptAt: z.iso.datetime().nullable(),
    createdAt: z.iso.datetime(),
    deliveredAt: z.iso.datetime().nullable(),
  })
  .meta({ id: 'WebhookDelivery' });

const subscriptionBody = z.strictObject({
  url: z.url().max(2000).meta({ example: 'https://lockbook.mossgate.example/hooks/windgap' }),
  events: z.array(z.enum(EVENT_TYPES)).min(1).optional(),
  filter: filter.optional(),
});

const code = z
  .object({
    id: z.string().meta({ example: 'cod_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' }),
    to: z.string().meta({ example: '+447700900123' }),
    state: z.enum(['open', 'confirmed', 'expired', 'used-up', 'replaced']).meta({
      description: 'Only `confirmed` says that somebody reads what arrives there. Five wrong tries use a code up.',
    }),
    attemptsLeft: z.number().int(),
    expiresAt: z.iso.datetime(),
    messageId: z.string().meta({ description: 'The text that carries it; the code does not stand in it.' }),
  })
  .meta({ id: 'VerificationCode' });

export const API = {
  sendMessage: operation({
    id: 'sendMessage',
    method: 'post',
    path: '/messages',
    summary: 'Send a message',
    description: 'Answers once the message is stored; repeat with the same Idempotency-Key to be safe.',
    scope: 'messages:send',
    header: z.object({
      'Idempotency-Key': z
        .string()
        .max(200)
        .optional()
        .meta({ description: 'The first answer is given again for 24 hours; another body is refused.' }),
    }),
    body: sendRequest,
    example: {
      to: '+447700900123',
      from: '+442079460114',
      text: 'Your booking at 14:20 is confirmed.',
      tags: ['passage'],
    },
    answer: message,
    status: 202,
  }),
  listMessages: operation({
    id: 'listMessages',
    method: 'get',
    path: '/messages',
    summary: 'List messages, newest first',
    scope: 'messages:read',
    query: listQuery,
    answer: messagePage,
  }),
  getMessage: operation({
    id: 'getMessage',
    method: 'get',
    path: '/messages/{id}',
    summary: 'One message with its present state',
    scope: 'messages:read',
    answer: message,
  }),
  createCode: operation({
    id: 'createCode',
    method: 'post',
    path: '/codes',
    summary: 'Text a verification code to a number',
    description:
      'Six digits, made and compared by Windgap. A new code for a number takes the place of the one before. It goes before everything else that waits, and the limits on sending count it.',
    scope: 'codes:send',
    header: z.object({ 'Idempotency-Key': z.string().max(200).optional() }),
    body: z.strictObject({
      to: z.string().max(60).meta({ example: '+447700900123' }),
      from: z
        .string()
        .max(60)
        .optional()
        .meta({ description: 'Channel id or number. Optional when there is only one.' }),
      text: z
        .string()
        .max(300)
        .optional()
        .meta({ description: 'With {code} where the code goes.', example: 'Your booking code is {code}.' }),
      minutes: z.number().int().min(1).max(60).default(10),
    }),
    example: { to: '+447700900123', from: '+442079460114', text: 'Your booking code is {code}.' },
    answer: code,
    status: 202,
  }),
  getCode: operation({
    id: 'getCode',
    method: 'get',
    path: '/codes/{id}',
    summary: 'Where a verification code stands',
    scope: 'codes:send',
    answer: code,
  }),
  checkCode: operation({
    id: 'checkCode',
    method: 'post',
    path: '/codes/{id}/check',
    summary: 'Compare what somebody typed',
    description: 'Each call is one of five tries. A wrong code is an answer (200), with the state and the tries left.',
    scope: 'codes:send',
    body: z.strictObject({ code: z.string().min(1).max(20).meta({ example: '123456' }) }),
    example: { code: '123456' },
    answer: code,
  }),
  listTemplates: operation({
    id: 'listTemplates',
    method: 'get',
    path: '/templates',
    summary: 'Templates that can be sent, with their variables',
    description: 'As they would be sent now: of one that is being revised, the version that was approved before.',
    scope: 'messages:send',
    answer: z.object({ templates: z.array(template) }).meta({ id: 'Templates' }),
  }),
  listChannels: operation({
    id: 'listChannels',
    method: 'get',
    path: '/channels',
    summary: 'Channels, with what is proven of each',
    scope: 'channels:read',
    answer: z.object({ channels: z.array(channel) }),
  }),
  listNumbers: operation({
    id: 'listNumbers',
    method: 'get',
    path: '/numbers',
    summary: 'Numbers of all provider accounts',
    scope: 'channels:read',
    answer: z.object({ numbers: z.array(number) }),
  }),
  measureText: operation({
    id: 'measureText',
    method: 'post',
    path: '/texts/measure',
    summary: 'How a text would travel as SMS',
    body: z.strictObject({ text: z.string().max(20_000).meta({ example: 'Office closed – call us' }) }),
    example: { text: 'Office closed – call us' },
    answer: measure,
  }),
  normaliseAddress: operation({
    id: 'normaliseAddress',
    method: 'post',
    path: '/addresses/normalise',
    summary: 'A phone number in any human form as E.164, or what is wrong with it',
    body: z.strictObject({
      address: z.string().max(200).meta({ example: '(020) 7946 0100' }),
      country: z.string().length(2).optional().meta({ example: 'GB' }),
    }),
    example: { address: '(020) 7946 0114', country: 'GB' },
    answer: normalised,
  }),
  listConversations: operation({
    id: 'listConversations',
    method: 'get',
    path: '/conversations',
    summary: 'The 100 conversations with the latest messages',
    scope: 'conversations:read',
    query: z.object({ search: z.string().max(100).optional() }),
    answer: z.object({ conversations: z.array(conversation) }),
  }),
  listContacts: operation({
    id: 'listContacts',
    method: 'get',
    path: '/contacts',
    summary: 'Contacts, newest first, or the one with an address',
    scope: 'conversations:read',
    query: z.object({
      address: z.string().max(60).optional().meta({ description: 'A number in E.164.' }),
      limit: z.coerce.number().int().min(1).max(200).default(50),
      cursor: z.string().max(60).optional().meta({ description: 'As given in `next` of the page before.' }),
    }),
    answer: z.object({ contacts: z.array(contact), next: z.string().nullable() }),
  }),
  getContact: operation({
    id: 'getContact',
    method: 'get',
    path: '/contacts/{id}',
    summary: 'One contact',
    scope: 'conversations:read',
    answer: contact,
  }),
  listSubscriptions: operation({
    id: 'listSubscriptions',
    method: 'get',
    path: '/webhooks',
    summary: 'The webhook subscriptions of the calling app',
    scope: 'webhooks:read',
    answer: z.object({ webhooks: z.array(subscription) }),
  }),
  createSubscription: operation({
    id: 'createSubscription',
    method: 'post',
    path: '/webhooks',
    summary: 'Subscribe the calling app to events',
    scope: 'webhooks:write',
    body: subscriptionBody,
    example: { url: 'https://lockbook.mossgate.example/hooks/windgap', events: ['windgap.message.received'] },
    answer: z.object({ id: z.string(), secret }),
    status: 201,
  }),
  changeSubscription: operation({
    id: 'changeSubscription',
    method: 'patch',
    path: '/webhooks/{id}',
    summary: 'Another address, other events or another filter; what is not named stays',
    scope: 'webhooks:write',
    body: subscriptionBody.partial(),
    example: { filter: { states: ['failed'] } },
  }),
  endSubscription: operation({
    id: 'endSubscription',
    method: 'delete',
    path: '/webhooks/{id}',
    summary: 'End a subscription; what waits stays undelivered',
    scope: 'webhooks:write',
  }),
  replaceSecret: operation({
    id: 'replaceSecret',
    method: 'post',
    path: '/webhooks/{id}/secret',
    summary: 'A new signing secret; for a day both sign',
    scope: 'webhooks:write',
    answer: z.object({ secret }),
    status: 201,
  }),
  pauseSubscription: operation({
    id: 'pauseSubscription',
    method: 'post',
    path: '/webhooks/{id}/pause',
    summary: 'Keep events instead of sending them',
    scope: 'webhooks:write',
  }),
  resumeSubscription: operation({
    id: 'resumeSubscription',
    method: 'post',
    path: '/webhooks/{id}/resume',
    summary: 'Go on where it stopped, in order',
    scope: 'webhooks:write',
  }),
  sendTestEvent: operation({
    id: 'sendTestEvent',
    method: 'post',
    path: '/webhooks/{id}/test',
    summary: 'Send an event that means nothing',
    scope: 'webhooks:write',
    answer: z.object({ deliveryId: z.string() }),
    status: 202,
  }),
  listDeliveries: operation({
    id: 'listDeliveries',
    method: 'get',
    path: '/webhooks/{id}/deliveries',
    summary: 'The delivery log, newest first',
    scope: 'webhooks:read',
    query: z.object({
      state: z.enum(['due', 'leased', 'delivered', 'given-up', 'aside']).optional(),
      limit: z.coerce.number().int().min(1).max(200).default(50),
      cursor: z.string().max(60).optional().meta({ description: 'As given in `next` of the page before.' }),
    }),
    answer: z.object({ deliveries: z.array(delivery), next: z.string().nullable() }),
  }),
  replay: operation({
    id: 'replay',
    method: 'post',
    path: '/webhooks/{id}/replay',
    summary: 'Send a range of events again, in their order and with their ids',
    scope: 'webhooks:write',
    body: z.strictObject({
      from: z.iso.datetime(),
      to: z.iso.datetime(),
      which: z.enum(['not-delivered', 'all']).default('not-delivered'),
    }),
    example: { from: '2026-05-04T00:00:00Z', to: '2026-05-05T00:00:00Z', which: 'not-delivered' },
    answer: z.object({ replayed: z.number().int() }),
    status: 202,
  }),
  listTests: operation({
    id: 'listTests',
    method: 'get',
    path: '/tests',
    summary: 'Delivery tests, with how each last ended',
    scope: 'tests:run',
    answer: z.object({
      tests: z.array(
        z.object({
          id: z.string(),
          name: z.string(),
          words: z.string(),
          last: z.string().nullable(),
          flaky: z.boolean(),
        }),
      ),
    }),
  }),
  runTests: operation({
    id: 'runTests',
    method: 'post',
    path: '/tests/runs',
    summary: 'Run delivery tests',
    description: 'Of the tests named, by id or by name, or of all. Answers at once; read the batch until it is done.',
    scope: 'tests:run',
    body: z.strictObject({ tests: z.array(z.string().max(120)).max(200).optional() }),
    example: { tests: ['Inbound to Front desk'] },
    answer: z.object({ batch: z.string(), runs: z.array(z.string()) }),
    status: 202,
  }),
  getTestRuns: operation({
    id: 'getTestRuns',
    method: 'get',
    path: '/tests/runs/{id}',
    summary: 'What came of a batch of runs',
    description: '`junit` is the same as JUnit XML.',
    scope: 'tests:run',
    answer: z.object({
      done: z.boolean(),
      passed: z.number().int(),
      failed: z.number().int(),
      stopped: z.number().int(),
      runs: z.array(testRun),
      junit: z.string(),
    }),
  }),
  ...BROADCAST_OPERATIONS,
} as const;
