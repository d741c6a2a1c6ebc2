/** A broadcast as somebody may see it, and what refuses to change it. */
import type { BroadcastRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  found,
  narrowedApp,
  OperationError,
  reachesChannel,
  reachOf,
  requireAccess,
} from '../../context';

/** The broadcast, where its channels are for the one who asks; throws `not-found` otherwise. */
export async function reachedBroadcast(
  from: Unit | AppContext['store'],
  actor: Actor,
  id: string,
): Promise<BroadcastRow> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const row = found(await from.broadcasts.one({ id }), 'broadcast');
  // An app sees its own, unless its key sees everything.
  if (narrowedApp(actor) !== undefined && row.created_by !== actor.id)
    throw new OperationError('not-found', 'There is no such broadcast.');
  const reach = await reachOf(from, actor);
  if (!row.definition.channels.every((channel) => reachesChannel(reach, channel)))
    throw new OperationError('not-found', 'There is no such broadcast.');
  return row;
}

/** Throws where somebody else changed or started it since it was read. */
export function requireDraft({ state, version }: BroadcastRow, seen: number): void {
  if (state !== 'draft' && state !== 'planning')
    throw new OperationError('conflict', 'It was started meanwhile, so it is not changed any more. Look at it again.');
  requireVersion(version, seen);
}

export function requireVersion(version: number, seen: number): void {
  if (version !== seen)
    throw new OperationError('conflict', 'It was changed meanwhile. Look at it again before you go on.');
}
