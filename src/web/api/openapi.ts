/** The OpenAPI 3.1 document, generated from the schemas the handlers parse with. */
import { z } from 'zod';
import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiPathsObject } from 'zod-openapi';
import { STATES } from '../../core/broadcast/course';
import { ALERT_EVENTS, BROADCAST_EVENTS, EVENT_TYPES } from '../../operations/apps/webhooks';
import { API, type Operation } from './catalogue';
import { message, problemDetails, remedyShape } from './schemas';

const problem = (description: string) => ({
  description,
  content: { 'application/problem+json': { schema: problemDetails } },
});
const refusals = {
  '401': problem('No valid API key'),
  '403': problem('The key lacks the scope'),
  '429': problem('Too many calls, or a limit on sending is reached; RateLimit and Retry-After say when to go on'),
};

/** The declared operations as OpenAPI has them. */
function declared(): ZodOpenApiPathsObject {
  const paths: Record<string, Record<string, ZodOpenApiOperationObject>> = {};
  for (const operation of Object.values(API) as Operation[]) {
    const carried = [...operation.path.matchAll(/\{(\w+)\}/g)].map((match) => match[1] as string);
    const entry: ZodOpenApiOperationObject = {
      operationId: operation.id,
      summary: operation.summary,
      description: [operation.description, operation.scope ? `Needs the scope ${operation.scope}.` : 'Any key will do.']
        .filter(Boolean)
        .join(' '),
      requestParams: {
        ...(carried.length > 0
          ? { path: z.object(Object.fromEntries(carried.map((name) => [name, z.string()]))) }
          : {}),
        ...(operation.query ? { query: operation.query as z.ZodObject } : {}),
        ...(operation.header ? { header: operation.header } : {}),
      },
      ...(operation.body
        ? {
            requestBody: {
              required: true,
              content: { 'application/json': { schema: operation.body, example: operation.example } },
            },
          }
        : {}),
      responses: {
        [String(operation.answer ? (operation.status ?? 200) : 204)]: operation.answer
          ? { description: 'Done', content: { 'application/json': { schema: operation.answer } } }
          : { description: 'Done' },
        ...(operation.body ? { '400': problem('The body is not JSON'), '413': problem('The body is too large') } : {}),
        ...(operation.body || operation.query ? { '422': problem('The request cannot be right as it is') } : {}),
        ...(carried.length > 0 ? { '404': problem('There is none with this id') } : {}),
        ...(carried.length > 0 && operation.method !== 'get'
          ? { '409': problem('It is in another state by now') }
          : {}),
        ...refusals,
      },
    };
    paths[operation.path] = { ...paths[operation.path], [operation.method]: entry };
  }
  return paths;
}

const EVENT_WORDS: Record<(typeof EVENT_TYPES)[number], string> = {
  'windgap.message.received': 'A message came in',
  'windgap.message.state': 'What became of a message that went out',
  'windgap.broadcast.started': 'A broadcast of the app began to leave',
  'windgap.broadcast.held': 'A broadcast of the app was held, by somebody or by itself',
  'windgap.broadcast.finished': 'A broadcast of the app is finished or cancelled',
  'windgap.alert.began': 'An alert that a rule tells the app of has begun, and lasted as long as the rule says',
  'windgap.alert.escalated': 'Nobody has taken an alert that was told to others',
  'windgap.alert.ended': 'An alert the app was told of has ended',
};

const alertEvent = z
  .object({
    id: z.string(),
    code: z.string(),
    severity: z.enum(['error', 'attention']),
    subject: z.string(),
    problem: z.string(),
    remedy: z.string(),
    began: z.iso.datetime(),
    ended: z.iso.datetime().nullable(),
    takenBy: z.string().nullable(),
  })
  .meta({ id: 'AlertEvent' });

const people = z.number().int();
const broadcastEvent = z
  .object({
    id: z.string(),
    name: z.string(),
    state: z.enum(STATES),
    held: z.object({ code: z.string(), problem: z.string(), ...remedyShape }).nullable(),
    leftOut: people,
    waiting: people,
    sent: people,
    delivered: people,
    failed: people,
    uncertain: people,
  })
  .meta({ id: 'BroadcastEvent' });

/** What subscribers are sent, as OpenAPI's webhooks. */
const events = Object.fromEntries(
  EVENT_TYPES.map((type) => [
    type,
    {
      post: {
        summary: EVENT_WORDS[type],
        description: 'A CloudEvent (JSON format), signed by Standard Webhooks. Answer 2xx once it is stored.',
        requestBody: {
          content: {
            'application/cloudevents+json': {
              schema: z.object({
                specversion: z.literal('1.0'),
                id: z.string(),
                source: z.string(),
                type: z.literal(type),
                subject: z.string(),
                time: z.iso.datetime(),
                datacontenttype: z.literal('application/json'),
                data: (BROADCAST_EVENTS as readonly string[]).includes(type)
                  ? broadcastEvent
                  : (ALERT_EVENTS as readonly string[]).includes(type)
                    ? alertEvent
                    : message,
              }),
            },
          },
        },
        responses: { '204': { description: 'Accepted' } },
      },
    },
  ]),
);

export function openApiDocument(serverUrl: string) {
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Windgap API',
      version: '1',
      description: 'Send texts over the organisation’s channels and follow what becomes of them.',
    },
    servers: [{ url: serverUrl }],
    security: [{ apiKey: [] }],
    components: {
      securitySchemes: {
        apiKey: { type: 'http', scheme: 'bearer', description: 'An API key made on the app’s page.' },
      },
    },
    webhooks: events,
    paths: declared(),
  });
}
