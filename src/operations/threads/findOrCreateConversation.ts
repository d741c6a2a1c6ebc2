/** Finds or makes the contact and the conversation behind an address; one conversation per contact. */

import { channelKind } from '../../core/connect/channelKinds';
import { newId } from '../../store/ids';
import type { ChannelRow, ChatVisitorRow, ContactRow, ConversationRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { newContact, recordConsents } from '../contacts';

export interface Thread {
  contactId: string;
  conversationId: string;
}

export interface Correspondent {
  /** As normalised; a visitor's id on a web chat. */
  address: string;
  channel: Pick<ChannelRow, 'id' | 'kind'>;
  /** What the person calls themselves, where that is told. */
  name?: string;
}

/** The same words as an address of another kind are another person. */
export function threadKey(address: string, channel: Pick<ChannelRow, 'kind'>): string {
  return `${channelKind(channel.kind).identity} ${address}`;
}

/** Threads for many correspondents at once, by `threadKey`. */
export async function threadsFor(
  unit: Unit,
  correspondents: readonly Correspondent[],
  at: number,
): Promise<Map<string, Thread>> {
  const wanted = new Map(correspondents.map((entry) => [threadKey(entry.address, entry.channel), entry]));
  const contactOf = await knownContacts(unit, [...wanted.values()]);
  const strangers = [...wanted].filter(([key]) => !contactOf.has(key));
  for (const [key, contactId] of await makeContacts(unit, strangers, at)) contactOf.set(key, contactId);

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
  const known = new Map<string, string>();
  for (const kind of ['phone', 'visitor'] as const) {
    const values = wanted
      .filter(({ channel }) => channelKind(channel.kind).identity === kind)
      .map(({ address }) => address);
    if (values.length === 0) continue;
    for (const identity of await unit.identities.all({ kind, value: values }))
      known.set(`${kind} ${identity.value}`, identity.contact_id);
  }
  return known;
}

async function makeContacts(
  unit: Unit,
  strangers: readonly [string, Correspondent][],
  at: number,
): Promise<Map<string, string>> {
  const made = new Map<string, string>();
  const contacts: ContactRow[] = [];
  for (const [key, { address, channel, name }] of strangers) {
    const visitor =
      channelKind(channel.kind).identity === 'visitor' ? await unit.visitors.one({ id: address }) : undefined;
    // A visitor who has shown that a phone is theirs is the contact with that number; what one only says makes nobody another.
    const shown = visitor && confirmedPhone(visitor);
    const phone = shown ? await unit.identities.one({ kind: 'phone', value: shown }) : undefined;
    const id = phone?.contact_id ?? newId('con', at);
    made.set(key, id);
    if (!phone) {
      contacts.push(newContact(id, visitor?.name ?? name ?? null, shown ?? address, at));
    }
  }
  await unit.contacts.insert(contacts);
  await unit.identities.insert(
    strangers.map(([key, { address, channel }]) => ({
      kind: channelKind(channel.kind).identity,
      value: address,
      contact_id: made.get(key) as string,
    })),
  );
  await addPhones(unit, strangers, made);
  await enterAgreements(unit, strangers, made);
  return made;
}

function confirmedPhone({ phone, confirmed_at }: ChatVisitorRow): string | undefined {
  return confirmed_at === null ? undefined : (phone ?? undefined);
}

async function addPhones(
  unit: Unit,
  strangers: readonly [string, Correspondent][],
  made: ReadonlyMap<string, string>,
): Promise<void> {
  for (const [key, { address, channel }] of strangers) {
    if (channelKind(channel.kind).identity !== 'visitor') continue;
    const visitor = await unit.visitors.one({ id: address });
    const phone = visitor && confirmedPhone(visitor);
    if (!phone || (await unit.identities.one({ kind: 'phone', value: phone }))) continue;
    await unit.identities.insert([{ kind: 'phone', value: phone, contact_id: made.get(key) as string }]);
  }
}

/** What visitors agreed to before they could write. */
async function enterAgreements(
  unit: Unit,
  strangers: readonly [string, Correspondent][],
  made: ReadonlyMap<string, string>,
): Promise<void> {
  const visitors = await unit.visitors.allBy(
    'id',
    strangers.flatMap(([, { address, channel }]) =>
      channelKind(channel.kind).identity === 'visitor' ? [address] : [],
    ),
  );
  await recordConsents(
    unit,
    strangers.flatMap(([key, { address, channel }]) => {
      const visitor =
        channelKind(channel.kind).identity === 'visitor' ? visitors.find(({ id }) => id === address) : undefined;
      if (!visitor?.consent_at) return [];
      return [
        {
          contact_id: made.get(key) as string,
          way: 'web' as const,
          what: 'given' as const,
          at: visitor.consent_at,
          how: 'web-chat' as const,
          wording: visitor.consent_text ?? '',
          by: visitor.name ?? 'the visitor',
          ref: visitor.id,
        },
      ];
    }),
  );
}
