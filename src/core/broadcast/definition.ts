/** A broadcast as somebody writes it: what is said, to whom, over what, and when. */
import { z } from 'zod';
import type { Group } from '../contacts/audience';
import type { Source } from '../templates/mapping';
import type { PostedRecord } from '../text/fields';
import { type HoldRules, USUAL_RULES } from './course';
import type { BroadcastMessage } from './plan';
import { PASSED, type When } from './timetable';

/** People taken together: all parts of `include`, without those of `exclude`. */
export interface BroadcastAudience {
  include: AudiencePart[];
  exclude: AudiencePart[];
}

export type AudiencePart =
  | { by: 'everybody' }
  /** A saved audience. */
  | { by: 'saved'; id: string }
  | { by: 'filter'; conditions: Group }
  | { by: 'people'; ids: string[] }
  /** Whom another broadcast did not reach for a cause that passes. */
  | { by: 'failed'; id: string }
  /** The list that was given to this broadcast. */
  | { by: 'list' };

export interface BroadcastDefinition {
  message: BroadcastMessage;
  audience: BroadcastAudience;
  /** Ids, in the order in which they are tried for each person. */
  channels: string[];
  when: When;
  /** Minutes after which it is of no use to somebody, from the moment it is due for them; null: it always is. */
  usefulMinutes: number | null;
  /** Whether nobody is written to at night. */
  quietHours: boolean;
  rules: HoldRules;
}

/** Longest text a person writes here; what is merged in comes on top. */
const LONGEST = 1600;
const LONGEST_USEFUL = 7 * 24 * 60;

const share = z.number().min(0).max(1);
/** Where a variable of a template gets its value. */
export const mappingSource: z.ZodType<Source> = z.union([
  z.strictObject({ from: z.literal('field'), field: z.string().max(200), fallback: z.string().max(500).optional() }),
  z.strictObject({
    from: z.literal('attribute'),
    attribute: z.string().max(200),
    fallback: z.string().max(500).optional(),
  }),
  z.strictObject({ from: z.literal('constant'), value: z.string().max(500) }),
]);
const day = z
  .string()
  .refine((text) => /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(Date.parse(`${text}T00:00:00Z`)));

/** Everything but the conditions of a filter, which their own reader checks. */
export const broadcastDefinition = z.strictObject({
  message: z.strictObject({
    purpose: z.enum(['notice', 'marketing']),
    text: z.string().max(LONGEST),
    subject: z.string().max(200).optional(),
    choices: z.array(z.string().trim().min(1).max(60)).max(10),
    template: z
      .strictObject({ id: z.string().max(60), mapping: z.record(z.string().max(200), mappingSource) })
      .optional(),
    anyLanguage: z.boolean(),
    given: z.custom<PostedRecord>((value) => z.record(z.string(), z.json()).safeParse(value).success).optional(),
  }),
  audience: z.strictObject({
    include: z.array(z.custom<AudiencePart>()).max(50),
    exclude: z.array(z.custom<AudiencePart>()).max(50),
  }),
  channels: z.array(z.string().max(60)).max(10),
  when: z.union([
    z.strictObject({ at: z.literal('once') }),
    z.strictObject({ at: z.literal('instant'), instant: z.number().int() }),
    z.strictObject({
      at: z.literal('local'),
      day,
      time: z.string().regex(/^(?:[01]\d|2[0-3]):[0-5]\d$/),
      passed: z.enum(PASSED),
    }),
  ]),
  usefulMinutes: z.number().int().min(1).max(LONGEST_USEFUL).nullable(),
  quietHours: z.boolean(),
  rules: z.strictObject({
    first: z.number().int().min(0).max(5000),
    known: share,
    waitMinutes: z
      .number()
      .int()
      .min(1)
      .max(24 * 60),
    failed: share,
    optedOut: share,
    silent: share,
    sample: z.number().int().min(1).max(5000),
  }),
});

/** With everything still to be said, and the careful choice wherever there is one. */
export const EMPTY_DEFINITION: BroadcastDefinition = {
  message: { purpose: 'notice', text: '', choices: [], anyLanguage: true },
  audience: { include: [], exclude: [] },
  channels: [],
  when: { at: 'once' },
  usefulMinutes: null,
  quietHours: true,
  rules: USUAL_RULES,
};

/** What is missing before it can be planned, each at its field. */
export function missingOf(
  { message, audience, channels, when }: BroadcastDefinition,
  now: number,
): { field: string; problem: string; remedy: string }[] {
  const missing = [];
  if (message.text.trim() === '' && !message.template)
    missing.push({ field: 'text', problem: 'It says nothing yet.', remedy: 'Write a text, or choose a template.' });
  if (audience.include.length === 0)
    missing.push({
      field: 'audience',
      problem: 'It goes to nobody yet.',
      remedy: 'Choose an audience, give a list, or name people.',
    });
  if (channels.length === 0)
    missing.push({ field: 'channels', problem: 'It has no channel.', remedy: 'Choose over which channel it goes.' });
  if (when.at === 'instant' && when.instant < now)
    missing.push({ field: 'when', problem: 'This moment is over.', remedy: 'Choose a later one, or send it at once.' });
  return missing;
}
