/** What a plan is judged by of people, read for many at once. */
import type { PlanIdentity, PlanPerson } from '../../core/broadcast/plan';
import type { ConsentWay } from '../../core/consent/ways';
import { attributesOf } from '../../core/contacts/attributes';
import { groupBy } from '../../core/groupBy';
import { type Identity, identityKey, identityKind } from '../../core/identities/identityKinds';
import type { ContactIdentityRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Sql } from '../../store/store';
import { holdersOf, identityWritten, phone } from '../identities';
import type { Member } from './audience';

type From = Sql & Tables;

export interface Read {
  contactId: string | null;
  fields: Record<string, string> | null;
  person: PlanPerson;
}

export interface ReadingOf {
  /** For numbers of a list without a country code. */
  country?: string;
  /** Since when broadcasts for marketing count, epoch milliseconds; undefined where none are counted. */
  capSince?: number;
}

/** In the order of the members. */
export async function readPeople(from: From, members: readonly Member[], of: ReadingOf): Promise<Read[]> {
  const addressed = members.map(({ line }) => (line ? identityWritten(line.address, of.country) : undefined));
  const holders = await holdersOf(
    from,
    addressed.filter((identity) => identity !== undefined),
  );
  const contactIds = members.map(({ contactId }, index) => {
    const identity = addressed[index];
    return contactId ?? (identity && holders.get(identityKey(identity))?.contact_id) ?? null;
  });
  const ids = [...new Set(contactIds.filter((id) => id !== null))];
  const known = await readKnown(from, ids, of);
  return members.map(({ line, heldOut }, index): Read => {
    const contactId = contactIds[index] ?? null;
    const identity = addressed[index];
    const person = (contactId === null ? undefined : known.get(contactId)) ?? nobody();
    const fields = line?.fields ?? null;
    return {
      contactId,
      fields,
      person: {
        ...person,
        heldOut,
        // A line of a list is about the address it names, whatever else its contact has.
        ...(line
          ? { identities: identity ? identitiesOfLine(person.identities, identity) : [unreadable(line.address)] }
          : {}),
        ...(fields ? { record: { ...person.record, ...fields } } : {}),
        ...(fields ? { zone: person.zone ?? zoneIn(fields), language: person.language ?? fields.language } : {}),
      },
    };
  });
}

const zoneIn = ({ zone, timezone }: Record<string, string>): string | undefined => zone || timezone || undefined;

const nobody = (): PlanPerson => ({
  identities: [],
  declined: new Set(),
  record: {},
  attributes: {},
  wroteTo: new Map(),
  gotLately: 0,
  heldOut: false,
});

function identitiesOfLine(known: readonly PlanIdentity[], identity: Identity): PlanIdentity[] {
  const same = known.find((each) => identityKey(each) === identityKey(identity));
  return [same ?? { ...identity, doubted: false, agreed: [] }];
}

/** So that the plan says that it is no number, and not that there is none. */
const unreadable = (value: string): PlanIdentity => ({ ...phone(value), doubted: false, agreed: [] });

async function readKnown(
  from: From,
  ids: readonly string[],
  { capSince }: ReadingOf,
): Promise<Map<string, PlanPerson>> {
  const [contacts, identities, attributes, consents, windows, conversations, got] = await Promise.all([
    from.contacts.allBy('id', ids),
    from.identities.allBy('contact_id', ids),
    from.contactAttributes.allBy('contact_id', ids),
    from.contactConsents.allBy('contact_id', ids),
    from.replyWindows.allBy('contact_id', ids),
    from.conversations.allBy('contact_id', ids, ['contact_id', 'last_inbound_at']),
    gotLately(from, ids, capSince),
  ]);
  const covered = groupBy(
    await from.identityConsents.allBy('value', [...new Set(identities.map(({ value }) => value))]),
    identityKey,
  );
  const identitiesOf = groupBy(identities, ({ contact_id }) => contact_id);
  const attributesBy = groupBy(attributes, ({ contact_id }) => contact_id);
  const consentsOf = groupBy(consents, ({ contact_id }) => contact_id);
  const windowsOf = groupBy(windows, ({ contact_id }) => contact_id);
  const wroteAt = new Map(conversations.map((row) => [row.contact_id, row.last_inbound_at]));
  return new Map(
    contacts.map((contact): [string, PlanPerson] => {
      const said = consentsOf.get(contact.id) ?? [];
      const ways = (state: 'given' | 'withdrawn') =>
        new Set<ConsentWay>(said.filter((each) => each.state === state).map(({ way }) => way));
      const given = ways('given');
      const own = [...(identitiesOf.get(contact.id) ?? [])].sort(byProof);
      const phoneOf = own.find(({ kind }) => identityKind(kind).telephone)?.value;
      const known = attributesOf({ ...contact, phone: phoneOf, own: attributesBy.get(contact.id) ?? [] });
      return [
        contact.id,
        {
          identities: own.map(({ kind, scope, value, doubt }) => ({
            kind,
            scope,
            value,
            doubted: doubt !== null,
            // An address that may be somebody else’s by now inherits nothing.
            agreed:
              doubt === null
                ? (covered.get(identityKey({ kind, scope, value })) ?? []).filter(({ way }) => given.has(way))
                : [],
          })),
          declined: ways('withdrawn'),
          name: contact.name ?? undefined,
          language: contact.language ?? undefined,
          // What was only read off the number is read off it again, and counted as that.
          zone: contact.zone_from === 'number' ? undefined : (contact.zone ?? undefined),
          record: mergeable(known),
          attributes: known,
          wroteTo: new Map((windowsOf.get(contact.id) ?? []).map((row) => [row.channel_id, row.last_inbound_at])),
          lastWroteAt: wroteAt.get(contact.id) ?? undefined,
          gotLately: got.get(contact.id) ?? 0,
          heldOut: false,
        },
      ];
    }),
  );
}

/** Merge fields have no blanks in their names: “first name” is written {{ first_name }}. */
export const asMergeField = (name: string): string => name.trim().replace(/[^\p{L}\p{N}_]+/gu, '_');

function mergeable(known: Record<string, string>): Record<string, string> {
  return Object.fromEntries(Object.entries(known).map(([name, value]) => [asMergeField(name), value]));
}

/** Those they showed last to be theirs first, doubted ones last. */
function byProof(a: ContactIdentityRow, b: ContactIdentityRow): number {
  const doubt = Number(a.doubt !== null) - Number(b.doubt !== null);
  return doubt || (b.proved_at ?? 0) - (a.proved_at ?? 0) || b.since - a.since;
}

async function gotLately(from: Sql, ids: readonly string[], since: number | undefined): Promise<Map<string, number>> {
  if (since === undefined || ids.length === 0) return new Map();
  const rows = await from.select<{ contact_id: string; n: number }>(
    `SELECT m.contact_id, count(*) AS n FROM json_each(:ids) k
       CROSS JOIN messages m ON m.contact_id = k.value AND m.origin_kind = 'broadcast' AND m.created_at > :since
         AND m.state <> 'failed'
       JOIN broadcasts b ON b.id = m.origin_id AND b.definition->>'$.message.purpose' = 'marketing'
      GROUP BY m.contact_id`,
    { ids: JSON.stringify(ids), since },
  );
  return new Map(rows.map(({ contact_id, n }) => [contact_id, n]));
}
