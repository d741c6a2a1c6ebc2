/**
 * What people agreed to and declined. Entries are only ever added; each says what was
 * said, how, in which words, and by whom. Whoever declined is written to no more over
 * that kind of channel, whatever the path.
 */

import type { ConsentItem } from '../../../connectors/connector';
import { languageOfCountry } from '../../../core/addresses/display';
import { channelKind } from '../../../core/connect/channelKinds';
import type { ConsentWay } from '../../../core/consent/ways';
import { consentAnswer, consentWord, helpAnswer } from '../../../core/consent/words';
import type { Identity } from '../../../core/identities/identityKinds';
import { newId } from '../../../store/ids';
import type { ChannelRow, ConsentEntryRow, MessageRow } from '../../../store/schema/rows';
import type { Tables } from '../../../store/schema/tables';
import type { Unit } from '../../../store/store';
import { type Actor, type AppContext, found, invalidText, noteChanges, recordAudit, requireRole } from '../../context';
import { ofTelephone } from '../../identities';
import { readOrganisation } from '../../organisation';
import { cover, uncoverContacts } from './consentCoverage';

/**
 * `covers`: the addresses an opt-in holds for; without it every one they have now. `account`: that of the platform it was
 * said on; without it the opt-in holds for all.
 */
export type NewConsent = Omit<ConsentEntryRow, 'id'> & { covers?: readonly Identity[]; account?: string };

/** What is said on one chat platform is said to no other; texts and mail are the same whoever carries them. */
const saidOn = (channel: ChannelRow): { account?: string } =>
  channelKind(channel.kind).platforms ? { account: channel.account_id } : {};

/** Adds to the ledger. What stands afterwards is the last entry of each contact and way, in the order given. */
export async function recordConsents(
  unit: Unit,
  entries: readonly NewConsent[],
  { quietly = false }: { quietly?: boolean } = {},
): Promise<void> {
  if (entries.length === 0) return;
  const rows = entries.map(({ covers: _, account: __, ...entry }) => ({ id: newId('cns', entry.at), ...entry }));
  await unit.consentEntries.insert(rows);
  const standing = new Map(rows.map((row) => [`${row.contact_id} ${row.way}`, row]));
  const retracted = [...standing.values()].filter(({ what }) => what === 'retracted');
  if (retracted.length > 0)
    await unit.execute(
      `DELETE FROM contact_consents WHERE (contact_id, way) IN (SELECT value->>0, value->>1 FROM json_each(:rows))`,
      { rows: JSON.stringify(retracted.map(({ contact_id, way }) => [contact_id, way])) },
    );
  await unit.execute(
    `INSERT INTO contact_consents (contact_id, way, state, since, entry_id)
       SELECT value->>0, value->>1, value->>2, value->>3, value->>4 FROM json_each(:rows) WHERE true
       ON CONFLICT (contact_id, way) DO UPDATE SET state = excluded.state, since = excluded.since, entry_id = excluded.entry_id`,
    {
      rows: JSON.stringify(
        [...standing.values()]
          .filter(({ what }) => what !== 'retracted')
          .map(({ contact_id, way, what, at, id }) => [contact_id, way, what, at, id]),
      ),
    },
  );
  const ended = [...standing.values()].filter(({ what }) => what !== 'given');
  await uncoverContacts(
    unit,
    ended.map(({ contact_id, way }) => ({ contactId: contact_id, way })),
  );
  await cover(
    unit,
    rows.flatMap((row, index) =>
      standing.get(`${row.contact_id} ${row.way}`) === row && row.what === 'given'
        ? [
            {
              contactId: row.contact_id,
              way: row.way,
              entryId: row.id,
              at: row.at,
              covers: entries[index]?.covers,
              account: entries[index]?.account,
            },
          ]
        : [],
    ),
  );
  if (quietly) return;
  await noteChanges(
    unit,
    Math.max(...rows.map(({ at }) => at)),
    [...new Set(rows.map(({ contact_id }) => contact_id))].map((id) => ['contact', id] as const),
  );
}

/** Who among these declined, as `way contact`. */
export async function declined(
  tables: Pick<Tables, 'contactConsents'>,
  contactIds: readonly string[],
): Promise<Set<string>> {
  if (contactIds.length === 0) return new Set();
  const rows = await tables.contactConsents.allBy('contact_id', [...new Set(contactIds)]);
  return new Set(
    rows.filter(({ state }) => state === 'withdrawn').map(({ way, contact_id }) => `${way} ${contact_id}`),
  );
}

export interface ConsentReply {
  channel: ChannelRow;
  recipient: string;
  text: string;
  /** The message that is answered. */
  inReplyTo: string;
  /** Of a mail, the subject of what is answered. */
  subject: string | null;
}

/**
 * Reads opt-out and opt-in words among messages that came in and enters them. Returns what
 * is to be confirmed, and which messages were such words: each change once, so that two who answer by machine do not go on for ever.
 */
export async function takeConsentWords(
  unit: Unit,
  received: readonly { message: MessageRow; channel: ChannelRow }[],
): Promise<{ replies: ConsentReply[]; taken: Set<string> }> {
  const said = received.flatMap(({ message, channel }) => (consentWord(message.text) ? [{ message, channel }] : []));
  if (said.length === 0) return { replies: [], taken: new Set() };
  const contacts = new Map(
    (
      await unit.contacts.allBy(
        'id',
        said.map(({ message }) => message.contact_id),
      )
    ).map((row) => [row.id, row]),
  );
  const [gone, helped] = await Promise.all([
    declined(unit, [...contacts.keys()]),
    helpFor(unit, [...contacts.keys()], said),
  ]);
  const { language } = await readOrganisation(unit);
  const asked = new Set<string>();
  const entries: NewConsent[] = [];
  const replies: ConsentReply[] = [];
  for (const { message, channel } of said) {
    const contact = contacts.get(message.contact_id);
    const word = consentWord(message.text, contact?.language ?? languageOfCountry(contact?.country) ?? language);
    if (!word) continue;
    if (word.kind === 'help') {
      const answer = helped.get(message.contact_id);
      if (!answer || !ofTelephone(channel)) continue;
      helped.delete(message.contact_id);
      asked.add(message.id);
      replies.push({
        channel,
        recipient: message.sender,
        text: helpAnswer(word, answer, contact?.country),
        inReplyTo: message.id,
        subject: null,
      });
      continue;
    }
    const way = channelKind(channel.kind).consent;
    const key = `${way} ${message.contact_id}`;
    const stop = word.kind === 'stop';
    // A word to come back means nothing from somebody who never left.
    if (!stop && !gone.has(key)) continue;
    entries.push({
      contact_id: message.contact_id,
      way,
      what: stop ? 'withdrawn' : 'given',
      at: message.created_at,
      how: 'word',
      wording: message.text,
      by: message.sender,
      ref: message.id,
      ...saidOn(channel),
    });
    if (stop !== gone.has(key))
      replies.push({
        channel,
        recipient: message.sender,
        text: consentAnswer(word),
        inReplyTo: message.id,
        subject: message.subject,
      });
    if (stop) gone.add(key);
    else gone.delete(key);
  }
  await recordConsents(unit, entries);
  return { replies, taken: new Set([...asked, ...entries.flatMap(({ ref }) => ref ?? [])]) };
}

/** So often HELP is answered in so long, so that two machines do not ask each other for ever; milliseconds. */
const HELP_MOST = 3;
const HELP_WITHIN = 600_000;

/** By contact, what HELP is answered: nobody as long as the organisation has no such words, and where it was answered often enough just now. */
async function helpFor(
  unit: Unit,
  contactIds: readonly string[],
  said: readonly { message: MessageRow }[],
): Promise<Map<string, string>> {
  const { help } = await readOrganisation(unit);
  if (!help) return new Map();
  const since = Math.max(...said.map(({ message }) => message.created_at)) - HELP_WITHIN;
  const lately = await unit.select<{ id: string }>(
    `SELECT contact_id AS id FROM messages
      WHERE contact_id IN (:contactIds) AND direction = 'out' AND origin_kind = 'consent' AND created_at > :since
      GROUP BY contact_id HAVING count(*) >= :most`,
    { contactIds: [...contactIds], since, most: HELP_MOST },
  );
  const answered = new Set(lately.map(({ id }) => id));
  return new Map(contactIds.filter((id) => !answered.has(id)).map((id) => [id, help]));
}

/**
 * A provider refuses to send to people because they told it that they decline, in a word it kept to itself: it is entered
 * here too, so that both know it. `said` is what the provider gave as its reason.
 */
export async function declinedAtProvider(
  unit: Unit,
  refused: readonly { message: MessageRow; channel: ChannelRow; said?: string; by: string }[],
  at: number,
): Promise<void> {
  if (refused.length === 0) return;
  const gone = await declined(
    unit,
    refused.map(({ message }) => message.contact_id),
  );
  const entries: NewConsent[] = [];
  for (const { message, channel, said, by } of refused) {
    const way = channelKind(channel.kind).consent;
    const key = `${way} ${message.contact_id}`;
    if (gone.has(key)) continue;
    gone.add(key);
    entries.push({
      contact_id: message.contact_id,
      way,
      what: 'withdrawn',
      at,
      how: 'provider',
      wording: said ?? 'opted out',
      by,
      ref: message.id,
    });
  }
  await recordConsents(unit, entries);
}

/**
 * Enters what people told a provider that it took for itself and tells of; what stands already is not entered again. A word to
 * come back means nothing from somebody who never left.
 */
export async function toldByProviders(
  unit: Unit,
  told: readonly { item: ConsentItem; channel: ChannelRow; by: string; contactId: string; requestId: string }[],
  at: number,
): Promise<void> {
  const gone = await declined(
    unit,
    told.map(({ contactId }) => contactId),
  );
  // A post that is read once more, for a part of it, brings what was taken from it already and may be over by now.
  const before = await unit.consentEntries.all({ ref: told.map(({ requestId }) => requestId), how: 'provider' });
  const entries: NewConsent[] = [];
  for (const { item, channel, by, contactId, requestId } of told) {
    const way = channelKind(channel.kind).consent;
    if (before.some((entry) => entry.ref === requestId && entry.contact_id === contactId && entry.what === item.what))
      continue;
    const key = `${way} ${contactId}`;
    if ((item.what === 'withdrawn') === gone.has(key)) continue;
    if (item.what === 'withdrawn') gone.add(key);
    else gone.delete(key);
    entries.push({
      contact_id: contactId,
      way,
      what: item.what,
      at,
      how: 'provider',
      wording: item.said,
      by,
      ref: requestId,
      ...saidOn(channel),
    });
  }
  await recordConsents(unit, entries);
}

/** How many people's opt-outs each channel's provider kept to itself since then, by channel. */
export async function optOutsKeptByProviders(
  from: Pick<Unit, 'select'>,
  since: number,
): Promise<ReadonlyMap<string, number>> {
  const rows = await from.select<{ channel: string; people: number }>(
    `SELECT m.channel_id AS channel, count(DISTINCT e.contact_id) AS people FROM consent_entries e JOIN messages m ON m.id = e.ref
      WHERE e.how = 'provider' AND e.at > :since GROUP BY m.channel_id`,
    { since },
  );
  return new Map(rows.map(({ channel, people }) => [channel, people]));
}

export async function enterConsent(
  ctx: AppContext,
  actor: Actor,
  input: { contactId: string; way: ConsentWay; what: ConsentEntryRow['what']; wording: string },
): Promise<void> {
  requireRole(actor, 'agent');
  if (!input.wording.trim())
    throw invalidText(
      'wording',
      'The evidence is missing.',
      'Write where and in which words, such as “on the sign-up form of 3 May”.',
    );
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const contact = found(await unit.contacts.one({ id: input.contactId }), 'contact');
    await recordConsents(unit, [
      {
        contact_id: contact.id,
        way: input.way,
        what: input.what,
        at,
        how: 'by-hand',
        wording: input.wording.trim(),
        by: actor.name,
        ref: null,
      },
    ]);
    const done = input.what === 'given' ? 'opted in to' : 'opted out of';
    await recordAudit(unit, actor, at, {
      action: 'consent.entered',
      subject: contact.id,
      summary: `Entered that ${contact.name ?? 'a contact'} ${done} ${input.way}`,
    });
  });
}
