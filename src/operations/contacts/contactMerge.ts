/**
 * Contacts that are one person. What belonged to the one that goes is moved to the one that
 * stays, and what was moved is kept, so that it can be undone however much came in between.
 */
import { type Likeness, likenesses, phoneOf, type Trait, tellsWho } from '../../core/contacts/duplicates';
import { identityKey } from '../../core/identities/identityKinds';
import { newId } from '../../store/ids';
import type {
  ContactConsentRow,
  ContactIdentityRow,
  ContactMergeRow,
  ContactRow,
  ConversationRow,
  ConversationStanding,
  IdentityConsentRow,
  MovedByMerge,
} from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { enterHistory, holdersOf } from '../identities';
import { coverageOf, putCoverage } from './consent/consentCoverage';
import { recordConsents } from './consent/consents';

/** Attributes looked through, newest contacts first: enough for what is new, little enough to wait for. */
const MOST_ATTRIBUTES = 20_000;

export interface Suggestion extends Likeness {
  contacts: [View<ContactRow>, View<ContactRow>];
}

export async function suggestMerges(ctx: AppContext, actor: Actor): Promise<Suggestion[]> {
  requireRole(actor, 'viewer');
  const names = await ctx.store.select<{ name: string }>('SELECT DISTINCT name FROM contact_attributes');
  const attributes = await ctx.store.select<Trait>(
    `SELECT a.contact_id AS contactId, a.name, a.value, c.country
       FROM contact_attributes a JOIN contacts c ON c.id = a.contact_id
      WHERE a.name IN (:names) AND c.merged_into IS NULL ORDER BY a.contact_id DESC LIMIT ${MOST_ATTRIBUTES}`,
    { names: names.map(({ name }) => name).filter(tellsWho) },
  );
  const numbers = likelyNumbers(attributes);
  const identities = await ctx.store.select<Trait>(
    `SELECT contact_id AS contactId, kind AS name, value, NULL AS country
       FROM contact_identities WHERE kind = 'phone' AND value IN (SELECT value FROM json_each(:numbers))`,
    { numbers: JSON.stringify(numbers) },
  );
  const found = likenesses([...identities, ...attributes]);
  const apart = new Set(
    (
      await ctx.store.contactsApart.allBy(
        'one_id',
        found.map(({ ids }) => ids[0]),
      )
    ).map((row) => `${row.one_id} ${row.other_id}`),
  );
  const open = found.filter(({ ids }) => !apart.has(ids.join(' '))).slice(0, 100);
  const rows = new Map(
    (
      await ctx.store.contacts.allBy(
        'id',
        open.flatMap(({ ids }) => ids),
      )
    ).map((row) => [row.id, asView(row)]),
  );
  return open.map((pair) => ({
    ...pair,
    contacts: pair.ids.map((id) => rows.get(id)) as Suggestion['contacts'],
  }));
}

/** The numbers attributes hold, in E.164. */
function likelyNumbers(attributes: readonly Trait[]): string[] {
  return [...new Set(attributes.flatMap((trait) => phoneOf(trait) ?? []))];
}

/** Says that two are not one person, so that they are not suggested again. */
export async function keepApart(ctx: AppContext, actor: Actor, ids: [string, string]): Promise<void> {
  requireRole(actor, 'agent');
  const [one, other] = [...ids].sort() as [string, string];
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    if (await unit.contactsApart.one({ one_id: one, other_id: other })) return;
    await unit.contactsApart.insert([{ one_id: one, other_id: other, at, by: actor.name }]);
    await noteChanges(unit, at, [['contact', one]]);
  });
}

export async function mergeContacts(
  ctx: AppContext,
  actor: Actor,
  input: { keptId: string; goneId: string; why: string },
): Promise<{ id: string }> {
  requireRole(actor, 'agent');
  const { keptId, goneId } = input;
  if (keptId === goneId) throw new OperationError('conflict', 'A contact cannot be merged with itself.');
  const at = ctx.now();
  const id = newId('mrg', at);
  await ctx.store.write(async (unit) => {
    const kept = found(await unit.contacts.one({ id: keptId, merged_into: null }), 'contact');
    const gone = found(await unit.contacts.one({ id: goneId, merged_into: null }), 'contact');
    const moved: MovedByMerge = {
      identities: await unit.identities.all({ contact_id: goneId }),
      ...(await threadOf(unit, goneId)),
      windows: await unit.replyWindows.all({ contact_id: goneId }),
      filled: fillOf(kept, gone),
      ...(await brought(unit, keptId, goneId)),
      consents: await unit.contactConsents.all({ contact_id: keptId }),
      coverage: await coverageOf(unit, await unit.identities.all({ contact_id: [keptId, goneId] })),
      ...(await workOf(unit, goneId)),
    };
    moved.stood = await moveThread(unit, { from: goneId, to: keptId, conversation: moved.conversation });
    await giveWork(unit, moved, { from: goneId, to: keptId });
    await unit.identities.change({ contact_id: goneId }, { contact_id: keptId });
    await unit.execute(
      `INSERT INTO reply_windows (channel_id, contact_id, last_inbound_at)
         SELECT channel_id, :kept, last_inbound_at FROM reply_windows WHERE contact_id = :gone
         ON CONFLICT (channel_id, contact_id) DO UPDATE SET last_inbound_at = max(last_inbound_at, excluded.last_inbound_at)`,
      { kept: keptId, gone: goneId },
    );
    await unit.contacts.change(
      { id: keptId },
      { ...moved.filled, seen_at: Math.max(kept.seen_at ?? 0, gone.seen_at ?? 0) || null },
    );
    await unit.contactAttributes.insert(moved.attributes.map((row) => ({ ...row, contact_id: keptId })));
    await unit.contactTags.insert(moved.tags.map((tag) => ({ contact_id: keptId, tag })));
    await takeConsents(unit, actor, at, { kept: keptId, gone, ref: id, moved: moved.identities });
    const why = `Merged: ${input.why}.`;
    await enterHistory(
      unit,
      moved.identities.map((row) => ({ ...row, contactId: keptId })),
      { what: 'moved', at, why, by: actor.name },
    );
    await unit.contacts.change({ id: goneId }, { merged_into: keptId });
    await unit.contactMerges.insert([
      { id, kept_id: keptId, gone_id: goneId, at, by: actor.name, why: input.why, moved, undone_at: null },
    ]);
    await recordAudit(unit, actor, at, {
      action: 'contact.merged',
      subject: keptId,
      summary: `Merged ${gone.name ?? 'a contact'} into ${kept.name ?? 'another'}`,
    });
    await noteChanges(unit, at, [
      ['contact', keptId],
      ['contact', goneId],
    ]);
  });
  return { id };
}

/** What the one that stays does not know and the other does. */
function fillOf(kept: ContactRow, gone: ContactRow): MovedByMerge['filled'] {
  return {
    ...(kept.name === null && gone.name !== null ? { name: gone.name } : {}),
    // What somebody said goes before what a number suggests.
    ...(gone.language && (!kept.language || (kept.language_from === 'number' && gone.language_from !== 'number'))
      ? { language: gone.language, language_from: gone.language_from }
      : {}),
    ...(gone.zone && (!kept.zone || (kept.zone_from === 'number' && gone.zone_from !== 'number'))
      ? { zone: gone.zone, zone_from: gone.zone_from }
      : {}),
  };
}

async function brought(unit: Unit, keptId: string, goneId: string): Promise<Pick<MovedByMerge, 'attributes' | 'tags'>> {
  const [mine, theirs, myTags, theirTags] = await Promise.all([
    unit.contactAttributes.all({ contact_id: keptId }),
    unit.contactAttributes.all({ contact_id: goneId }),
    unit.contactTags.all({ contact_id: keptId }),
    unit.contactTags.all({ contact_id: goneId }),
  ]);
  const known = new Set(mine.map(({ name }) => name));
  const tagged = new Set(myTags.map(({ tag }) => tag));
  return {
    attributes: theirs.filter(({ name }) => !known.has(name)),
    tags: theirTags.map(({ tag }) => tag).filter((tag) => !tagged.has(tag)),
  };
}

async function threadOf(unit: Unit, contactId: string): Promise<Pick<MovedByMerge, 'conversation' | 'notes'>> {
  const conversation = await unit.conversations.one({ contact_id: contactId });
  const notes = conversation ? await unit.conversationNotes.all({ conversation_id: conversation.id }) : [];
  return { conversation, notes: notes.map(({ id }) => id) };
}

/** What is under way with somebody: runs, such as a question that waits for its answer, and to-dos. */
async function workOf(unit: Unit, contactId: string): Promise<Required<Pick<MovedByMerge, 'runs' | 'todos'>>> {
  const ids = (table: string) =>
    unit.select<{ id: string }>(`SELECT id FROM ${table} WHERE contact_id = :contactId`, { contactId });
  const [runs, todos] = await Promise.all([ids('runs'), ids('todos')]);
  return { runs: runs.map(({ id }) => id), todos: todos.map(({ id }) => id) };
}

/** Whoever writes is found by their contact, so what waits for them goes where they go. */
async function giveWork(
  unit: Unit,
  { runs = [], todos = [] }: Pick<MovedByMerge, 'runs' | 'todos'>,
  { from, to }: { from: string; to: string },
): Promise<void> {
  for (const [table, ids] of [
    ['runs', runs],
    ['todos', todos],
  ] as const)
    await unit.execute(`UPDATE ${table} SET contact_id = :to WHERE contact_id = :from AND id IN (:ids)`, {
      from,
      to,
      ids,
    });
}

/** One contact has one conversation: the other's messages join it, or the conversation changes hands. Returns how the one that stays stood. */
async function moveThread(
  unit: Unit,
  { from, to, conversation }: { from: string; to: string; conversation: MovedByMerge['conversation'] },
): Promise<ConversationStanding | undefined> {
  if (!conversation) return undefined;
  const own = await unit.conversations.one({ contact_id: to });
  await unit.execute('UPDATE messages SET contact_id = :to, conversation_id = :own WHERE contact_id = :from', {
    from,
    to,
    own: own?.id ?? conversation.id,
  });
  if (!own) {
    await unit.conversations.change({ id: conversation.id }, { contact_id: to });
    return undefined;
  }
  await unit.conversationNotes.change({ conversation_id: conversation.id }, { conversation_id: own.id });
  await unit.presence.remove({ conversation_id: conversation.id });
  await unit.conversations.remove({ id: conversation.id });
  await retellThread(unit, own.id, conversation.unread);
  await unit.conversations.change({ id: own.id }, standingTogether(own, conversation));
  const { state, assigned_to, team, last_inbound_at, closed_at } = own;
  return { state, assigned_to, team, last_inbound_at, closed_at };
}

/** The first of these that either conversation is in: whoever waits for an answer goes on waiting. */
const PRESSING: readonly ConversationRow['state'][] = ['open', 'waiting', 'quiet', 'closed'];

function standingTogether(own: ConversationRow, other: ConversationRow): ConversationStanding {
  const state = PRESSING.find((each) => own.state === each || other.state === each) ?? own.state;
  const leading = own.state === state ? own : other;
  return {
    state,
    assigned_to: own.assigned_to ?? other.assigned_to,
    team: own.team ?? other.team,
    last_inbound_at: Math.max(own.last_inbound_at ?? 0, other.last_inbound_at ?? 0) || null,
    closed_at: state === 'closed' ? leading.closed_at : null,
  };
}

/** A conversation says of itself what its last message says, and is over the channel the person wrote on last. */
export async function retellThread(unit: Unit, id: string, moreUnread: number): Promise<void> {
  await unit.execute(
    `UPDATE conversations SET unread = max(0, unread + :more), (last_message_at, last_text, last_direction, channel_id) =
       (SELECT m.created_at, substr(m.text, 1, 160), m.direction,
               (SELECT o.channel_id FROM messages o WHERE o.conversation_id = :id ORDER BY o.direction = 'in' DESC, o.id DESC LIMIT 1)
          FROM messages m WHERE m.conversation_id = :id ORDER BY m.id DESC LIMIT 1)
      WHERE id = :id AND EXISTS (SELECT 1 FROM messages WHERE conversation_id = :id)`,
    { id, more: moreUnread },
  );
}

/** What either declined is declined: nobody is written to again because two rows became one. */
async function takeConsents(
  unit: Unit,
  actor: Actor,
  at: number,
  { kept, gone, ref, moved }: { kept: string; gone: ContactRow; ref: string; moved: readonly ContactIdentityRow[] },
): Promise<void> {
  const [mine, theirs] = await Promise.all([
    unit.contactConsents.all({ contact_id: kept }),
    unit.contactConsents.all({ contact_id: gone.id }),
  ]);
  const standing = new Map(mine.map((row) => [row.way, row]));
  const covered = await coverageOf(unit, moved);
  const taken = theirs.filter((row) => stricter(row, standing.get(row.way)));
  const entries = await unit.consentEntries.allBy(
    'id',
    taken.map(({ entry_id }) => entry_id),
  );
  await recordConsents(
    unit,
    taken.map(({ way, state, entry_id }) => ({
      // What the one that goes agreed to holds for their own addresses, and for none of the other’s.
      covers: covered.filter((row) => row.way === way),
      contact_id: kept,
      way,
      what: state,
      at,
      how: 'merge' as const,
      wording: entries.find(({ id }) => id === entry_id)?.wording ?? '',
      by: actor.name,
      ref,
    })),
  );
}

function stricter(theirs: ContactConsentRow, mine: ContactConsentRow | undefined): boolean {
  return !mine || (theirs.state === 'withdrawn' && mine.state === 'given');
}

export async function undoMerge(ctx: AppContext, actor: Actor, id: string): Promise<{ goneId: string }> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const merge = found(await unit.contactMerges.one({ id }), 'merge');
    if (merge.undone_at !== null) throw new OperationError('conflict', 'This merge was undone already.');
    const kept = found(await unit.contacts.one({ id: merge.kept_id }), 'contact');
    if (kept.merged_into !== null)
      throw new OperationError('conflict', 'The contact was merged on into another. Undo that first.');
    const { moved, gone_id: goneId, kept_id: keptId } = merge;
    await unit.contacts.change({ id: goneId }, { merged_into: null });
    await giveBackThread(unit, merge);
    await giveWork(unit, moved, { from: keptId, to: goneId });
    await unit.execute(
      `UPDATE contact_identities SET contact_id = :gone WHERE contact_id = :kept
         AND (kind, scope, value) IN (SELECT value->>0, value->>1, value->>2 FROM json_each(:identities))`,
      {
        gone: goneId,
        kept: keptId,
        identities: JSON.stringify(moved.identities.map(({ kind, scope = '', value }) => [kind, scope, value])),
      },
    );
    // What was changed since stays as it was changed.
    const same = Object.entries(moved.filled).filter(([column, value]) => kept[column as keyof ContactRow] === value);
    if (same.length > 0)
      await unit.contacts.change({ id: keptId }, Object.fromEntries(same.map(([column]) => [column, null])));
    for (const { name, value } of moved.attributes)
      await unit.contactAttributes.remove({ contact_id: keptId, name, value });
    for (const tag of moved.tags) await unit.contactTags.remove({ contact_id: keptId, tag });
    await takeDeclined(unit, actor, at, merge);
    await giveBackConsents(unit, actor, at, merge);
    await enterHistory(
      unit,
      moved.identities.map((row) => ({ ...row, scope: row.scope ?? '', contactId: goneId })),
      { what: 'moved', at, why: 'The merge was undone.', by: actor.name },
    );
    await unit.contactMerges.change({ id }, { undone_at: at });
    await recordAudit(unit, actor, at, {
      action: 'contact.merge-undone',
      subject: keptId,
      summary: `Took ${kept.name ?? 'a contact'} and another apart again`,
    });
    await noteChanges(unit, at, [
      ['contact', keptId],
      ['contact', goneId],
    ]);
    return { goneId };
  });
}

/** Messages go back by the address they went over, so that those since the merge find their person too. */
async function giveBackThread(unit: Unit, { moved, kept_id: kept, gone_id: gone }: ContactMergeRow): Promise<void> {
  const own = await unit.conversations.one({ contact_id: kept });
  const addresses = moved.identities.map(({ value }) => value);
  const [last] = await unit.select<{ id: string; channel_id: string }>(
    `SELECT id, channel_id FROM messages WHERE contact_id = :kept
       AND CASE direction WHEN 'in' THEN sender ELSE recipient END IN (:addresses) ORDER BY id DESC LIMIT 1`,
    { kept, addresses },
  );
  if (!own || !last) return;
  const back = moved.conversation ?? { ...own, id: newId('cnv', own.last_message_at), unread: 0 };
  // Where the conversation changed hands it goes back whole, and the other gets one of its own.
  if (back.id === own.id) await unit.conversations.change({ id: own.id }, { contact_id: gone });
  else await unit.conversations.insert([{ ...back, contact_id: gone }]);
  await unit.execute(
    `UPDATE messages SET contact_id = :gone, conversation_id = :back WHERE contact_id = :kept
       AND CASE direction WHEN 'in' THEN sender ELSE recipient END IN (:addresses)`,
    { gone, back: back.id, kept, addresses },
  );
  await retellThread(unit, back.id, 0);
  if (back.id !== own.id) {
    await unit.execute(
      'UPDATE conversation_notes SET conversation_id = :back WHERE conversation_id = :own AND id IN (:ids)',
      {
        back: back.id,
        own: own.id,
        ids: moved.notes ?? [],
      },
    );
    await retellThread(unit, own.id, -back.unread);
    // What somebody did with it since stays.
    const since = moved.conversation && moved.stood && standingTogether({ ...own, ...moved.stood }, moved.conversation);
    if (since && moved.stood && own.state === since.state && own.assigned_to === since.assigned_to)
      await unit.conversations.change({ id: own.id }, moved.stood);
    return;
  }
  const [rest] = await unit.select<{ n: number }>('SELECT count(*) AS n FROM messages WHERE contact_id = :kept', {
    kept,
  });
  if (!rest?.n) return;
  const fresh = { ...own, id: newId('cnv', own.last_message_at), contact_id: kept, unread: 0 };
  await unit.conversations.insert([fresh]);
  await unit.execute('UPDATE messages SET conversation_id = :fresh WHERE contact_id = :kept', {
    fresh: fresh.id,
    kept,
  });
  await retellThread(unit, fresh.id, 0);
}

/** Whoever declined while the two were one is not written to because they are two again: it holds for both. */
async function takeDeclined(unit: Unit, actor: Actor, at: number, merge: ContactMergeRow): Promise<void> {
  const since = (await unit.contactConsents.all({ contact_id: merge.kept_id, state: 'withdrawn' })).filter(
    (row) => row.since >= merge.at,
  );
  const entered = await unit.consentEntries.all({ contact_id: merge.kept_id, ref: merge.id });
  const fresh = since.filter(({ entry_id }) => !entered.some(({ id }) => id === entry_id));
  const entries = await unit.consentEntries.allBy(
    'id',
    fresh.map(({ entry_id }) => entry_id),
  );
  await recordConsents(
    unit,
    fresh.map(({ way, entry_id }) => ({
      contact_id: merge.gone_id,
      way,
      what: 'withdrawn' as const,
      at,
      how: 'merge' as const,
      wording: entries.find(({ id }) => id === entry_id)?.wording ?? '',
      by: actor.name,
      ref: merge.id,
    })),
  );
}

/** What the merge entered is taken back, where nothing was entered after it. */
async function giveBackConsents(unit: Unit, actor: Actor, at: number, merge: ContactMergeRow): Promise<void> {
  const entered = await unit.consentEntries.all({ contact_id: merge.kept_id, ref: merge.id });
  const standing = await unit.contactConsents.all({ contact_id: merge.kept_id });
  const mine = entered.filter(({ id }) => standing.some(({ entry_id }) => entry_id === id));
  await recordConsents(
    unit,
    mine.map(({ way, wording }) => {
      const before = merge.moved.consents.find((row) => row.way === way);
      return {
        contact_id: merge.kept_id,
        way,
        what: before?.state ?? ('retracted' as const),
        at,
        how: 'merge' as const,
        wording: before ? 'as it stood before the merge, which was undone' : wording,
        by: actor.name,
        ref: merge.id,
        covers: [],
      };
    }),
  );
  await coverAgain(unit, merge.moved.coverage ?? []);
}

/** Covers again what was covered, where whoever has the address now still agrees. */
export async function coverAgain(unit: Unit, coverage: readonly IdentityConsentRow[]): Promise<void> {
  const holders = await holdersOf(unit, coverage);
  const standing = await unit.contactConsents.allBy('contact_id', [
    ...new Set([...holders.values()].map(({ contact_id }) => contact_id)),
  ]);
  const agree = new Set(
    standing.filter(({ state }) => state === 'given').map(({ contact_id, way }) => `${contact_id} ${way}`),
  );
  await putCoverage(
    unit,
    coverage.filter((row) => agree.has(`${holders.get(identityKey(row))?.contact_id} ${row.way}`)),
  );
}

/** What was merged into a contact and stays so, newest first. */
export async function mergesOf(
  ctx: AppContext,
  actor: Actor,
  contactId: string,
): Promise<{ merge: ContactMergeRow; gone: string | null }[]> {
  requireRole(actor, 'viewer');
  const merges = await ctx.store.contactMerges.all(
    { kept_id: contactId, undone_at: null },
    { order: [['id', 'DESC']] },
  );
  const gone = await ctx.store.contacts.allBy(
    'id',
    merges.map(({ gone_id }) => gone_id),
  );
  return merges.map((merge) => ({ merge, gone: gone.find(({ id }) => id === merge.gone_id)?.name ?? null }));
}
