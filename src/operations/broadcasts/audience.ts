/** Whom a broadcast is for: the people of its audience in pages, each once, with those it must not go to marked. */
import type { AudiencePart, BroadcastAudience } from '../../core/broadcast/definition';
import { EVERYBODY, type Group } from '../../core/contacts/audience';
import { cause, causeCodes } from '../../core/delivery/causes';
import type { Tables } from '../../store/schema/tables';
import type { Sql } from '../../store/store';
import { whereOf } from '../contacts';

/** Somebody of the audience, before anything is known of them. */
export interface Member {
  /** Null for a line of the list with an address nobody has. */
  contactId: string | null;
  heldOut: boolean;
  /** What the list says of them. */
  line?: { address: string; fields: Record<string, string> };
}

type From = Sql & Pick<Tables, 'audiences' | 'broadcastPeople'>;

export interface AudienceQuery {
  sql: string;
  values: Record<string, unknown>;
}

/**
 * Contacts of the parts as a statement that brings `id` and `held`, in the order of their ids, so many after `:after`.
 * Undefined where no part is about contacts. A saved audience that is gone matches nobody.
 */
export async function contactsQuery(
  from: From,
  { include, exclude }: BroadcastAudience,
  now: number,
): Promise<AudienceQuery | undefined> {
  if (include.every(({ by }) => by === 'list')) return undefined;
  const inside = await anyOf(from, include, now, 'i');
  const outside = await anyOf(from, exclude, now, 'x');
  return {
    sql: `SELECT c.id, ${outside.sql} AS held FROM contacts c
           WHERE c.merged_into IS NULL AND ${inside.sql} AND c.id > :after ORDER BY c.id LIMIT :most`,
    values: { ...inside.values, ...outside.values },
  };
}

async function anyOf(
  from: From,
  parts: readonly AudiencePart[],
  now: number,
  prefix: string,
): Promise<{ sql: string; values: Record<string, unknown> }> {
  const values: Record<string, unknown> = {};
  const conditions: string[] = [];
  for (const [index, part] of parts.entries()) {
    if (part.by === 'list') continue;
    if (part.by === 'people') {
      values[`${prefix}p${index}`] = [...part.ids, ''];
      conditions.push(`c.id IN (:${prefix}p${index})`);
      continue;
    }
    if (part.by === 'failed') {
      values[`${prefix}f${index}`] = part.id;
      values[`${prefix}c${index}`] = [...passingCauses(), ''];
      conditions.push(
        // Whoever has the address now: contacts may have been merged since.
        `c.id IN (SELECT i.contact_id FROM broadcast_recipients r
            JOIN contact_identities i ON i.kind = r.kind AND i.scope = r.scope AND i.value = r.value
           WHERE r.broadcast_id = :${prefix}f${index} AND r.state = 'failed' AND r.fields IS NULL
             AND r.reason IN (:${prefix}c${index}))`,
      );
      continue;
    }
    const group = await groupOf(from, part);
    if (!group) continue;
    const where = whereOf(group, now);
    conditions.push(where.sql.replace(/:a(\d+)\b/g, `:${prefix}${index}a$1`));
    for (const [name, value] of Object.entries(where.values)) values[`${prefix}${index}${name}`] = value;
  }
  return { sql: conditions.length > 0 ? `(${conditions.join(' OR ')})` : '0', values };
}

async function groupOf(from: From, part: AudiencePart): Promise<Group | undefined> {
  if (part.by === 'everybody') return EVERYBODY;
  if (part.by === 'filter') return part.conditions;
  return part.by === 'saved' ? (await from.audiences.one({ id: part.id }))?.conditions : undefined;
}

/** What messages fail for that may be over by now: the same message may get there later. */
export function passingCauses(): string[] {
  return causeCodes().filter((code) => cause(code).transient || code === 'gave-up' || code === 'credit-gone');
}

/** The people of an audience in pages: contacts first, then the lines of the list. */
export async function* membersOf(
  from: From,
  listId: string | null,
  audience: BroadcastAudience,
  now: number,
  page: number,
): AsyncGenerator<Member[]> {
  const query = await contactsQuery(from, audience, now);
  for (let after = ''; query; ) {
    const rows = await from.select<{ id: string; held: 0 | 1 }>(query.sql, { ...query.values, after, most: page });
    if (rows.length > 0) yield rows.map(({ id, held }) => ({ contactId: id, heldOut: held === 1 }));
    if (rows.length < page) break;
    after = rows.at(-1)?.id ?? '';
  }
  if (listId === null || !audience.include.some(({ by }) => by === 'list')) return;
  for (let line = 0; ; ) {
    const found = await from.select<{
      list_id: string;
      line: number;
      address: string;
      fields: Record<string, string>;
    }>('SELECT * FROM broadcast_people WHERE list_id = :id AND line > :line ORDER BY line LIMIT :most', {
      id: listId,
      line,
      most: page,
    });
    // A damaged line is one without fields, and keeps no other from being read.
    const rows = found.map((row) => from.broadcastPeople.readOr(row, { fields: {} }));
    if (rows.length > 0)
      yield rows.map(({ address, fields }) => ({ contactId: null, heldOut: false, line: { address, fields } }));
    if (rows.length < page) return;
    line = rows.at(-1)?.line ?? 0;
  }
}

/** How many people an audience has now; lines of the list and contacts are both counted, whether or not they are the same. */
export async function countMembers(
  from: From,
  listId: string | null,
  audience: BroadcastAudience,
  now: number,
): Promise<{ contacts: number; list: number }> {
  const query = await contactsQuery(from, audience, now);
  const [contacts] = query
    ? await from.select<{ n: number }>(`SELECT count(*) AS n FROM (${query.sql})`, {
        ...query.values,
        after: '',
        most: 10_000_000,
      })
    : [];
  const [list] =
    listId !== null && audience.include.some(({ by }) => by === 'list')
      ? await from.select<{ n: number }>('SELECT count(*) AS n FROM broadcast_people WHERE list_id = :id', {
          id: listId,
        })
      : [];
  return { contacts: contacts?.n ?? 0, list: list?.n ?? 0 };
}
