/** The shape of the examples a profile may record: what the provider answered or posted, and how that must be read. */
import { z } from 'zod';
import { causeCode } from './pieces';

const body = z.string().max(20_000).describe('Just as it was');

const json: z.ZodType<unknown> = z.lazy(() =>
  z.union([z.string(), z.number(), z.boolean(), z.null(), z.array(json), z.record(z.string(), json)]),
);

export const example = z.union([
  z
    .strictObject({
      answers: z.enum(['account', 'numbers', 'send']),
      status: z.number().int().min(100).max(599).default(200),
      body,
      reads: json.optional().describe('What is read of it; more may be'),
      refused: causeCode.optional().describe('The cause that is read of it'),
    })
    .describe('An answer to one of the requests'),
  z.strictObject({ posts: body, reads: json }).describe('A post to the inbound URL, and what is read of it'),
]);

export type Example = z.infer<typeof example>;
