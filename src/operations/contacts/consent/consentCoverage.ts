/** Which addresses of people an opt-in covers: what somebody agreed to holds for the addresses they had then, and follows none that comes later. */
import { CHANNEL_KINDS, channelKind } from '../../../core/connect/channelKinds';
import type { ConsentWay } from '../../../core/consent/ways';
import { type Identity, type IdentityKind, identityKey } from '../../../core/identities/identityKinds';
import type { ChannelRow, ContactIdentityRow, IdentityConsentRow } from '../../../store/schema/rows';
import type { Tables } from '../../../store/schema/tables';
import type { Unit } from '../../../store/store';

/** The kinds of identities that are written to when somebody agreed to a way. */
export function reachedBy(way: ConsentWay): ReadonlySet<IdentityKind> {
  return new Set(
    CHANNEL_KINDS.map(channelKind)
      .filter(({ consent }) => consent === way)
      .map(({ identity }) => identity),
  );
}

/** What stands of one address and one way of being written to. */
export type Standing = 'given' | 'withdrawn' | 'unknown';

/** By `identityKey`, for every address of a contact that the way reaches. */
export async function standingOf(
  tables: Pick<Tables, 'identities' | 'contactConsents' | 'identityConsents'>,
  contactId: string,
  way: ConsentWay,
): Promise<Map<string, Standing>> {
  const identities = await tables.identities.all({ contact_id: contactId });
  const said = await tables.contactConsents.one({ contact_id: contactId, way });
  const agreed = await agreedOver(tables, contactId, identities);
  return new Map(
    identities
      .filter(({ kind }) => reachedBy(way).has(kind))
      .map((row) => {
        const key = identityKey(row);
        const given = agreed.get(key)?.some((each) => each.way === way);
        return [key, said?.state === 'withdrawn' ? 'withdrawn' : given ? 'given' : 'unknown'];
      }),
  );
}

/** A way somebody agreed to; `account`: that of the platform it was said on, empty where it holds for all. */
export interface Agreed {
  way: ConsentWay;
  account: string;
}

/** Whether what was agreed to holds over a channel. Declining holds everywhere; agreeing on one platform opens no other. */
export function holdsOver(agreed: readonly Agreed[], channel: Pick<ChannelRow, 'kind' | 'account_id'>): boolean {
  const { consent } = channelKind(channel.kind);
  return agreed.some(({ way, account }) => way === consent && (account === '' || account === channel.account_id));
}

/**
 * The ways that opt-ins in force cover, by the `identityKey` of each address of a contact. An address that may be
 * somebody else’s by now inherits nothing.
 */
export async function agreedOver(
  tables: Pick<Tables, 'contactConsents' | 'identityConsents'>,
  contactId: string,
  identities: readonly ContactIdentityRow[],
): Promise<Map<string, readonly Agreed[]>> {
  const given = await tables.contactConsents.all({ contact_id: contactId, state: 'given' });
  const inForce = new Set(given.map(({ way }) => way));
  const covered = (await coverageOf(tables, identities)).filter(({ way }) => inForce.has(way));
  return new Map(
    identities.map((row) => {
      const mine = row.doubt === null ? covered.filter((each) => identityKey(each) === identityKey(row)) : [];
      return [identityKey(row), mine.map(({ way, account }) => ({ way, account }))];
    }),
  );
}

/** Rows of all ways that cover these. */
export async function coverageOf(
  tables: Pick<Tables, 'identityConsents'>,
  identities: readonly Identity[],
): Promise<IdentityConsentRow[]> {
  const keys = new Set(identities.map(identityKey));
  const rows = await tables.identityConsents.allBy('value', [...new Set(identities.map(({ value }) => value))]);
  return rows.filter((row) => keys.has(identityKey(row)));
}

export interface Coverage {
  contactId: string;
  way: ConsentWay;
  entryId: string;
  at: number;
  /** Absent for every address they have now. */
  covers?: readonly Identity[];
  /** Of the platform it was said on; absent where it holds for all. */
  account?: string;
}

/** Notes what opt-ins cover. */
export async function cover(unit: Unit, given: readonly Coverage[]): Promise<void> {
  if (given.length === 0) return;
  const own = await unit.identities.allBy('contact_id', [...new Set(given.map(({ contactId }) => contactId))]);
  const rows = given.flatMap(({ contactId, way, entryId, at, covers, account = '' }) =>
    own
      .filter((row) => row.contact_id === contactId && reachedBy(way).has(row.kind))
      .filter((row) => covers === undefined || covers.some((each) => identityKey(each) === identityKey(row)))
      .map(
        ({ kind, scope, value }): IdentityConsentRow => ({
          kind,
          scope,
          value,
          way,
          account,
          entry_id: entryId,
          since: at,
        }),
      ),
  );
  await putCoverage(unit, rows);
}

export async function putCoverage(unit: Unit, rows: readonly IdentityConsentRow[]): Promise<void> {
  if (rows.length === 0) return;
  await unit.execute(
    `INSERT INTO identity_consents (kind, scope, value, way, account, entry_id, since)
       SELECT value->>0, value->>1, value->>2, value->>3, value->>4, value->>5, value->>6 FROM json_each(:rows) WHERE true
       ON CONFLICT (kind, scope, value, way, account) DO UPDATE SET entry_id = excluded.entry_id, since = excluded.since`,
    {
      rows: JSON.stringify(
        // What was noted to be undone, before platforms were told apart, held for all.
        rows.map(({ kind, scope, value, way, account = '', entry_id, since }) => [
          ...[kind, scope, value, way, account],
          ...[entry_id, since],
        ]),
      ),
    },
  );
}

/** Ends what any opt-in covers of an address. */
export async function uncover(unit: Unit, { kind, scope, value }: Identity): Promise<void> {
  await unit.identityConsents.remove({ kind, scope, value });
}

/** Ends what opt-ins of these contacts covered. */
export async function uncoverContacts(
  unit: Unit,
  ended: readonly { contactId: string; way: ConsentWay }[],
): Promise<void> {
  if (ended.length === 0) return;
  await unit.execute(
    `DELETE FROM identity_consents WHERE (kind, scope, value, way) IN (
       SELECT i.kind, i.scope, i.value, e.value->>1 FROM json_each(:ended) e
         JOIN contact_identities i ON i.contact_id = e.value->>0)`,
    { ended: JSON.stringify(ended.map(({ contactId, way }) => [contactId, way])) },
  );
}
