/** The bench: simulated handsets and fault switches behind a control address, where an installation has one. */
import { z } from 'zod';
import { type Actor, type AppContext, OperationError, requireRole } from '../context';

const handset = z.object({
  number: z.string(),
  owner: z.string(),
  forTests: z.boolean().optional(),
  /** It is a mailbox, and its number a mail address. */
  mailbox: z.boolean().optional(),
  country: z.string(),
  power: z.enum(['on', 'off']),
  delayMs: z.number(),
  entries: z.array(
    z.object({
      id: z.string(),
      at: z.string(),
      direction: z.enum(['received', 'sent']),
      way: z.enum(['text', 'chat', 'mail', 'talk']).default('text'),
      peer: z.string(),
      text: z.string(),
      file: z.object({ address: z.string(), type: z.string() }).optional(),
      encoding: z.string(),
      parts: z.number(),
    }),
  ),
});

const benchState = z.object({
  handsets: z.array(handset),
  numbers: z.array(
    z.object({
      number: z.string(),
      account: z.string(),
      way: z.enum(['text', 'chat', 'mail', 'talk']),
      fromMailbox: z.boolean().optional(),
    }),
  ),
  faults: z.record(z.string(), z.record(z.string(), z.union([z.boolean(), z.number()]))),
  reviewer: z.object({ reviewMs: z.number(), perHour: z.number() }),
  consoles: z.array(z.object({ name: z.string(), what: z.string(), url: z.string() })),
  clock: z.object({ now: z.number(), movedBy: z.number() }),
});

export type BenchState = z.infer<typeof benchState>;

export function hasBench(ctx: AppContext): boolean {
  return ctx.config.benchUrl !== undefined;
}

export async function readBench(ctx: AppContext, actor: Actor): Promise<BenchState> {
  requireRole(actor, 'agent');
  return benchState.parse(await call(ctx, 'GET', '/'));
}

/** What one handset received since some time. */
export interface HandsetSight {
  entries: { text: string; peer: string; at: number }[];
}

const sights = z.record(z.string(), z.array(z.object({ at: z.string(), peer: z.string(), text: z.string() })));

/** What handsets received since `since`; a handset that the bench does not have is left out. */
export async function seeHandsets(
  ctx: AppContext,
  numbers: readonly string[],
  since: number,
): Promise<ReadonlyMap<string, HandsetSight>> {
  if (numbers.length === 0) return new Map();
  const query = new URLSearchParams({ numbers: numbers.join(), since: new Date(since).toISOString() });
  const seen = sights.parse(await call(ctx, 'GET', `/received?${query}`));
  return new Map(
    Object.entries(seen).map(([number, entries]) => [
      number,
      { entries: entries.map(({ text, peer, at }) => ({ text, peer, at: Date.parse(at) })) },
    ]),
  );
}

export async function typeOnHandset(
  ctx: AppContext,
  actor: Actor,
  input: { number: string; to: string; text: string; way?: string; picture?: boolean },
): Promise<void> {
  requireRole(actor, 'agent');
  const { number, ...text } = input;
  await call(ctx, 'POST', `/handsets/${encodeURIComponent(number)}/texts`, text);
}

/** Puts an event into the calendar of the bench. Returns its uid. */
export async function addCalendarEvent(
  ctx: AppContext,
  actor: Actor,
  event: { title: string; notes: string; at: number },
): Promise<string> {
  requireRole(actor, 'administrator');
  const made = await call(ctx, 'POST', '/calendar/events', { ...event, at: new Date(event.at).toISOString() });
  return z.object({ uid: z.string() }).parse(made).uid;
}

export async function setHandset(
  ctx: AppContext,
  actor: Actor,
  input: { number: string; power?: 'on' | 'off'; delayMs?: number },
): Promise<void> {
  requireRole(actor, 'agent');
  const { number, ...settings } = input;
  await call(ctx, 'PATCH', `/handsets/${encodeURIComponent(number)}`, settings);
}

export async function setFault(
  ctx: AppContext,
  actor: Actor,
  input: { service: string; fault: string; value: boolean | number },
): Promise<void> {
  requireRole(actor, 'administrator');
  await call(ctx, 'PATCH', '/faults', { [input.service]: { [input.fault]: input.value } });
}

/** How long Tarrow's reviewer takes, in milliseconds, and how many templates it takes an hour. */
export async function setReviewer(
  ctx: AppContext,
  actor: Actor,
  desk: { reviewMs: number; perHour: number },
): Promise<void> {
  requireRole(actor, 'administrator');
  await call(ctx, 'PATCH', '/tarrow/reviewer', desk);
}

/** Moves on what time it is here and outside. What falls due on the way is done at once. */
export async function moveClock(ctx: AppContext, actor: Actor, ms: number): Promise<void> {
  requireRole(actor, 'administrator');
  if (!ctx.config.clockFile) throw new OperationError('not-found', 'The clock of this installation is the machine’s.');
  await call(ctx, 'POST', '/clock', { by: ms });
}

async function call(ctx: AppContext, method: string, path: string, body?: object): Promise<unknown> {
  if (!ctx.config.benchUrl) throw new OperationError('not-found', 'No bench is attached to this installation.');
  const answer = await ctx
    .http({
      method,
      url: ctx.config.benchUrl + path,
      headers: { 'content-type': 'application/json' },
      body: body && JSON.stringify(body),
      timeoutMs: 5000,
    })
    .catch(() => undefined);
  if (!answer) throw new OperationError('invalid', 'The bench does not answer.');
  const json = JSON.parse(answer.body || 'null') as { problem?: string };
  if (answer.status >= 400)
    throw new OperationError('invalid', json?.problem ?? `The bench answered ${answer.status}.`);
  return json;
}
