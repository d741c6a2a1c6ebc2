/** The public API's shapes: what handlers parse, and what the OpenAPI document is made of. */
import { z } from 'zod';
import { causeCodes } from '../../core/delivery/causes';

/** What to do. */
export const remedyShape = {
  fix: z.string().meta({ description: 'What to do about it.' }),
};

const e164 = '+447700900123';

const media = z.strictObject({
  url: z
    .url()
    .max(2000)
    .meta({ description: 'Where the file can be fetched.', example: 'https://mossgate.example/plan.png' }),
  type: z.string().max(100).meta({ description: 'IANA media type.', example: 'image/png' }),
});

export const sendRequest = z
  .strictObject({
    to: z.string().max(254).optional().meta({
      description:
        'Recipient in any human form: a number, or over e-mail an address. A national number is read in the channel’s country. Optional with inReplyTo.',
      example: e164,
    }),
    from: z
      .string()
      .max(60)
      .optional()
      .meta({ description: 'Channel id or number to send from. Optional when there is only one, or with inReplyTo.' }),
    text: z
      .string()
      .max(20_000)
      .default('')
      .meta({ description: 'The text as the person is to read it.', example: 'Your booking at 14:20 is confirmed.' }),
    template: z
      .strictObject({
        id: z.string().max(60).meta({ description: 'Id or name of the template.', example: 'passage-booked' }),
        values: z
          .record(z.string().max(60), z.string().max(1000))
          .meta({ description: 'By the names of its variables.', example: { lock: 'Tuesday', time: '14:30' } }),
        language: z.string().max(20).optional().meta({
          description: 'BCP 47. Without it the person gets the variant of their own language, or the first.',
        }),
      })
      .optional()
      .meta({ description: 'Sent instead of a text; a chat platform must have approved it.' }),
    media: media
      .optional()
      .meta({ description: 'A file that goes with the text, where the channel’s provider carries files.' }),
    tags: z
      .array(z.string().min(1).max(40))
      .max(20)
      .optional()
      .meta({ description: 'Words to find the message by later.', example: ['passage'] }),
    validUntil: z.iso.datetime({ offset: true }).optional().meta({
      description:
        'The last moment at which it is of use, within seven days: it is not sent after that, and the provider is told where it takes such a thing.',
      example: '2026-05-04T12:00:00Z',
    }),
    choices: z
      .array(z.string().trim().min(1).max(40))
      .max(10)
      .optional()
      .meta({
        description:
          'Answers that may be pressed: buttons where the channel shows such, in words below the text elsewhere.',
        example: ['Yes', 'No'],
      }),
    subject: z.string().max(200).optional().meta({
      description: 'Over e-mail: its subject. An answer takes the one it answers, anything else the channel’s.',
      example: 'Your passage on Sunday',
    }),
    inReplyTo: z
      .string()
      .max(60)
      .optional()
      .meta({ description: 'Id of the inbound message this answers; joins both on one trail.' }),
  })
  .meta({ id: 'SendMessage' });

export const message = z
  .object({
    id: z.string().meta({ example: 'msg_01JD0V7M3T8Q4W5X6Y7Z8A9B0C' }),
    direction: z.enum(['inbound', 'outbound']),
    channelId: z.string(),
    conversationId: z.string(),
    contactId: z.string(),
    from: z.string().meta({ example: '+442079460100' }),
    to: z.string().meta({ example: e164 }),
    text: z.string(),
    media: media.nullable().meta({ description: 'A file that came or went with the text.' }),
    files: z
      .array(
        z.object({
          name: z.string(),
          type: z.string().meta({ description: 'As its content shows; empty where that tells nothing.' }),
          bytes: z.number().int(),
          url: z.string().nullable().meta({ description: 'Where it is kept; null where it was not kept.' }),
        }),
      )
      .meta({ description: 'Files that came along; the first that was kept is `media`, too.' }),
    choices: z.array(z.string()).meta({ description: 'Answers that may be pressed, or were offered in words.' }),
    subject: z.string().nullable().meta({ description: 'Of a mail.' }),
    automatic: z.boolean().meta({ description: 'A program wrote it; nothing should answer it by itself.' }),
    encoding: z.enum(['GSM-7', 'UCS-2']),
    parts: z.number().int(),
    state: z.enum(['received', 'queued', 'sending', 'uncertain', 'sent', 'failed', 'delivered', 'read']),
    stateAt: z.iso.datetime(),
    cause: z
      .object({ code: z.enum(causeCodes() as [string, ...string[]]), title: z.string(), ...remedyShape })
      .nullable()
      .meta({ description: 'Why it failed or waits, from the causes catalogue.' }),
    inReplyTo: z.string().nullable(),
    insteadOf: z.string().nullable().meta({ description: 'The message whose second way this is.' }),
    fallback: z
      .object({
        channelId: z.string(),
        messageId: z
          .string()
          .nullable()
          .meta({ description: 'The message that goes over it; null as long as none does.' }),
      })
      .nullable()
      .meta({
        description:
          'The channel it goes over if this one does not deliver it. While it is there, a failed message is not to be sent again: its second way is.',
      }),
    tags: z.array(z.string()),
    createdAt: z.iso.datetime(),
  })
  .meta({ id: 'Message' });

export const listQuery = z.object({
  direction: z.enum(['inbound', 'outbound']).optional(),
  state: message.shape.state.optional(),
  channel: z.string().max(60).optional(),
  contact: z.string().max(60).optional().meta({ description: 'The id of a contact.' }),
  conversation: z.string().max(60).optional().meta({ description: 'The id of a conversation.' }),
  tag: z.string().max(100).optional().meta({ description: 'A tag it was sent with.' }),
  since: z.iso.datetime({ offset: true }).optional().meta({ description: 'Made at this moment or later.' }),
  until: z.iso.datetime({ offset: true }).optional().meta({ description: 'Made before this moment.' }),
  limit: z.coerce.number().int().min(1).max(200).default(50),
  cursor: z.string().max(60).optional().meta({ description: 'As given in `next` of the page before.' }),
});

export const messagePage = z
  .object({ messages: z.array(message), next: z.string().nullable() })
  .meta({ id: 'MessagePage' });

export const problemDetails = z
  .object({
    type: z.string().meta({ description: 'Stable URI of the kind of problem (RFC 9457).' }),
    title: z.string(),
    status: z.number().int(),
    detail: z.string().optional(),
    instance: z.string(),
    errors: z.array(z.object({ field: z.string(), code: z.string(), problem: z.string(), ...remedyShape })).optional(),
  })
  .meta({ id: 'Problem' });
