/**
 * Addresses of people, changed by hand: one that was a contact's by mistake is split off or given to another, with the
 * messages that went over it; one that another person has by now begins anew. What would move is shown before, and each
 * can be undone. Whoever declined stays declined wherever an address goes, and no opt-in comes into being by a move.
 */
import type { ConsentWay } from '../../core/consent/ways';
import { type Identity, identityKind } from '../../core/identities/identityKinds';
import { newId } from '../../store/ids';
import type { ContactIdentityRow, ContactRow, IdentityMoveRow, MovedWithIdentity } from '../../store/schema/rows';
import type { Tables } from '../../store/schema/tables';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asViews,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { addIdentities, enterHistory, holderOf } from '../identities';
import { coverageOf, reachedBy, uncover } from './consent/consentCoverage';
import { recordConsents } from './consent/consents';
import { coverAgain, retellThread } from './contactMerge';
import { readAddress } from './contactPages';
import { newContact } from './newContact';

export type MoveHow = IdentityMoveRow['how'];

/** Messages over an address. */
export const OVER = `CASE direction WHEN 'in' THEN sender ELSE recipient END = :value`;

export async function moveIdentity(
  ctx: AppContext,
  actor: Actor,
  { identity, how, toId, why }: { identity: Identity; how: MoveHow; toId?: string; why: string },
): Promise<{ id: string; contactId: string }> {
  requireRole(actor, 'agent');
  if (!why.trim()) throw invalidText('why', 'The reason is missing.', 'Write how you know, in a few words.');
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const row = found(await holderOf(unit, identity), 'address');
    const from = found(await unit.contacts.one({ id: row.contact_id }), 'contact');
    const to = await receiver(unit, { row, from, how, toId }, at);
    const moved: MovedWithIdentity = {
      identity: row,
      coverage: await coverageOf(unit, [row]),
      declined: await declinedWith(unit, row),
      before: await unit.contactConsents.all({ contact_id: to.id }),
      beforeCoverage: await coverageOf(unit, await unit.identities.all({ contact_id: to.id })),
    };
    const id = newId('idm', at);
    await unit.identities.change(
      { ...identity },
      {
        contact_id: to.id,
        since: at,
        source: 'by-hand',
        doubt: null,
        doubted_at: null,
      },
    );
    if (how !== 'split') await uncover(unit, identity);
    if (how !== 'recycled') await moveMessages(unit, { from: from.id, to: to.id, value: row.value });
    await copyConsents(unit, actor, at, { moved, how, to: to.id, ref: id });
    await unit.identityMoves.insert([
      {
        id,
        ...identity,
        from_id: from.id,
        to_id: to.id,
        how,
        at,
        by: actor.name,
        why: why.trim(),
        moved,
        undone_at: null,
      },
    ]);
    await enterHistory(unit, [{ ...identity, contactId: to.id }], {
      what: 'moved',
      at,
      why: why.trim(),
      by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: `contact.address-${how}`,
      subject: from.id,
      summary: `${SAID[how]}: ${identityKind(row.kind).name} of ${from.name ?? 'a contact'}`,
    });
    await noteChanges(unit, at, [
      ['contact', from.id],
      ['contact', to.id],
    ]);
    return { id, contactId: to.id };
  });
}

const SAID: Record<MoveHow, string> = {
  split: 'Split an address off',
  given: 'Gave an address to another contact',
  recycled: 'Noted that another person has an address now',
};

async function receiver(
  unit: Unit,
  { row, from, how, toId }: { row: ContactIdentityRow; from: ContactRow; how: MoveHow; toId?: string },
  at: number,
): Promise<ContactRow> {
  if (how === 'given') {
    if (toId === from.id) throw new OperationError('conflict', 'The address is this contact’s already.');
    return found(await unit.contacts.one({ id: toId ?? '', merged_into: null }), 'contact');
  }
  if (how === 'split' && (await unit.identities.count({ contact_id: from.id })) < 2)
    throw new OperationError('conflict', 'It is the only address of this contact: there is nothing to split.');
  const made = newContact(newId('con', at), null, row, at);
  await unit.contacts.insert([made]);
  return made;
}

/** Ways that reach an address and that its contact declined. */
export async function declinedWith(
  tables: Pick<Tables, 'contactConsents'>,
  row: ContactIdentityRow,
): Promise<ConsentWay[]> {
  const said = await tables.contactConsents.all({ contact_id: row.contact_id, state: 'withdrawn' });
  return said.map(({ way }) => way).filter((way) => reachedBy(way).has(row.kind));
}

/** What was declined is declined on both sides; what a split address was agreed to for goes on holding for it. */
async function copyConsents(
  unit: Unit,
  actor: Actor,
  at: number,
  { moved, how, to, ref }: { moved: MovedWithIdentity; how: MoveHow; to: string; ref: string },
): Promise<void> {
  const standing = await unit.contactConsents.all({ contact_id: to });
  const entry = { contact_id: to, at, how: 'merge' as const, by: actor.name, ref };
  const declined = moved.declined.filter(
    (way) => !standing.some((row) => row.way === way && row.state === 'withdrawn'),
  );
  await recordConsents(unit, [
    ...declined.map((way) => ({
      ...entry,
      way,
      what: 'withdrawn' as const,
      wording: 'Declined by the contact who had the address before.',
    })),
    ...(how === 'split' ? moved.coverage : [])
      .filter(({ way }) => !moved.declined.includes(way))
      .map(({ way }) => ({
        ...entry,
        way,
        what: 'given' as const,
        wording: 'As it was agreed to before the address was split off.',
        covers: [moved.identity],
      })),
  ]);
}

/** Messages over an address go to the conversation of another contact; where they have none, one is made. */
async function moveMessages(
  unit: Unit,
  { from, to, value }: { from: string; to: string; value: string },
): Promise<void> {
  const [last] = await unit.select<{ id: string }>(
    `SELECT id FROM messages WHERE contact_id = :from AND ${OVER} ORDER BY id DESC LIMIT 1`,
    { from, value },
  );
  const own = await unit.conversations.one({ contact_id: from });
  if (!last || !own) return;
  const theirs = await unit.conversations.one({ contact_id: to });
  const into = theirs ?? { ...own, id: newId('cnv', own.last_message_at), contact_id: to, unread: 0 };
  if (!theirs) await unit.conversations.insert([into]);
  await unit.execute(
    `UPDATE messages SET contact_id = :to, conversation_id = :into WHERE contact_id = :from AND ${OVER}`,
    { from, to, into: into.id, value },
  );
  await retellThread(unit, into.id, 0);
  const rest = await unit.messages.count({ conversation_id: own.id });
  if (rest > 0) return retellThread(unit, own.id, 0);
  await unit.conversationNotes.change({ conversation_id: own.id }, { conversation_id: into.id });
  await unit.presence.remove({ conversation_id: own.id });
  await unit.conversations.remove({ id: own.id });
}

/** Gives an address back, with its messages; what was agreed to holds again unless somebody declined since. */
export async function undoMove(ctx: AppContext, actor: Actor, id: string): Promise<{ contactId: string }> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  return ctx.store.write(async (unit) => {
    const move = found(await unit.identityMoves.one({ id }), 'change');
    if (move.undone_at !== null) throw new OperationError('conflict', 'This was undone already.');
    const { kind, scope, value, from_id, to_id, how, moved } = move;
    const row = await holderOf(unit, { kind, scope, value });
    if (row?.contact_id !== to_id)
      throw new OperationError('conflict', 'The address went on to another contact. Undo that first.');
    if ((await unit.contacts.one({ id: from_id, merged_into: null })) === undefined)
      throw new OperationError('conflict', 'The contact it came from was merged into another. Undo that first.');
    const declinedNow = await declinedWith(unit, row);
    await unit.identities.change(
      { kind, scope, value },
      { contact_id: from_id, since: moved.identity.since, source: moved.identity.source },
    );
    if (how !== 'recycled') await moveMessages(unit, { from: to_id, to: from_id, value });
    const fresh = declinedNow.filter((way) => !moved.declined.includes(way));
    await recordConsents(
      unit,
      fresh.map((way) => ({
        contact_id: from_id,
        way,
        what: 'withdrawn' as const,
        at,
        how: 'merge' as const,
        wording: 'Declined while the address was another contact’s.',
        by: actor.name,
        ref: id,
      })),
    );
    await giveBack(unit, actor, at, move);
    await uncover(unit, { kind, scope, value });
    await coverAgain(unit, [...moved.coverage, ...moved.beforeCoverage]);
    await unit.identityMoves.change({ id }, { undone_at: at });
    await enterHistory(unit, [{ kind, scope, value, contactId: from_id }], {
      what: 'moved',
      at,
      why: 'The change was undone.',
      by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: 'contact.address-undone',
      subject: from_id,
      summary: `Undid: ${SAID[how]}`,
    });
    await noteChanges(unit, at, [
      ['contact', from_id],
      ['contact', to_id],
    ]);
    return { contactId: from_id };
  });
}

/** What the move entered at the one it went to is taken back, where nothing was entered after it. */
async function giveBack(unit: Unit, actor: Actor, at: number, { id, to_id, moved }: IdentityMoveRow): Promise<void> {
  const entered = await unit.consentEntries.all({ contact_id: to_id, ref: id });
  const standing = await unit.contactConsents.all({ contact_id: to_id });
  await recordConsents(
    unit,
    entered
      .filter((entry) => standing.some(({ entry_id }) => entry_id === entry.id))
      .map(({ way }) => ({
        contact_id: to_id,
        way,
        what: moved.before.find((row) => row.way === way)?.state ?? ('retracted' as const),
        at,
        how: 'merge' as const,
        wording: 'As it stood before the address came, which was undone.',
        by: actor.name,
        ref: id,
        covers: [],
      })),
  );
}

/** Enters one more address of a contact, which nobody has yet. What they agreed to before does not cover it. */
export async function addAddress(
  ctx: AppContext,
  actor: Actor,
  contactId: string,
  input: { address: string; country?: string },
): Promise<void> {
  requireRole(actor, 'agent');
  const identity = readAddress('address', input.address, input.country);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const contact = found(await unit.contacts.one({ id: contactId, merged_into: null }), 'contact');
    const holder = await holderOf(unit, identity);
    if (holder) {
      const other = await unit.contacts.one({ id: holder.contact_id });
      const whose = holder.contact_id === contactId ? 'this contact' : (other?.name ?? 'another contact');
      throw invalidText(
        'address',
        `It is an address of ${whose} already.`,
        'Where both are one person, merge them; where it was entered with the wrong one, move it from there.',
      );
    }
    const entry = { at, source: 'by-hand' as const, why: 'Entered on the contact.', by: actor.name };
    await addIdentities(unit, [{ ...identity, contactId }], entry);
    await recordAudit(unit, actor, at, {
      action: 'contact.address-added',
      subject: contactId,
      summary: `Added an address of ${contact.name ?? 'a contact'}`,
    });
    await noteChanges(unit, at, [['contact', contactId]]);
  });
}

/** Says that an address is this contact's after all, so that what was agreed to over it holds again. */
export async function believeAddress(ctx: AppContext, actor: Actor, identity: Identity): Promise<void> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const row = found(await holderOf(unit, identity), 'address');
    await unit.identities.change({ ...identity }, { doubt: null, doubted_at: null });
    const why = 'Somebody said that it is still theirs.';
    await enterHistory(unit, [{ ...identity, contactId: row.contact_id }], {
      what: 'believed',
      at,
      why,
      by: actor.name,
    });
    await recordAudit(unit, actor, at, {
      action: 'contact.address-believed',
      subject: row.contact_id,
      summary: `Said that an address is still theirs`,
    });
    await noteChanges(unit, at, [['contact', row.contact_id]]);
  });
}

/** What was moved from or to a contact by hand and stays so, newest first. */
export async function movesOf(ctx: AppContext, actor: Actor, contactId: string): Promise<View<IdentityMoveRow>[]> {
  requireRole(actor, 'viewer');
  const [from, to] = await Promise.all([
    ctx.store.identityMoves.all({ from_id: contactId, undone_at: null }),
    ctx.store.identityMoves.all({ to_id: contactId, undone_at: null }),
  ]);
  return asViews([...from, ...to].sort((a, b) => (a.id < b.id ? 1 : -1)));
}
