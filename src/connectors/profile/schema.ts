/**
 * The shape of a connector profile: everything Windgap needs to know to speak to one
 * provider, without code. Strings marked "template" are Liquid; paths are JSONPath
 * (RFC 9535). See docs/connector-profiles.md; published as JSON Schema.
 */
import { z } from 'zod';
import { AMOUNT_UNITS } from '../http/read';
import { MAIL_SECURITY } from '../mail/security';
import { example } from './example';
import { causeCode, errors, hmac, http, limits, opening, path, pattern, request, template } from './pieces';
import { templates } from './templates';

const readNumber = {
  abilities: path.optional(),
  inboundUrl: path.optional(),
  inboundMethod: path.optional(),
  inboundFallback: path.optional(),
  state: path.optional(),
  testMode: path.optional(),
  testModeSince: path.optional(),
  joinCode: path.optional(),
  allowance: path.optional(),
  shared: path.optional(),
  monthlyPrice: path.optional(),
  setupPrice: path.optional(),
  currency: path.optional(),
};

const readAccount = z.strictObject({
  id: path.optional(),
  name: path.optional(),
  balance: path.optional(),
  currency: path.optional(),
  expiresAt: path.optional().describe('An ISO time, or seconds since 1970'),
  permissions: path.optional(),
  countries: path.optional(),
  trial: path.optional(),
  verifiedPhones: path.optional(),
  mode: path.optional(),
  payment: path.optional(),
  subscriptions: path.optional(),
  callbackUrl: path.optional(),
  callbackVerified: path.optional(),
  registrations: z
    .strictObject({ each: path, country: path, brand: path, use: path, reason: path.optional() })
    .optional(),
});

const inbound = z.strictObject({
  method: z.enum(['POST', 'GET']).default('POST').describe('With GET everything is in the query, as a form'),
  format: z
    .enum(['json', 'json-event', 'form'])
    .default('json')
    .describe(
      "A form, and JSON that is one event (json-event), is read as a list with one element, so that a path can choose: $[?@.type=='text']",
    ),
  signature: z
    .strictObject({
      header: z.string().toLowerCase(),
      timestampHeader: z.string().toLowerCase().optional(),
      parts: pattern.optional().describe('Takes the header apart; groups named "signature" and "timestamp"'),
      toleranceSeconds: z.number().int().positive().default(300),
      ...hmac,
      signed: template.describe('May use timestamp, body, url and sortedForm'),
    })
    .optional(),
  token: z
    .strictObject({ header: z.string().toLowerCase().optional(), query: z.string().optional(), equals: template })
    .optional(),
  basic: z.strictObject({ user: template, password: template }).optional(),
  challenge: z
    .strictObject({
      when: z.record(z.string(), z.string()).default({}).describe('Query fields that mark a challenge'),
      word: z.string().describe('Query field with the verification word'),
      echo: z.string().describe('Query field to be sent back'),
    })
    .optional(),
  texts: z.strictObject({
    each: path,
    providerMessageId: path,
    from: path,
    to: path,
    text: path.optional(),
    at: path.optional(),
    senderName: path.optional(),
    answers: path.optional().describe('The id of the message of ours it answers, where the person chose one'),
    media: z.strictObject({ url: path, type: path }).optional().describe('A file that came with the text, by address'),
  }),
  receipts: z
    .strictObject({
      each: path,
      providerMessageId: path,
      reference: path.optional(),
      state: path,
      code: path.optional(),
      at: path.optional(),
      states: z
        .record(z.string(), z.enum(['sent', 'delivered', 'undelivered', 'read', 'nothing']))
        .describe('Its words for each state; “nothing” is taken and changes nothing'),
      codes: z.record(z.string(), causeCode).default({}),
    })
    .optional(),
  reactions: z
    .strictObject({ each: path, message: path, sign: path.optional(), at: path.optional() })
    .optional()
    .describe('Signs people put to messages of ours; one without a sign takes it away'),
  consents: z
    .strictObject({
      each: path,
      from: path,
      to: path,
      what: path,
      words: z.record(z.string(), z.enum(['withdrawn', 'given'])),
      at: path.optional(),
    })
    .optional()
    .describe('Words to opt out or in that the provider took for itself and tells of'),
  ignore: path.optional().describe('Events of no interest, which are acknowledged'),
});

const httpParts = {
  addressForm: z
    .enum(['plus', 'digits'])
    .default('plus')
    .describe('How the provider writes phone numbers: +447700900123 or 447700900123'),
  amounts: z.enum(AMOUNT_UNITS).default('major').describe('How amounts are written: 1.25, 125 or 1250000'),
  http,
  errors,
  account: z.strictObject({
    request,
    read: readAccount,
    also: z
      .array(z.strictObject({ request, read: readAccount }))
      .default([])
      .describe('Further requests whose answers add facts'),
    words: z
      .strictObject({
        mode: z.record(z.string(), z.enum(['live', 'development'])).default({}),
        payment: z.record(z.string(), z.enum(['ready', 'missing'])).default({}),
        registration: z.record(z.string(), z.enum(['draft', 'submitted', 'approved', 'rejected', 'none'])).default({}),
        numberState: z.record(z.string(), z.enum(['ready', 'code-needed', 'taken'])).default({}),
      })
      .prefault({}),
  }),
  requires: z
    .strictObject({
      permissions: z.array(z.string()).default([]),
      subscriptions: z.array(z.string()).default([]),
      registrationCountries: z.array(z.string().length(2)).default([]),
    })
    .prefault({}),
  numbers: z.strictObject({
    request,
    each: path,
    read: z.strictObject({ remoteId: path, address: path, ...readNumber }),
    search: z
      .strictObject({
        request,
        each: path,
        read: z.strictObject({
          offerId: path,
          address: path,
          abilities: path.optional(),
          monthlyPrice: path.optional(),
          setupPrice: path.optional(),
          currency: path.optional(),
        }),
      })
      .optional(),
    claim: request.optional(),
    release: request.optional(),
    endTestMode: request.optional(),
    code: z.strictObject({ start: request, confirm: request }).optional(),
  }),
  phoneCode: z.strictObject({ start: request, confirm: request }).optional(),
  register: z.strictObject({ brand: request, use: request }).optional(),
  setInbound: z.strictObject({ belongsTo: z.enum(['number', 'account']).default('number'), request }).optional(),
  subscribe: request.optional(),
  send: z.strictObject({
    request,
    read: z.strictObject({ providerMessageId: path, price: path.optional(), currency: path.optional() }),
    honoursReference: z.boolean().default(false),
    media: z
      .strictObject({
        types: z
          .array(z.string().regex(/^[a-z]+\/[a-z0-9.+-]+$/))
          .min(1)
          .describe('Media types that are carried'),
        request,
      })
      .optional()
      .describe('How a text with a file is sent; may use message.media.url and message.media.type'),
    choices: z
      .strictObject({ most: z.number().int().min(1).max(20), longest: z.number().int().min(1).max(200), request })
      .optional()
      .describe('How a text with answers to press is sent; may use message.choices, the list of their labels'),
  }),
  textState: z
    .strictObject({
      request: request.describe('May use message.providerMessageId'),
      state: path,
      code: path.optional(),
      at: path.optional(),
      states: z.record(z.string(), z.enum(['taken', 'sent', 'delivered', 'undelivered', 'read'])),
      codes: z.record(z.string(), causeCode).default({}),
    })
    .optional()
    .describe('How the provider is asked what became of one text'),
  inbound,
  limits,
  examples: z
    .array(example)
    .max(60)
    .optional()
    .describe('What the provider answered and posted, with how it must be read: run whenever the profile is written'),
};

const smsOverHttp = z.strictObject({ ...opening, kind: z.literal('sms-http'), ...httpParts });
const businessChat = z.strictObject({
  ...opening,
  kind: z.literal('business-chat'),
  ...httpParts,
  templates: templates.optional(),
});

const platformChat = z.strictObject({ ...opening, kind: z.literal('platform-chat'), ...httpParts });

const trunk = z.strictObject({
  ...opening,
  kind: z.literal('sms-trunk'),
  trunk: z.strictObject({
    host: template,
    port: template,
    systemId: template,
    password: template,
    systemType: template.default(''),
    settings: z
      .record(z.string(), z.union([z.string(), z.number()]))
      .default({})
      .describe('The carrier’s own values of the trunk settings'),
    mostPace: z.number().positive(),
    mostWindow: z.number().int().min(1).max(200),
    receiptErrors: z.record(z.string(), causeCode).default({}),
  }),
});

/** How a mail server is talked to. */
const mailServer = z.strictObject({
  host: template,
  port: template,
  user: template,
  password: template,
  security: z
    .enum(MAIL_SECURITY)
    .optional()
    .describe('tls from the first octet, starttls or nothing, starttls where it is offered, or none'),
  believed: z.string().max(20_000).optional().describe('Certificates believed in place of the public authorities, PEM'),
});

/** How mail is handed to a server. */
const smtp = mailServer.extend({
  from: template.describe('The address mail is sent from; replies come back to it'),
});

const reportsDelivery = z
  .boolean()
  .default(false)
  .describe('The server reports each delivery to whoever asks (RFC 3461); else nothing but a return is heard of');

const mailbox = z.strictObject({
  ...opening,
  kind: z.literal('mailbox'),
  mail: smtp,
  inbound: z.union([
    z
      .strictObject({
        token: z.strictObject({ header: z.string().toLowerCase(), equals: template }),
        recipient: z.string().toLowerCase().describe('The header of the post with the address the mail was for'),
        reportsDelivery,
      })
      .describe('Mail is posted whole, as message/rfc822'),
    z
      .strictObject({
        imap: mailServer.extend({
          folder: template.default('INBOX').describe('Which mailbox of the account is read'),
        }),
        reportsDelivery,
      })
      .describe('Mail is read from the mailbox over IMAP; nothing in it is changed'),
  ]),
  limits,
});

const emailGateway = z.strictObject({
  ...opening,
  kind: z.literal('email-gateway'),
  mail: smtp,
  lookup: z.strictObject({
    http: http,
    request: request.describe('May use phone'),
    carrier: path,
    errors: errors,
  }),
  inbound: z.strictObject({
    token: z.strictObject({ header: z.string().toLowerCase(), equals: template }),
    mails: z.strictObject({ each: path, id: path, from: path, to: path, subject: path.optional(), text: path }),
    bounces: z.strictObject({ each: path, messageId: path, said: path }),
  }),
  limits,
});

export const profileSchema = z.discriminatedUnion('kind', [
  smsOverHttp,
  businessChat,
  platformChat,
  trunk,
  mailbox,
  emailGateway,
]);

export type Profile = z.infer<typeof profileSchema>;
export type HttpProfile = z.infer<typeof smsOverHttp> | z.infer<typeof businessChat> | z.infer<typeof platformChat>;
export type TrunkProfile = z.infer<typeof trunk>;
export type MailProfile = z.infer<typeof emailGateway>;
export type MailboxProfile = z.infer<typeof mailbox>;

/** For editors and other tools: JSON Schema 2020-12 of what may be written. */
export function profileJsonSchema(): object {
  return { $id: 'windgap-connector-profile-1', ...z.toJSONSchema(profileSchema, { io: 'input' }) };
}
