/** The operations of the API about broadcasts. */
import { z } from 'zod';
import { STATES } from '../../core/broadcast/course';
import { mappingSource } from '../../core/broadcast/definition';
import { LEFT_OUT_CODES } from '../../core/broadcast/leftOut';
import { PASSED } from '../../core/broadcast/timetable';
import { operation } from './operation';
import { remedyShape } from './schemas';

const people = z.strictObject({
  everybody: z.boolean().optional(),
  tags: z.array(z.string().min(1).max(200)).max(20).optional(),
  audiences: z
    .array(z.string().min(1).max(200))
    .max(20)
    .optional()
    .meta({ description: 'Ids or names of saved ones.' }),
});

const order = z
  .strictObject({
    name: z.string().min(1).max(100).meta({ description: 'For colleagues; recipients do not see it.' }),
    purpose: z.enum(['notice', 'marketing']).meta({ description: 'Marketing goes to recorded consent alone.' }),
    text: z
      .string()
      .max(1600)
      .default('')
      .meta({ description: 'With merge fields of contacts and of the recipients given here: {{ first_name }}.' }),
    subject: z.string().max(200).optional().meta({ description: 'Of a mail.' }),
    choices: z
      .array(z.string().min(1).max(60))
      .max(10)
      .optional()
      .meta({ description: 'Answers that may be pressed.' }),
    template: z
      .strictObject({
        id: z.string().max(60),
        mapping: z
          .record(z.string().max(200), mappingSource)
          .meta({ description: 'Where each variable gets its value.' }),
      })
      .optional(),
    to: people.extend({
      recipients: z
        .array(
          z.strictObject({
            to: z.string().max(254),
            fields: z.record(z.string().max(60), z.string().max(500)).optional(),
          }),
        )
        .max(1000)
        .optional()
        .meta({ description: 'People by their addresses. Longer lists are saved as an audience first.' }),
    }),
    except: people.optional(),
    channels: z
      .array(z.string().max(100))
      .min(1)
      .max(3)
      .meta({ description: 'Ids, numbers or names, in the order in which they are tried for each person.' }),
    when: z
      .union([
        z.strictObject({ at: z.literal('once') }),
        z.strictObject({ at: z.literal('instant'), instant: z.iso.datetime({ offset: true }) }),
        z.strictObject({
          at: z.literal('local'),
          day: z.iso.date(),
          time: z.string().regex(/^(?:[01]\d|2[0-3]):[0-5]\d$/),
          passed: z.enum(PASSED),
        }),
      ])
      .optional()
      .meta({ description: 'At once, at one instant for all, or at a time of day where each of them is.' }),
    usefulMinutes: z
      .number()
      .int()
      .min(1)
      .max(7 * 24 * 60)
      .optional(),
    quietHours: z
      .boolean()
      .optional()
      .meta({ description: 'Whether nobody is written to at night; they are kept unless this is false.' }),
    firstSteps: z.number().int().min(0).max(5000).optional().meta({ description: 'How many go out alone first.' }),
  })
  .meta({ id: 'BroadcastRequest' });

const counts = z.record(z.string(), z.number().int());

const broadcast = z
  .object({
    id: z.string().meta({ example: 'bct_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' }),
    name: z.string(),
    state: z.enum(STATES),
    createdAt: z.iso.datetime(),
    startedAt: z.iso.datetime().nullable(),
    endedAt: z.iso.datetime().nullable(),
    planProblem: z.string().nullable(),
    plan: z
      .object({
        madeAt: z.iso.datetime(),
        people: z.number().int(),
        going: z.number().int(),
        leftOut: z.array(
          z.object({ code: z.enum(LEFT_OUT_CODES), people: z.number().int(), title: z.string(), ...remedyShape }),
        ),
        channels: counts,
        countries: counts,
        parts: z.number().int(),
        cost: z.array(z.object({ amount: z.string(), currency: z.string() })),
        unpriced: z.number().int().meta({ description: 'Messages for which no price is known.' }),
        first: z.iso.datetime().nullable(),
        last: z.iso.datetime().nullable(),
        tooLate: z.number().int(),
        creditSuffices: z.boolean(),
      })
      .nullable(),
    progress: z.object({
      planned: z.number().int(),
      waiting: z.number().int(),
      sent: z.number().int(),
      delivered: z.number().int(),
      failed: z.number().int(),
      uncertain: z.number().int(),
      leftOut: z.number().int(),
      replied: z.number().int(),
      optedOut: z.number().int(),
      pressed: counts,
    }),
    held: z.object({ code: z.string(), problem: z.string(), ...remedyShape, at: z.iso.datetime() }).nullable(),
  })
  .meta({ id: 'Broadcast' });

const recipient = z
  .object({
    line: z.number().int(),
    contactId: z.string().nullable(),
    address: z.string().nullable(),
    state: z.string(),
    reason: z.string().nullable(),
    messageId: z.string().nullable(),
    dueAt: z.iso.datetime().nullable(),
    repliedAt: z.iso.datetime().nullable(),
    pressed: z.string().nullable(),
  })
  .meta({ id: 'BroadcastRecipient' });

export const BROADCAST_OPERATIONS = {
  createBroadcast: operation({
    id: 'createBroadcast',
    method: 'post',
    path: '/broadcasts',
    summary: 'Write a broadcast and have it planned',
    description:
      'Nothing is sent: read it until its plan is there, then start it. The plan says who gets it, who does not and why, when and at what cost.',
    scope: 'broadcasts:write',
    header: z.object({ 'Idempotency-Key': z.string().max(200).optional() }),
    body: order,
    example: {
      name: 'North lock closed',
      purpose: 'notice',
      text: 'North lock is closed on Tuesday, {{ first_name }}.',
      to: { tags: ['moored above'] },
      channels: ['+442079460114'],
      when: { at: 'local', day: '2026-05-05', time: '09:00', passed: 'next-day' },
    },
    answer: broadcast,
    status: 202,
  }),
  listBroadcasts: operation({
    id: 'listBroadcasts',
    method: 'get',
    path: '/broadcasts',
    summary: 'Broadcasts, newest first',
    scope: 'broadcasts:read',
    answer: z.object({ broadcasts: z.array(z.object({ id: z.string(), name: z.string(), state: z.enum(STATES) })) }),
  }),
  getBroadcast: operation({
    id: 'getBroadcast',
    method: 'get',
    path: '/broadcasts/{id}',
    summary: 'One broadcast: its plan, where it stands, what came of it',
    scope: 'broadcasts:read',
    answer: broadcast,
  }),
  planBroadcast: operation({
    id: 'planBroadcast',
    method: 'post',
    path: '/broadcasts/{id}/plan',
    summary: 'Plan it again, as things stand now',
    scope: 'broadcasts:write',
    answer: broadcast,
    status: 202,
  }),
  startBroadcast: operation({
    id: 'startBroadcast',
    method: 'post',
    path: '/broadcasts/{id}/start',
    summary: 'Start what was planned',
    description:
      'A plan is good for an hour. Above what the owner set somebody else has to approve it first; a channel that is not proven wants a reason, and one that is broken starts nothing.',
    scope: 'broadcasts:write',
    body: z.strictObject({ reason: z.string().max(500).optional() }),
    example: {},
    answer: broadcast,
    status: 202,
  }),
  holdBroadcast: operation({
    id: 'holdBroadcast',
    method: 'post',
    path: '/broadcasts/{id}/hold',
    summary: 'Hold it: from this answer on nothing leaves that was not on the wire',
    scope: 'broadcasts:write',
    answer: broadcast,
  }),
  resumeBroadcast: operation({
    id: 'resumeBroadcast',
    method: 'post',
    path: '/broadcasts/{id}/resume',
    summary: 'Go on with what was held',
    scope: 'broadcasts:write',
    answer: broadcast,
  }),
  cancelBroadcast: operation({
    id: 'cancelBroadcast',
    method: 'post',
    path: '/broadcasts/{id}/cancel',
    summary: 'End it for good; what has left has left',
    scope: 'broadcasts:write',
    answer: broadcast,
  }),
  listRecipients: operation({
    id: 'listBroadcastRecipients',
    method: 'get',
    path: '/broadcasts/{id}/recipients',
    summary: 'What became of every recipient, in the order of the plan',
    scope: 'broadcasts:read',
    query: z.object({
      show: z.enum(['going', 'left-out', 'waiting', 'sent', 'delivered', 'failed', 'uncertain', 'replied']).optional(),
      cursor: z.coerce.number().int().min(0).optional(),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    answer: z.object({ recipients: z.array(recipient), next: z.number().int().nullable() }),
  }),
} as const;
