/** What people are known by: whose an identity is, since when and from where it is known, and whose it was before. */
import { normaliseAddress } from '../../core/addresses/address';
import { channelKind } from '../../core/connect/channelKinds';
import {
  IDENTITY_KINDS,
  type Identity,
  type IdentityKind,
  identityKey,
  identityKind,
  nameOf,
} from '../../core/identities/identityKinds';
import { newId } from '../../store/ids';
import type { ChannelRow, ContactIdentityRow, IdentityEntryRow } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Unit } from '../../store/store';

export type OnChannel = Pick<ChannelRow, 'kind' | 'account_id'>;

/** What somebody with this address on a channel is known by. */
export function identityOn(channel: OnChannel, value: string): Identity {
  const { identity: kind } = channelKind(channel.kind);
  return { kind, scope: identityKind(kind).perAccount ? channel.account_id : '', value };
}

/** Whether somebody known by this is reached over a channel. */
export function isOn(channel: OnChannel, { kind, scope }: Pick<Identity, 'kind' | 'scope'>): boolean {
  const here = identityOn(channel, '');
  return here.kind === kind && here.scope === scope;
}

/** The identity by which somebody is reached over a channel: of several the one they showed last to be theirs. */
export function reachedOn<Row extends ContactIdentityRow>(
  channel: OnChannel,
  identities: readonly Row[],
): Row | undefined {
  const shown = ({ proved_at, since, doubt }: Row) => [doubt === null ? 1 : 0, proved_at ?? 0, since];
  return identities
    .filter((row) => isOn(channel, row))
    .sort((a, b) => {
      const [one, other] = [shown(b), shown(a)];
      const index = one.findIndex((value, at) => value !== other[at]);
      return (one[index] ?? 0) - (other[index] ?? 0);
    })[0];
}

export const ofTelephone = (channel: OnChannel): boolean => identityKind(channelKind(channel.kind).identity).telephone;

/** A number of the telephone network, as an identity. */
export const phone = (value: string): Identity => ({ kind: 'phone', scope: '', value });

/** What somebody wrote down as an address: of mail where it has an @, else a number, of `country` where it names none. */
export function identityWritten(address: string, country: string | undefined): Identity | undefined {
  if (address.includes('@')) {
    const read = identityKind('mail').read(address);
    return read.ok ? { kind: 'mail', scope: '', value: read.value } : undefined;
  }
  const read = normaliseAddress(address, { defaultCountry: country });
  return read.ok ? phone(read.address.value) : undefined;
}

export async function holderOf(
  tables: Pick<Tables, 'identities'>,
  { kind, scope, value }: Identity,
): Promise<ContactIdentityRow | undefined> {
  return tables.identities.one({ kind, scope, value });
}

/** Rows of those that somebody is known by, by `identityKey`. */
export async function holdersOf(
  tables: Pick<Tables, 'identities'>,
  wanted: readonly Identity[],
): Promise<Map<string, ContactIdentityRow>> {
  const keys = new Set(wanted.map(identityKey));
  const rows = await tables.identities.allBy('value', [...new Set(wanted.map(({ value }) => value))]);
  return new Map(rows.map((row) => [identityKey(row), row] as const).filter(([key]) => keys.has(key)));
}

/** The first identity of each contact of a kind, such as the phone of each. */
export async function firstOfKind(
  tables: Pick<Tables, 'identities'>,
  contactIds: readonly string[],
  of: (kind: IdentityKind) => boolean,
): Promise<Map<string, string>> {
  const rows = await tables.identities.allBy('contact_id', [...new Set(contactIds)]);
  const first = new Map<string, ContactIdentityRow>();
  for (const row of rows) {
    const earlier = first.get(row.contact_id);
    if (of(row.kind) && (!earlier || row.since < earlier.since)) first.set(row.contact_id, row);
  }
  return new Map([...first].map(([id, { value }]) => [id, value]));
}

export interface NewIdentity extends Identity {
  contactId: string;
}

/** Gives contacts identities that nobody has, and enters it in the history. */
export async function addIdentities(
  unit: Unit,
  added: readonly NewIdentity[],
  { at, source, why, by }: { at: number; source: ContactIdentityRow['source']; why: string; by: string },
): Promise<void> {
  await unit.identities.insert(
    added.map(({ kind, scope, value, contactId }) => ({
      kind,
      scope,
      value,
      contact_id: contactId,
      since: at,
      source,
      // Who writes or types the code that was sent has shown it by that.
      proved_at: source === 'wrote' || source === 'code' ? at : null,
      doubt: null,
      doubted_at: null,
    })),
  );
  await enterHistory(unit, added, { what: 'added', at, why, by });
}

/** Entries of the history, one for each identity. */
export async function enterHistory(
  unit: Unit,
  identities: readonly NewIdentity[],
  entry: Pick<IdentityEntryRow, 'what' | 'at' | 'why' | 'by'>,
): Promise<void> {
  await unit.identityEntries.insert(
    identities.map(({ kind, scope, value, contactId }) => ({
      id: newId('ide', entry.at),
      kind,
      scope,
      value,
      contact_id: contactId,
      ...entry,
    })),
  );
}

/** Notes that people wrote from these. */
export async function proveIdentities(unit: Unit, wrote: readonly Identity[], at: number): Promise<void> {
  if (wrote.length === 0) return;
  await unit.execute(
    `UPDATE contact_identities SET proved_at = :at
      WHERE (kind, scope, value) IN (SELECT value->>0, value->>1, value->>2 FROM json_each(:wrote))`,
    { at, wrote: JSON.stringify(wrote.map(({ kind, scope, value }) => [kind, scope, value])) },
  );
}

const TELLING_ORDER = `CASE i.kind ${IDENTITY_KINDS.map((kind, index) => `WHEN '${kind}' THEN ${index}`).join(' ')} END, i.since`;

/** SQL of the identity that tells a reader most of a contact; what it selects is for `readKnownBy`. */
export const knownBy = (contact: string): string =>
  `(SELECT i.kind || ' ' || i.value FROM contact_identities i WHERE i.contact_id = ${contact} ORDER BY ${TELLING_ORDER} LIMIT 1)`;

export interface KnownBy {
  /** The address as stored; empty where nothing is known. */
  address: string;
  /** What to call somebody of whom nothing else is known. */
  name: string;
}

export function readKnownBy(selected: string | null | undefined): KnownBy {
  if (!selected) return { address: '', name: 'Somebody' };
  const [kind, ...rest] = selected.split(' ');
  const value = rest.join(' ');
  return { address: value, name: nameOf({ kind: kind as IdentityKind, value }) };
}
