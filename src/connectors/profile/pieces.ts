/** Pieces that every kind of profile is built of. */
import { query } from 'jsonpath-rfc9535';
import parsePath from 'jsonpath-rfc9535/parser';
import { z } from 'zod';
import { type CauseCode, causeCodes } from '../../core/delivery/causes';
import { priceLine } from '../../core/limits/prices';
import { templateProblem } from '../../core/text/liquid';
import { compilePattern } from '../../core/text/pattern';

export const template = z
  .string()
  .max(2000)
  .superRefine((text, context) => {
    const problem = templateProblem(text);
    if (problem) context.addIssue({ code: 'custom', message: problem });
  })
  .describe('Liquid template');
export const path = z
  .string()
  .startsWith('$', 'A path starts with $ (RFC 9535)')
  .max(300)
  .refine(isPath, 'Not a path of RFC 9535')
  .refine(
    (text) => !isPath(text) || isCheap(text),
    'match(), search() and more than one “..” are not offered: what is posted could make them take for ever',
  )
  .describe('JSONPath, RFC 9535');
export const pattern = z
  .string()
  .max(300)
  .refine(isPattern, 'Not a pattern that can be matched in linear time (RE2 syntax)');
export const causeCode = z.enum(causeCodes() as [CauseCode, ...CauseCode[]]);

export type BodyTree = string | number | boolean | null | BodyTree[] | { [name: string]: BodyTree };

const bodyTree: z.ZodType<BodyTree> = z.lazy(() =>
  z.union([template, z.number(), z.boolean(), z.null(), z.array(bodyTree), z.record(z.string(), bodyTree)]),
);
const flat = z.record(z.string(), template);

export const request = z
  .strictObject({
    method: z.enum(['GET', 'POST', 'PUT', 'PATCH', 'DELETE']),
    path: template,
    query: flat.optional(),
    headers: flat.optional(),
    json: bodyTree.optional(),
    form: flat.optional(),
  })
  .describe('One HTTP request; its body is json or form');

export type RequestPlan = z.infer<typeof request>;

export const limits = z.strictObject({
  pace: z.number().positive().describe('Messages a second'),
  concurrency: z.number().int().positive().max(64).default(8),
  longestText: z.number().int().positive().default(1600),
  replyWindowHours: z.number().positive().optional(),
});

/** How what is signed becomes a signature. */
export const hmac = {
  algorithm: z.enum(['sha1', 'sha256', 'sha512']),
  encoding: z.enum(['hex', 'base64']),
  prefix: z.string().default(''),
  key: template,
};

/** How any request is made. */
export const http = z.strictObject({
  base: template,
  timeoutSeconds: z.number().min(1).max(60).default(10),
  basic: z.strictObject({ user: template, password: template }).optional(),
  bearer: template.optional(),
  headers: z.record(z.string(), template).optional(),
  query: z.record(z.string(), template).optional(),
  sign: z
    .strictObject({
      header: z.string(),
      timestampHeader: z.string().optional(),
      ...hmac,
      signed: template.describe('May use method, path, timestamp and body'),
    })
    .optional(),
});

/** What a refusal means: the first rule whose status and code both fit. */
export const errors = z.strictObject({
  code: path.optional(),
  text: path.optional(),
  refusedWhere: path
    .optional()
    .describe('Finds something only in answers that refuse, for providers that refuse with a status of 200 as well'),
  acceptedWhere: z
    .strictObject({ at: path, is: z.array(z.string()).min(1) })
    .optional()
    .describe('What stands there in every answer that accepts; another word there is a refusal, whatever the status'),
  rules: z
    .array(
      z.strictObject({
        status: z.number().int().min(100).max(599).optional(),
        code: z.string().optional(),
        cause: causeCode,
      }),
    )
    .min(1),
});

/** What a text costs, for those who would rather not enter a list: as the provider publishes it. */
const prices = z
  .array(
    z.strictObject({
      to: priceLine.shape.to.describe(
        'A country such as GB, the beginning of numbers such as +4477, or * for the rest',
      ),
      kind: priceLine.shape.kind,
      perPart: z.number().min(0).max(1000).describe('In units of the currency'),
      currency: priceLine.shape.currency,
    }),
  )
  .max(2000)
  .optional();

/** What every profile begins with. */
export const opening = {
  profile: z.literal(1),
  id: z.string().regex(/^[a-z][a-z0-9-]{1,30}$/, 'Small letters, digits and hyphens'),
  name: z.string().min(1).max(60),
  summary: z.string().max(300),
  prices,
  preconditions: z
    .array(z.union([z.string(), z.strictObject({ text: z.string(), help: z.string().optional() })]))
    .min(1),
  credentials: z
    .array(
      z.strictObject({
        name: z.string().regex(/^[a-z][A-Za-z0-9]*$/),
        label: z.string(),
        help: z.string(),
        secret: z.boolean().default(false),
        initial: z.string().optional(),
        pattern: pattern.optional(),
      }),
    )
    .min(1),
  handover: z
    .array(
      z.strictObject({
        text: z.string(),
        value: z.enum(['inbound-url', 'fallback-url', 'challenge-word']).optional(),
      }),
    )
    .default([]),
};

function isPath(text: string): boolean {
  try {
    query(null, text);
    return true;
  } catch {
    return false;
  }
}

/**
 * Whether a path costs no more than what it is looked for in, times a little. Patterns of RFC 9535 are matched by
 * going back and forth, and one “..” inside another looks through everything for each of everything.
 */
function isCheap(text: string): boolean {
  let searches = 0;
  let descents = 0;
  walk(parsePath(text));
  return searches === 0 && descents < 2;

  function walk(node: unknown): void {
    if (typeof node !== 'object' || node === null) return;
    const { type, name } = node as { type?: string; name?: string };
    if (type === 'FunctionExpr' && (name === 'search' || name === 'match')) searches += 1;
    if (type === 'DescendantSegment') descents += 1;
    for (const part of Object.values(node)) walk(part);
  }
}

function isPattern(text: string): boolean {
  return typeof compilePattern(text) !== 'string';
}
