/** Routes as they come from a page or a file: read strictly, so that nothing unknown is kept. */
import { z } from 'zod';
import { conditionSchema } from './conditions';
import type { Group } from './group';
import type { RouteSet, RouteStep } from './route';

const id = z.string().max(80);
const short = z.string().max(200);
const words = z.array(short).max(50);
const minutes = z
  .number()
  .int()
  .min(1)
  .max(60 * 24 * 60);

/** Groups inside groups, and steps inside steps, no deeper than anybody can read. */
const DEEPEST = 5;

function group(depth: number): z.ZodType<Group> {
  const part = depth === 0 ? conditionSchema : z.union([conditionSchema, z.lazy(() => group(depth - 1))]);
  return z.strictObject({
    match: z.enum(['all', 'any', 'none']),
    of: z.array(part).max(40),
  }) as unknown as z.ZodType<Group>;
}

const source = z.discriminatedUnion('from', [
  z.strictObject({ from: z.literal('field'), field: short, fallback: short.optional() }),
  z.strictObject({ from: z.literal('attribute'), attribute: short, fallback: short.optional() }),
  z.strictObject({ from: z.literal('constant'), value: z.string().max(1000) }),
]);

function steps(depth: number): z.ZodType<RouteStep[]> {
  const inner = depth === 0 ? z.array(z.never()).max(0) : z.lazy(() => steps(depth - 1));
  const text = z.string().max(1600);
  const step = z.union([
    z.strictObject({ do: z.literal('reply'), text }),
    z.strictObject({ do: z.literal('reply'), template: id, mapping: z.record(short, source) }),
    z.strictObject({
      do: z.literal('ask'),
      text,
      keep: short,
      answers: z.array(z.strictObject({ words, steps: inner })).max(20),
      otherwise: inner,
      minutes,
      late: inner,
    }),
    z.strictObject({ do: z.literal('wait'), minutes }),
    z.strictObject({
      do: z.literal('branch'),
      cases: z.array(z.strictObject({ when: group(2), steps: inner })).max(20),
      otherwise: inner,
    }),
    z.strictObject({
      do: z.literal('assign'),
      whom: z.discriminatedUnion('to', [
        z.strictObject({ to: z.literal('person'), id }),
        z.strictObject({ to: z.literal('team'), name: short }),
        z.strictObject({ to: z.literal('turn'), name: short }),
        z.strictObject({ to: z.literal('owner'), app: id, record: short }),
      ]),
    }),
    z.strictObject({ do: z.literal('record'), action: id }),
    z.strictObject({ do: z.literal('tag'), tag: short, remove: z.boolean() }),
    z.strictObject({ do: z.literal('attribute'), name: short, value: z.string().max(1000) }),
    z.strictObject({ do: z.literal('tell'), app: id }),
    z.strictObject({ do: z.literal('append'), sheet: id }),
    z.strictObject({ do: z.literal('notify'), to: z.array(short).max(20), subject: short, text: z.string().max(5000) }),
    z.strictObject({ do: z.enum(['close', 'opt-out', 'stop']) }),
  ]);
  return z.array(step).max(60) as unknown as z.ZodType<RouteStep[]>;
}

const openings = z.array(z.strictObject({ from: z.string().max(5), to: z.string().max(5) })).max(10);

const routeSet = z.strictObject({
  routes: z
    .array(
      z.strictObject({
        id,
        name: short,
        when: group(DEEPEST),
        steps: steps(DEEPEST),
        goesOn: z.boolean(),
        stopsOnReply: z.boolean(),
        off: z.boolean(),
      }),
    )
    .max(1000),
  hours: z
    .array(
      z.strictObject({
        id,
        name: short,
        zone: short,
        week: z
          .array(
            z.strictObject({
              days: z.array(z.number().int().min(1).max(7)).max(7),
              from: z.string().max(5),
              to: z.string().max(5),
            }),
          )
          .max(30),
        exceptions: z.array(z.strictObject({ date: z.iso.date(), name: short.optional(), openings })).max(1000),
      }),
    )
    .max(100),
});

export type ReadSet = { ok: true; set: RouteSet } | { ok: false; problem: string };

export function readRouteSet(content: unknown): ReadSet {
  const parsed = routeSet.safeParse(content);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    return { ok: false, problem: `${issue?.path.join('.') || 'The routes'}: ${issue?.message ?? 'cannot be read'}` };
  }
  const ids = parsed.data.routes.map((route) => route.id);
  if (new Set(ids).size < ids.length) return { ok: false, problem: 'Two routes have the same id.' };
  return { ok: true, set: parsed.data };
}
