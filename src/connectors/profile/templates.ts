/** How a platform takes templates: its rules, how one is submitted, and how it says what became of it. */
import { z } from 'zod';
import { CATEGORIES, MEDIA_KINDS } from '../../core/templates/template';
import { path, pattern, request, template } from './pieces';

const BUTTONS = ['link', 'call', 'quick-reply'] as const;
const count = z.number().int().min(0);
const partialRecord = <Key extends string, Value extends z.ZodType>(keys: readonly Key[], value: Value) =>
  z.partialRecord(z.enum(keys as [Key, ...Key[]]), value);

const rules = z.strictObject({
  name: z.strictObject({ pattern, words: z.string(), longest: count }),
  header: z.strictObject({
    kinds: z.array(z.enum(['text', ...MEDIA_KINDS])),
    longest: count,
    mostVariables: count,
    media: partialRecord(
      MEDIA_KINDS,
      z.strictObject({ types: z.array(z.string()).min(1), mostBytes: z.number().int().positive() }),
    ),
  }),
  body: z.strictObject({
    longest: count,
    mostVariables: count,
    variableAtEdge: z.boolean(),
    variablesAdjacent: z.boolean(),
    wordsPerVariable: z.number().min(0),
    mostLineBreaks: count,
  }),
  footer: z.strictObject({ longest: count }),
  buttons: z.strictObject({ most: count, mostOf: partialRecord(BUTTONS, count), longestLabel: count }),
  links: z.strictObject({ secureOnly: z.boolean(), shorteners: z.array(z.string()).default([]) }),
});

const read = z.strictObject({
  remoteId: path,
  edition: path.optional().describe('Tells the versions of one template apart'),
  state: path,
  category: path.optional(),
  usualMinutes: path.optional(),
  decidedAt: path.optional(),
  reasons: z
    .strictObject({ each: path, text: path, code: path.optional(), part: path.optional(), language: path.optional() })
    .optional(),
});

export const templates = z
  .strictObject({
    placeholder: template.describe('How the platform writes a variable; may use number, counted from 1'),
    categories: partialRecord(CATEGORIES, z.string()).describe('Which there are, and how the platform calls them'),
    buttons: partialRecord(BUTTONS, z.string()),
    parts: z
      .record(z.string(), z.enum(['header', 'body', 'footer', 'buttons', 'samples', 'language', 'name', 'category']))
      .default({})
      .describe('How the platform calls what its reasons are about'),
    states: z.record(z.string(), z.enum(['in-review', 'approved', 'rejected', 'paused', 'retired'])),
    rules,
    submit: z.strictObject({ request, one: path }),
    revise: z.strictObject({ request, one: path }).optional().describe('Submits a new version of a known template'),
    fetch: z.strictObject({ request, each: path }),
    find: z
      .strictObject({ request, each: path })
      .optional()
      .describe('Every version of the template of a name, for a submission whose answer was lost'),
    retire: request.optional(),
    read,
    callback: z.strictObject({ each: path }).optional().describe('Where a post to the inbound URL tells of reviews'),
    send: request.describe('Sends a message of an approved template'),
  })
  .describe('Templates that the platform approves before they may be sent');

export type TemplatesShape = z.infer<typeof templates>;
