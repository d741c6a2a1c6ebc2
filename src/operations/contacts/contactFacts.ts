/** What is known of people and may be said to them: their attributes, by contact or by number. */

import { attributesOf, type KnownPeople } from '../../core/contacts/attributes';
import { type HookDefinition, phonesIn } from '../../core/hooks/order';
import { identityKind } from '../../core/identities/identityKinds';
import type { PostedRecord } from '../../core/text/fields';
import type { Tables } from '../../store/schema/tables';
import { firstOfKind, holdersOf, phone } from '../identities';

/** By contact. */
export async function knownOf(
  tables: Tables,
  contactIds: readonly string[],
): Promise<Map<string, Record<string, string>>> {
  const ids = [...new Set(contactIds)];
  const [contacts, phones, own] = await Promise.all([
    tables.contacts.allBy('id', ids),
    firstOfKind(tables, ids, (kind) => identityKind(kind).telephone),
    tables.contactAttributes.allBy('contact_id', ids),
  ]);
  return new Map(
    contacts.map((contact) => [
      contact.id,
      attributesOf({
        ...contact,
        phone: phones.get(contact.id),
        own: own.filter(({ contact_id }) => contact_id === contact.id),
      }),
    ]),
  );
}

/** Those whom records name, by their numbers in E.164. */
export async function knownIn(
  tables: Tables,
  records: readonly PostedRecord[],
  country: string | undefined,
): Promise<KnownPeople> {
  const phones = [...new Set(records.flatMap((record) => phonesIn(record, country)))];
  const identities = [...(await holdersOf(tables, phones.map(phone))).values()];
  const known = await knownOf(
    tables,
    identities.map(({ contact_id }) => contact_id),
  );
  return Object.fromEntries(identities.map(({ value, contact_id }) => [value, known.get(contact_id) ?? {}]));
}

/** A definition with what is known of the people, where a template of it asks for that. */
export async function withPeople(
  tables: Tables,
  definition: HookDefinition,
  records: readonly PostedRecord[],
): Promise<HookDefinition> {
  const asks = Object.values(definition.template?.mapping ?? {}).some(({ from }) => from === 'attribute');
  return asks ? { ...definition, people: await knownIn(tables, records, definition.country) } : definition;
}
