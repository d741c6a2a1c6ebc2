/** Contacts as people look through them: a list that stays quick, and everything about one. */

import type { ConsentWay } from '../../core/consent/ways';
import type { Group } from '../../core/contacts/audience';
import { type Identity, identityKey, identityKind, readTyped } from '../../core/identities/identityKinds';
import { isZone } from '../../core/schedule/clock';
import { newId } from '../../store/ids';
import type {
  ConsentEntryRow,
  ContactConsentRow,
  ContactIdentityRow,
  ContactMergeRow,
  ContactRow,
  IdentityEntryRow,
  MessageRow,
} from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  found,
  invalid,
  invalidText,
  noteChanges,
  reachedConversations,
  reachedMessages,
  reachOf,
  reachValues,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { addIdentities, holderOf } from '../identities';
import { whereOf } from './audiences';
import { agreedOver } from './consent/consentCoverage';
import { mergesOf } from './contactMerge';
import { newContact } from './newContact';

export interface ContactLine
  extends View<Pick<ContactRow, 'id' | 'name' | 'country' | 'language' | 'created_at' | 'seen_at'>> {
  addresses: string[];
  /** Of those, the telephone numbers and the e-mail addresses. */
  phones: string[];
  mails: string[];
  tags: string[];
  consents: Pick<ContactConsentRow, 'way' | 'state'>[];
}

export interface ContactQuery {
  /** Part of a name, or digits of a number. */
  search?: string;
  audience?: Group;
  before?: string;
  limit: number;
}

/** Newest first. */
export async function browseContacts(
  ctx: AppContext,
  actor: Actor,
  query: ContactQuery,
): Promise<{ lines: ContactLine[]; next?: string }> {
  requireRole(actor, 'viewer');
  const { sql, values } = query.audience ? whereOf(query.audience, ctx.now()) : { sql: '1', values: {} };
  const search = searchOf(query.search);
  const rows = await ctx.store.select<ContactRow>(
    `SELECT c.* FROM contacts c WHERE c.merged_into IS NULL AND (:before IS NULL OR c.id < :before) AND ${sql} AND ${search.sql}
      ORDER BY c.id DESC LIMIT :most`,
    { ...values, ...search.values, before: query.before ?? null, most: query.limit + 1 },
  );
  const page = rows.slice(0, query.limit);
  const ids = page.map(({ id }) => id);
  const [identities, tags, consents] = await Promise.all([
    ctx.store.identities.allBy('contact_id', ids),
    ctx.store.contactTags.allBy('contact_id', ids),
    ctx.store.contactConsents.allBy('contact_id', ids),
  ]);
  const lines = page.map((row) => {
    const own = identities.filter(({ contact_id, kind }) => contact_id === row.id && !identityKind(kind).opaque);
    const values = (telephone: boolean) =>
      own.filter(({ kind }) => identityKind(kind).telephone === telephone).map(({ value }) => value);
    return {
      ...asView(row),
      addresses: own.map(({ value }) => value),
      phones: values(true),
      mails: values(false),
      tags: tags.filter(({ contact_id }) => contact_id === row.id).map(({ tag }) => tag),
      consents: consents.filter(({ contact_id }) => contact_id === row.id),
    };
  });
  return { lines, next: rows.length > query.limit ? page.at(-1)?.id : undefined };
}

/** Digits are looked for in numbers, anything else in names. */
function searchOf(search = ''): { sql: string; values: Record<string, unknown> } {
  const text = search.trim();
  if (text === '') return { sql: '1', values: {} };
  if (text.includes('@'))
    return {
      sql: 'c.id IN (SELECT contact_id FROM contact_identities WHERE value LIKE :search)',
      values: { search: `%${text.toLowerCase().replace(/[%_]/g, '')}%` },
    };
  const digits = text.replace(/[\s()+.-]/g, '').replace(/^0+/, '');
  if (/^\d{3,}$/.test(digits))
    return {
      sql: 'c.id IN (SELECT contact_id FROM contact_identities WHERE value LIKE :search)',
      values: { search: `%${digits}%` },
    };
  return {
    sql: 'c.id IN (SELECT id FROM contacts WHERE name LIKE :search)',
    values: { search: `%${text.replace(/[%_]/g, '')}%` },
  };
}

export interface ContactPage {
  contact: View<ContactRow>;
  /** With the ways of being written to that an opt-in covers. */
  identities: (View<ContactIdentityRow> & {
    /** `on`: the account of the platform it was said on; absent where it holds for all. */
    agreed: { way: ConsentWay; on?: string }[];
    /** Whose it was and became, the latest first. */
    history: Pick<IdentityEntryRow, 'id' | 'what' | 'at' | 'why' | 'by'>[];
  })[];
  attributes: Record<string, string>;
  tags: string[];
  consents: View<ContactConsentRow>[];
  /** Newest first. */
  ledger: View<ConsentEntryRow>[];
  conversationId?: string;
  messages: number;
  /** Newest first. */
  latest: (View<Pick<MessageRow, 'id' | 'created_at' | 'direction' | 'text' | 'state'>> & { channel: string })[];
  /** What was merged into it, with the name the other had. */
  merges: { merge: View<ContactMergeRow>; gone: string | null }[];
}

const LATEST = 15;

export async function getContactPage(ctx: AppContext, actor: Actor, id: string): Promise<ContactPage> {
  requireRole(actor, 'viewer');
  const contact = found(await ctx.store.contacts.one({ id }), 'contact');
  const reach = await reachOf(ctx.store, actor);
  const values = { id, ...reachValues(reach) };
  const [identities, attributes, tags, consents, ledger, [conversation], [counted], latest, merges] = await Promise.all(
    [
      ctx.store.identities.all({ contact_id: id }, { order: [['since', 'ASC']] }),
      ctx.store.contactAttributes.all({ contact_id: id }, { order: [['name', 'ASC']] }),
      ctx.store.contactTags.all({ contact_id: id }, { order: [['tag', 'ASC']] }),
      ctx.store.contactConsents.all({ contact_id: id }),
      ctx.store.consentEntries.all({ contact_id: id }, { order: [['id', 'DESC']] }),
      ctx.store.select<{ id: string }>(
        `SELECT v.id FROM conversations v WHERE v.contact_id = :id AND ${reachedConversations(reach, 'v')} LIMIT 1`,
        values,
      ),
      ctx.store.select<{ n: number }>(
        `SELECT count(*) AS n FROM messages m WHERE m.contact_id = :id AND ${reachedMessages(reach, 'm')}`,
        values,
      ),
      ctx.store.select<ContactPage['latest'][number]>(
        `SELECT m.id, m.created_at AS createdAt, m.direction, m.text, m.state, c.name AS channel FROM messages m JOIN channels c ON c.id = m.channel_id
        WHERE m.contact_id = :id AND ${reachedMessages(reach, 'm')} ORDER BY m.id DESC LIMIT ${LATEST}`,
        values,
      ),
      mergesOf(ctx, actor, id),
    ],
  );
  const agreed = await agreedOver(ctx.store, id, identities);
  const [accounts, entries] = await Promise.all([
    ctx.store.accounts.all(),
    ctx.store.identityEntries.allBy(
      'value',
      identities.map(({ value }) => value),
    ),
  ]);
  return {
    contact: asView(contact),
    identities: identities.map((row) => ({
      ...asView(row),
      history: entries
        .filter((entry) => identityKey(entry) === identityKey(row))
        .sort((a, b) => b.at - a.at)
        .map(({ id: entry, what, at, why, by }) => ({ id: entry, what, at, why, by })),
      agreed: (agreed.get(identityKey(row)) ?? []).map(({ way, account }) => ({
        way,
        ...(account ? { on: accounts.find(({ id }) => id === account)?.name ?? 'an account that is gone' } : {}),
      })),
    })),
    attributes: Object.fromEntries(attributes.map(({ name, value }) => [name, value])),
    tags: tags.map(({ tag }) => tag),
    consents: asViews(consents),
    ledger: asViews(ledger),
    conversationId: conversation?.id,
    messages: counted?.n ?? 0,
    latest,
    merges: merges.map(({ merge, gone }) => ({ merge: asView(merge), gone })),
  };
}

export interface ContactInput {
  name: string;
  language: string;
  zone: string;
  tags: string[];
  /** One `name: value` each. */
  attributes: Record<string, string>;
}

export async function changeContact(ctx: AppContext, actor: Actor, id: string, input: ContactInput): Promise<void> {
  requireRole(actor, 'agent');
  const language = input.language.trim();
  const zone = input.zone.trim();
  if (language && !isTag(language))
    throw invalidText('language', `“${language}” is no language tag.`, 'Use one such as en, sv or pt-BR.');
  if (zone && !isZone(zone))
    throw invalidText('zone', `There is no time zone “${zone}”.`, 'Use one such as Europe/London.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.contacts.one({ id }), 'contact');
    await unit.contacts.change(
      { id },
      {
        name: input.name.trim() || null,
        // Only what differs from before was said by somebody.
        ...(language === (before.language ?? '')
          ? {}
          : { language: language || null, language_from: language ? actor.name : null }),
        ...(zone === (before.zone ?? '') ? {} : { zone: zone || null, zone_from: zone ? actor.name : null }),
      },
    );
    await unit.contactTags.remove({ contact_id: id });
    await unit.contactTags.insert(tagsOf(input.tags).map((tag) => ({ contact_id: id, tag })));
    await unit.contactAttributes.remove({ contact_id: id });
    await putAttributes(unit, id, input.attributes);
    await recordAudit(unit, actor, at, {
      action: 'contact.changed',
      subject: id,
      summary: `Changed the contact ${input.name.trim() || id}`,
    });
    await noteChanges(unit, at, [['contact', id]]);
  });
}

export async function putAttributes(
  unit: Unit,
  contactId: string,
  attributes: Readonly<Record<string, string>>,
): Promise<void> {
  await unit.contactAttributes.insert(
    Object.entries(attributes)
      .filter(([name, value]) => name.trim() !== '' && value.trim() !== '')
      .map(([name, value]) => ({
        contact_id: contactId,
        name: name.trim(),
        value: value.trim(),
        number: numberOf(value),
      })),
  );
}

export function numberOf(value: string): number | null {
  const text = value.trim().replace(/(?<=\d)[ ,](?=\d{3}\b)/g, '');
  return /^-?\d+(\.\d+)?$/.test(text) ? Number(text) : null;
}

export function tagsOf(tags: readonly string[]): string[] {
  return [...new Set(tags.map((tag) => tag.trim().toLowerCase()).filter(Boolean))];
}

function isTag(tag: string): boolean {
  try {
    return Intl.getCanonicalLocales(tag).length === 1;
  } catch {
    return false;
  }
}

/** What somebody typed as the address of a person, or the finding at the field. */
export function readAddress(field: string, text: string, country: string | undefined): Identity {
  const { kind, read } = readTyped(text, country || undefined);
  if (!read.ok) throw invalid(field, read.finding);
  return { kind, scope: '', value: read.value };
}

/** A contact made by hand, with an address nobody has yet. */
export async function addContact(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; address: string; country?: string },
): Promise<{ id: string }> {
  requireRole(actor, 'agent');
  const identity = readAddress('address', input.address, input.country);
  const at = ctx.now();
  const id = newId('con', at);
  await ctx.store.write(async (unit) => {
    if (await holderOf(unit, identity))
      throw invalidText('address', 'A contact has this address already.', 'Open that one.');
    await unit.contacts.insert([newContact(id, input.name.trim() || null, identity, at)]);
    await addIdentities(unit, [{ ...identity, contactId: id }], {
      at,
      source: 'by-hand',
      why: 'Entered with the contact.',
      by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: 'contact.added',
      subject: id,
      summary: `Added the contact ${input.name.trim() || identity.value}`,
    });
  });
  return { id };
}

/** Gives contacts a tag, or takes it from them. Returns how many of them changed by it. */
export async function tagContacts(
  ctx: AppContext,
  actor: Actor,
  input: { ids: readonly string[]; tag: string; has: boolean },
): Promise<number> {
  requireRole(actor, 'agent');
  const [tag] = tagsOf([input.tag]);
  if (!tag) throw invalidText('tag', 'The tag is empty.', 'Write the tag.');
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const known = await unit.contacts.allBy('id', [...new Set(input.ids)]);
    const ids = known.filter(({ merged_into }) => merged_into === null).map(({ id }) => id);
    const tagged = new Set(
      (await unit.contactTags.allBy('contact_id', ids)).filter((row) => row.tag === tag).map((row) => row.contact_id),
    );
    const changed = ids.filter((id) => tagged.has(id) !== input.has);
    if (input.has) await unit.contactTags.insert(changed.map((id) => ({ contact_id: id, tag })));
    else if (changed.length > 0) await unit.contactTags.remove({ contact_id: changed, tag });
    if (changed.length === 0) return 0;
    const people = changed.length === 1 ? 'one contact' : `${changed.length} contacts`;
    await recordAudit(unit, actor, at, {
      action: input.has ? 'contact.tagged' : 'contact.untagged',
      subject: changed.length === 1 ? (changed[0] as string) : 'contacts',
      summary: input.has ? `Tagged ${people} ${tag}` : `Removed the tag ${tag} from ${people}`,
    });
    await noteChanges(
      unit,
      at,
      changed.map((id) => ['contact', id] as const),
    );
    return changed.length;
  });
}
