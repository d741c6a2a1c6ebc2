/** What a change of addresses or a merge would move, shown before it is done. */
import type { ConsentWay } from '../../core/consent/ways';
import { type Identity, identityKind, nameOf } from '../../core/identities/identityKinds';
import { type Actor, type AppContext, found, OperationError, requireRole } from '../context';
import { holderOf } from '../identities';
import { coverageOf } from './consent/consentCoverage';
import { readAddress } from './contactPages';
import { declinedWith, type MoveHow, OVER } from './identityMoves';

export interface MovePreview {
  identity: Identity;
  from: { id: string; name: string };
  /** Whom it would go to; absent where a contact would be made. */
  to?: { id: string; name: string };
  /** Messages that went over it. They go along, unless another person has the address from now on. */
  messages: number;
  /** Questions and steps that wait for this person, which stay with the one they began with. */
  waiting: number;
  /** Ways that are declined and stay so on both sides. */
  declined: ConsentWay[];
  /** Ways of being written to over it that were agreed to, and end. */
  ends: ConsentWay[];
}

/** What would move; nothing is changed. */
export async function previewMove(
  ctx: AppContext,
  actor: Actor,
  { identity, how, toId }: { identity: Identity; how: MoveHow; toId?: string },
): Promise<MovePreview> {
  requireRole(actor, 'agent');
  const row = found(await holderOf(ctx.store, identity), 'address');
  const from = found(await ctx.store.contacts.one({ id: row.contact_id }), 'contact');
  const to = toId ? found(await ctx.store.contacts.one({ id: toId, merged_into: null }), 'contact') : undefined;
  const [counted] = await ctx.store.select<{ messages: number; waiting: number }>(
    `SELECT (SELECT count(*) FROM messages WHERE contact_id = :contact AND ${OVER}) AS messages,
            (SELECT count(*) FROM runs WHERE contact_id = :contact AND state IN ('due', 'waiting')) AS waiting`,
    { contact: from.id, value: identity.value },
  );
  const covered = await coverageOf(ctx.store, [identity]);
  return {
    identity,
    from: { id: from.id, name: from.name ?? nameOf(identity) },
    to: to && { id: to.id, name: to.name ?? 'a contact without a name' },
    messages: counted?.messages ?? 0,
    waiting: counted?.waiting ?? 0,
    declined: await declinedWith(ctx.store, row),
    // Who keeps the address as the same person keeps what they agreed to over it.
    ends: how === 'split' ? [] : covered.map(({ way }) => way),
  };
}

export interface MergePreview {
  kept: { id: string; name: string };
  gone: { id: string; name: string };
  /** What the one that goes is known by. */
  addresses: string[];
  messages: number;
  /** Questions and steps that wait for the one that goes, and go along. */
  waiting: number;
  todos: number;
  /** Ways that either declined: nothing more is sent over them to any of the addresses. */
  declined: ConsentWay[];
}

/** What a merge by hand would do; nothing is changed. */
export async function previewMerge(
  ctx: AppContext,
  actor: Actor,
  { keptId, goneId }: { keptId: string; goneId: string },
): Promise<MergePreview> {
  requireRole(actor, 'agent');
  if (keptId === goneId) throw new OperationError('conflict', 'This is the contact itself.');
  const kept = found(await ctx.store.contacts.one({ id: keptId, merged_into: null }), 'contact');
  const gone = found(await ctx.store.contacts.one({ id: goneId, merged_into: null }), 'contact');
  const identities = await ctx.store.identities.all({ contact_id: goneId });
  const [counted] = await ctx.store.select<{ messages: number; waiting: number; todos: number }>(
    `SELECT (SELECT count(*) FROM messages WHERE contact_id = :goneId) AS messages,
            (SELECT count(*) FROM runs WHERE contact_id = :goneId AND state IN ('due', 'waiting')) AS waiting,
            (SELECT count(*) FROM todos WHERE contact_id = :goneId AND done_at IS NULL) AS todos`,
    { goneId },
  );
  const said = await ctx.store.contactConsents.all({ contact_id: [keptId, goneId], state: 'withdrawn' });
  return {
    kept: { id: kept.id, name: kept.name ?? 'a contact without a name' },
    gone: { id: gone.id, name: gone.name ?? (identities[0] ? nameOf(identities[0]) : 'a contact without a name') },
    addresses: identities.map(({ kind, value }) => `${identityKind(kind).name} ${identityKind(kind).show(value)}`),
    messages: counted?.messages ?? 0,
    waiting: counted?.waiting ?? 0,
    todos: counted?.todos ?? 0,
    declined: [...new Set(said.map(({ way }) => way))],
  };
}

/** The contact with an address that somebody typed. */
export async function contactAt(ctx: AppContext, actor: Actor, field: string, typed: string): Promise<string> {
  requireRole(actor, 'agent');
  const row = await holderOf(ctx.store, readAddress(field, typed, undefined));
  return found(row, 'contact').contact_id;
}
