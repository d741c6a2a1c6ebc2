/** Audiences: conditions as SQL over what is known of contacts, counted and kept by name. */
import { z } from 'zod';
import { CONSENT_WAYS } from '../../core/consent/ways';
import { type Condition, type Group, isGroup } from '../../core/contacts/audience';
import { newId } from '../../store/ids';
import type { AudienceRow } from '../../store/schema/rows';
import { type Actor, type AppContext, found, invalidText, recordAudit, requireRole } from '../context';

const words = z.string().trim().min(1).max(200);
const condition: z.ZodType<Condition> = z.union([
  z.strictObject({
    on: z.literal('attribute'),
    name: words,
    is: z.enum(['equals', 'differs', 'contains', 'above', 'below']),
    value: z.string().max(500),
  }),
  z.strictObject({ on: z.literal('attribute'), name: words, is: z.enum(['set', 'unset']) }),
  z.strictObject({ on: z.literal('tag'), is: z.enum(['has', 'lacks']), tag: words }),
  z.strictObject({
    on: z.literal('consent'),
    way: z.enum(CONSENT_WAYS),
    is: z.enum(['given', 'withdrawn', 'unknown']),
  }),
  z.strictObject({
    on: z.enum(['country', 'language']),
    is: z.enum(['one of', 'none of']),
    values: z.array(words).min(1).max(50),
  }),
  z.strictObject({
    on: z.literal('wrote'),
    is: z.enum(['within', 'not within']),
    days: z.number().positive().max(10_000),
  }),
  z.strictObject({ on: z.literal('window'), is: z.enum(['open', 'closed']), hours: z.number().positive().max(1000) }),
]);
const group: z.ZodType<Group> = z.lazy(() =>
  z.strictObject({ match: z.enum(['all', 'any']), of: z.array(z.union([condition, group])).max(30) }),
);
const DEEPEST = 4;

export function readGroup(written: unknown): Group {
  const parsed = group.safeParse(written);
  if (!parsed.success || depthOf(parsed.data) > DEEPEST)
    throw invalidText(
      'conditions',
      'The conditions cannot be read.',
      'Fill every condition; groups may stand in groups up to four deep.',
    );
  return parsed.data;
}

function depthOf({ of }: Group): number {
  return 1 + Math.max(0, ...of.map((entry) => (isGroup(entry) ? depthOf(entry) : 0)));
}

export interface Where {
  sql: string;
  values: Record<string, unknown>;
}

/**
 * The condition on `c`, a contact. What few people have is a set of contacts read from an
 * index of its own table, which SQLite intersects.
 */
export function whereOf(audience: Group, now: number): Where {
  const values: Record<string, unknown> = {};
  let count = 0;
  const bind = (value: unknown) => {
    const name = `a${count++}`;
    values[name] = value;
    return `:${name}`;
  };
  const among = (select: string, not: boolean) => `c.id ${not ? 'NOT ' : ''}IN (${select})`;
  const one = (entry: Condition): string => {
    switch (entry.on) {
      case 'attribute': {
        const of = `SELECT contact_id FROM contact_attributes WHERE name = ${bind(entry.name)}`;
        if (!('value' in entry)) return among(of, entry.is === 'unset');
        if (entry.is === 'contains')
          return among(`${of} AND value LIKE ${bind(`%${entry.value.replace(/[%_]/g, '')}%`)}`, false);
        if (entry.is === 'equals' || entry.is === 'differs')
          return among(`${of} AND value = ${bind(entry.value)}`, entry.is === 'differs');
        return among(
          `${of} AND number IS NOT NULL AND number ${entry.is === 'above' ? '>' : '<'} ${bind(Number(entry.value) || 0)}`,
          false,
        );
      }
      case 'tag':
        return among(`SELECT contact_id FROM contact_tags WHERE tag = ${bind(entry.tag)}`, entry.is === 'lacks');
      case 'consent': {
        // Few decline, so those are a set; nearly everybody agrees, so that is asked of those the other conditions leave.
        const way = bind(entry.way);
        if (entry.is === 'withdrawn')
          return among(`SELECT contact_id FROM contact_consents WHERE way = ${way} AND state = 'withdrawn'`, false);
        const of = `SELECT 1 FROM contact_consents k WHERE k.contact_id = c.id AND k.way = ${way}`;
        return entry.is === 'unknown' ? `NOT EXISTS (${of})` : `EXISTS (${of} AND k.state = 'given')`;
      }
      case 'country':
      case 'language':
        return entry.is === 'one of'
          ? `c.${entry.on} IN (${bind(entry.values)})`
          : `(c.${entry.on} IS NULL OR c.${entry.on} NOT IN (${bind(entry.values)}))`;
      case 'wrote': {
        const since = bind(now - entry.days * 86_400_000);
        return entry.is === 'within' ? `c.seen_at > ${since}` : `(c.seen_at IS NULL OR c.seen_at <= ${since})`;
      }
      case 'window':
        return among(
          `SELECT contact_id FROM reply_windows WHERE last_inbound_at > ${bind(now - entry.hours * 3_600_000)}`,
          entry.is === 'closed',
        );
    }
  };
  const all = ({ match, of }: Group): string =>
    of.length === 0
      ? '1'
      : of.map((entry) => (isGroup(entry) ? `(${all(entry)})` : one(entry))).join(match === 'all' ? ' AND ' : ' OR ');
  return { sql: `(${all(audience)})`, values };
}

/** How many there are. People who were merged into others are counted once. */
export async function countAudience(ctx: AppContext, actor: Actor, audience: Group): Promise<number> {
  requireRole(actor, 'viewer');
  const { sql, values } = whereOf(audience, ctx.now());
  const [row] = await ctx.store.select<{ n: number }>(
    `SELECT count(*) AS n FROM contacts c WHERE c.merged_into IS NULL AND ${sql}`,
    values,
  );
  return row?.n ?? 0;
}

export async function listAudiences(ctx: AppContext, actor: Actor): Promise<AudienceRow[]> {
  requireRole(actor, 'viewer');
  return ctx.store.audiences.all(undefined, { order: [['name', 'ASC']] });
}

export async function saveAudience(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; conditions: unknown },
): Promise<{ id: string }> {
  requireRole(actor, 'agent');
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The audience has no name.', 'Give it one.');
  const conditions = readGroup(input.conditions);
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const same = await unit.audiences.one({ name });
    const id = same?.id ?? newId('adn', at);
    await unit.audiences.put({ id, name, conditions, created_at: same?.created_at ?? at, changed_at: at });
    await recordAudit(unit, actor, at, {
      action: 'audience.saved',
      subject: id,
      summary: `Saved the audience ${name}`,
    });
    return { id };
  });
}

export async function removeAudience(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = found(await unit.audiences.one({ id }), 'audience');
    await unit.audiences.remove({ id });
    await recordAudit(unit, actor, at, {
      action: 'audience.removed',
      subject: id,
      summary: `Removed the audience ${row.name}`,
    });
  });
}
