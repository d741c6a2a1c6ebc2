/** A batch of an import's lines: what each becomes as things stand, and writing it. */

import type { ImportPlan, ReadLine } from '../../core/contacts/importing';
import { newId } from '../../store/ids';
import type { ContactRow, ImportLineRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { addIdentities, holdersOf, phone as phoneIdentity } from '../identities';
import { type NewConsent, recordConsents } from './consent/consents';
import { numberOf } from './contactPages';
import { newContact } from './newContact';

/** Lines to a commit: large enough to be quick, small enough that others get their turn. */
export const BATCH = 500;

export interface Outcome {
  number: number;
  outcome: ImportLineRow['outcome'];
  reason?: string;
  read?: Extract<ReadLine, { ok: true }>['contact'];
  contact?: ContactRow;
  /** What changes of a contact that is known. */
  before?: NonNullable<ImportLineRow['before']>;
  gives?: NewConsent['way'][];
}

/** What each line of a batch becomes, as things stand. */
export async function judge(
  unit: Unit,
  batch: readonly { number: number; line: ReadLine }[],
  plan: ImportPlan,
  seen: Set<string>,
): Promise<Outcome[]> {
  const phones = [...new Set(batch.flatMap(({ line }) => (line.ok ? [line.contact.phone] : [])))];
  const identities = [...(await holdersOf(unit, phones.map(phoneIdentity))).values()];
  const ids = identities.map(({ contact_id }) => contact_id);
  const [contacts, attributes, tags, consents] = await Promise.all([
    unit.contacts.allBy('id', ids),
    unit.contactAttributes.allBy('contact_id', ids),
    unit.contactTags.allBy('contact_id', ids),
    unit.contactConsents.allBy('contact_id', ids),
  ]);
  const byPhone = new Map(identities.map(({ value, contact_id }) => [value, contact_id]));
  const byId = new Map(contacts.map((row) => [row.id, row]));
  const attributesOf = grouped(attributes, ({ name, value }) => [name, value] as const);
  const tagsOfContact = grouped(tags, ({ tag }) => tag);
  const saidOf = grouped(consents, ({ way }) => way);
  return batch.map(({ number, line }): Outcome => {
    if (!line.ok) return { number, outcome: 'refused', reason: line.reason };
    const read = line.contact;
    if (seen.has(read.phone))
      return { number, outcome: 'refused', reason: `${read.phone} stood in an earlier line already.` };
    seen.add(read.phone);
    const id = byPhone.get(read.phone);
    const contact = id === undefined ? undefined : byId.get(id);
    if (!contact) return { number, outcome: 'created', read, gives: plan.consent?.ways ?? [] };
    const known = new Map(attributesOf.get(contact.id) ?? []);
    const has = new Set(tagsOfContact.get(contact.id) ?? []);
    const said = new Set(saidOf.get(contact.id) ?? []);
    const changed = Object.entries(read.attributes).filter(([name, value]) => known.get(name) !== value);
    const added = read.tags.filter((tag) => !has.has(tag));
    const named = contact.name === null && read.name !== null;
    // What somebody declined is not agreed to by a file.
    const gives = (plan.consent?.ways ?? []).filter((way) => !said.has(way));
    if (changed.length + added.length + gives.length === 0 && !named)
      return { number, outcome: 'unchanged', read, contact };
    return {
      number,
      outcome: 'merged',
      read: { ...read, attributes: Object.fromEntries(changed), tags: added },
      contact,
      before: {
        name: contact.name,
        attributes: Object.fromEntries(changed.map(([name]) => [name, known.get(name) ?? null])),
        tags: added,
      },
      gives,
    };
  });
}

export function grouped<Row extends { contact_id: string }, Value>(
  rows: readonly Row[],
  of: (row: Row) => Value,
): Map<string, Value[]> {
  const groups = new Map<string, Value[]>();
  for (const row of rows) {
    const group = groups.get(row.contact_id);
    if (group) group.push(of(row));
    else groups.set(row.contact_id, [of(row)]);
  }
  return groups;
}

/** Writes a batch: each kind of row in one statement. */
export async function carryOut(
  unit: Unit,
  outcomes: readonly Outcome[],
  { id, plan, by, at }: { id: string; plan: ImportPlan; by: string; at: number },
): Promise<void> {
  const fresh = outcomes.filter(({ outcome }) => outcome === 'created');
  for (const entry of fresh) {
    const { phone, name, language, zone } = entry.read as NonNullable<Outcome['read']>;
    const row = newContact(newId('con', at), name, phoneIdentity(phone), at);
    entry.contact = {
      ...row,
      ...(language ? { language, language_from: 'import' } : {}),
      ...(zone ? { zone, zone_from: 'import' } : {}),
    };
  }
  await unit.contacts.insert(fresh.map(({ contact }) => contact as ContactRow));
  await addIdentities(
    unit,
    fresh.map(({ contact, read }) => ({ ...phoneIdentity(read?.phone ?? ''), contactId: contact?.id ?? '' })),
    { at, source: 'import', why: 'It stood in a file that was imported.', by },
  );
  const written = outcomes.filter(({ outcome }) => outcome === 'created' || outcome === 'merged');
  await unit.contacts.changeEach(
    'id',
    written.flatMap(({ contact, read, outcome }) =>
      outcome === 'merged' && contact?.name === null && read?.name ? [{ id: contact.id, name: read.name }] : [],
    ),
  );
  const attributes = written.flatMap(({ contact, read }) =>
    Object.entries(read?.attributes ?? {}).map(([name, value]) => [contact?.id ?? '', name, value, numberOf(value)]),
  );
  await unit.execute(
    `INSERT INTO contact_attributes (contact_id, name, value, number)
       SELECT value->>0, value->>1, value->>2, value->>3 FROM json_each(:rows) WHERE true
       ON CONFLICT (contact_id, name) DO UPDATE SET value = excluded.value, number = excluded.number`,
    { rows: JSON.stringify(attributes) },
  );
  await unit.contactTags.insert(
    written.flatMap(({ contact, read }) => (read?.tags ?? []).map((tag) => ({ contact_id: contact?.id ?? '', tag }))),
  );
  await recordConsents(
    unit,
    written.flatMap(({ contact, gives = [] }) =>
      gives.map((way) => ({
        contact_id: contact?.id ?? '',
        way,
        what: 'given' as const,
        at,
        how: 'import' as const,
        wording: plan.consent?.source ?? '',
        by,
        ref: id,
      })),
    ),
    { quietly: true },
  );
}
