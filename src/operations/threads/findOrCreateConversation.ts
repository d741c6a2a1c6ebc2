/** Finds or makes the contact and the conversation behind an address; one conversation per contact. */

import { type Identity, identityKey } from '../../core/identities/identityKinds';
import { newId } from '../../store/ids';
import type { ChannelRow, ChatVisitorRow, ContactRow, ConversationRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type NewConsent, newContact, recordConsents } from '../contacts';
import { addIdentities, holderOf, holdersOf, identityOn, type NewIdentity, type OnChannel, phone } from '../identities';

export interface Thread {
  contactId: string;
  conversationId: string;
}

export interface Correspondent {
  /** As normalised; a visitor's id on a web chat. */
  address: string;
  channel: OnChannel & Pick<ChannelRow, 'id'>;
  /** What the person calls themselves, where that is told. */
  name?: string;
}

/** The same words as an address of another kind are another person. */
export function threadKey(address: string, channel: OnChannel): string {
  return identityKey(identityOn(channel, address));
}

/** Threads for many correspondents at once, by `threadKey`. `source`: whether they wrote, or are written to. */
export async function threadsFor(
  unit: Unit,
  correspondents: readonly Correspondent[],
  { at, source }: { at: number; source: 'wrote' | 'sent' },
): Promise<Map<string, Thread>> {
  const wanted = new Map(correspondents.map((entry) => [threadKey(entry.address, entry.channel), entry]));
  const contactOf = await knownContacts(unit, [...wanted.values()]);
  const strangers = [...wanted].filter(([key]) => !contactOf.has(key));
  for (const [key, contactId] of await makeContacts(unit, strangers, { at, source })) contactOf.set(key, contactId);

  const conversations = await unit.conversations.all({ contact_id: [...new Set(contactOf.values())] });
  const conversationOf = new Map(conversations.map((row) => [row.contact_id, row.id]));
  const newConversations: ConversationRow[] = [];
  const threads = new Map<string, Thread>();
  for (const [key, { channel }] of wanted) {
    const contactId = contactOf.get(key) as string;
    let conversationId = conversationOf.get(contactId);
    if (!conversationId) {
      conversationId = newId('cnv', at);
      conversationOf.set(contactId, conversationId);
      newConversations.push({
        id: conversationId,
        contact_id: contactId,
        channel_id: channel.id,
        last_message_at: at,
        last_text: '',
        last_direction: 'in',
        unread: 0,
        state: 'quiet',
        assigned_to: null,
        team: null,
        last_inbound_at: null,
        closed_at: null,
        idle_noticed_at: null,
      });
    }
    threads.set(key, { contactId, conversationId });
  }
  await unit.conversations.insert(newConversations);
  return threads;
}

async function knownContacts(unit: Unit, wanted: readonly Correspondent[]): Promise<Map<string, string>> {
  const holders = await holdersOf(
    unit,
    wanted.map(({ address, channel }) => identityOn(channel, address)),
  );
  return new Map([...holders].map(([key, { contact_id }]) => [key, contact_id]));
}

/** Somebody nobody knows yet. */
interface Stranger {
  identity: Identity;
  name?: string;
  /** What a web chat knows of its visitor. */
  visitor?: ChatVisitorRow;
  /** A phone they have shown to be theirs. */
  shown?: Identity;
}

async function makeContacts(
  unit: Unit,
  strangers: readonly [string, Correspondent][],
  { at, source }: { at: number; source: 'wrote' | 'sent' },
): Promise<Map<string, string>> {
  const made = new Map<string, string>();
  const contacts: ContactRow[] = [];
  const added: NewIdentity[] = [];
  const shown: NewIdentity[] = [];
  const agreed: NewConsent[] = [];
  for (const [key, { address, channel, name }] of strangers) {
    if (made.has(key)) continue;
    const stranger = await strangerAt(unit, identityOn(channel, address), name);
    // A visitor who has shown that a phone is theirs is the contact with that number; what one only says makes nobody another.
    const known =
      stranger.shown && (made.get(identityKey(stranger.shown)) ?? (await holderOf(unit, stranger.shown))?.contact_id);
    const contactId = known ?? newId('con', at);
    made.set(key, contactId);
    if (stranger.shown) made.set(identityKey(stranger.shown), contactId);
    if (!known)
      contacts.push(
        newContact(contactId, stranger.visitor?.name ?? stranger.name ?? null, stranger.shown ?? stranger.identity, at),
      );
    if (stranger.shown && !known) shown.push({ ...stranger.shown, contactId });
    added.push({ ...stranger.identity, contactId });
    agreed.push(...agreementOf(stranger, contactId));
  }
  await unit.contacts.insert(contacts);
  const why = source === 'wrote' ? 'They wrote from it.' : 'A message was sent to it.';
  await addIdentities(unit, added, { at, source, why, by: 'Windgap' });
  await addIdentities(unit, shown, { at, source: 'code', why: 'They typed the code sent to it.', by: 'Windgap' });
  await recordConsents(unit, agreed);
  return made;
}

async function strangerAt(unit: Unit, identity: Identity, name: string | undefined): Promise<Stranger> {
  if (identity.kind !== 'visitor') return { identity, name };
  const visitor = await unit.visitors.one({ id: identity.value });
  const shown = visitor?.phone && visitor.confirmed_at !== null ? phone(visitor.phone) : undefined;
  return { identity, name, visitor, shown };
}

/** What visitors agreed to before they could write. */
function agreementOf({ visitor }: Stranger, contactId: string): NewConsent[] {
  if (!visitor?.consent_at) return [];
  return [
    {
      contact_id: contactId,
      way: 'web',
      what: 'given',
      at: visitor.consent_at,
      how: 'web-chat',
      wording: visitor.consent_text ?? '',
      by: visitor.name ?? 'the visitor',
      ref: visitor.id,
    },
  ];
}
