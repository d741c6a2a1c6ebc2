/**
 * The shape of an app profile: how Windgap keeps records in one business application. The
 * same pieces as a connector profile; templates may use `credentials`, `phone`, `id` and
 * `reference`, which stays the same when a request is made again.
 */
import { z } from 'zod';
import { errors, http, opening, path, request } from '../profile/pieces';

const { handover: _, ...beginning } = opening;

/** Where the mapped fields stand in the JSON body: nowhere for the body itself, else the names on the way. */
const into = z.array(z.string().min(1)).max(4).default([]);

const record = z.strictObject({
  label: z.string().min(1).max(40),
  fields: z
    .array(
      z.strictObject({
        name: z.string().min(1).max(60).describe('As the app names it'),
        label: z.string(),
        required: z.boolean().default(false),
        onlyNew: z.boolean().default(false).describe('Filled when a record is made; one that is there keeps its own'),
        longest: z.number().int().positive().optional(),
        /** What it is filled with until somebody says otherwise: a text with merge fields. */
        initial: z.string().default(''),
      }),
    )
    .min(1),
  find: z
    .strictObject({
      request,
      each: path,
      id: path,
      title: path.optional(),
      url: path.optional(),
      owner: path.optional().describe('Whose record it is: an e-mail address or a name'),
    })
    .optional(),
  create: z
    .strictObject({
      request,
      into,
      id: path,
      url: path.optional(),
      honoursReference: z.boolean().default(false).describe('The same reference makes no second record'),
    })
    .optional(),
  update: z.strictObject({ request, into }).optional(),
  count: z.strictObject({ request, open: path }).optional().describe('How many of them a phone has open'),
});

export const appProfileSchema = z.strictObject({
  ...beginning,
  http,
  errors,
  check: z.strictObject({ request, name: path.optional() }),
  records: z.record(z.string().regex(/^[a-z][a-z-]{0,20}$/), record),
});

export type AppProfile = z.infer<typeof appProfileSchema>;
