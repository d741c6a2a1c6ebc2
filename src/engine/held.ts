/** Connections that are held open, one for each account that has one: opened, closed and reopened as accounts are connected, changed or switched off. */
import type { AppContext } from '../operations/context';
import type { EngineHealth } from '../operations/workQueue';
import { type Loop, startLoop } from './loop';

interface Wanted {
  account: { id: string };
  /** Another one makes another connection of it. */
  fingerprint: string;
}

export interface Holder<Kept> extends Loop {
  /** What is held for an account, in whatever state its connection is; undefined while nothing is. */
  heldFor(accountId: string): Kept | undefined;
}

export function startHolding<Each extends Wanted, Kept extends { close(): Promise<void> }>(
  ctx: AppContext,
  name: string,
  { wanted, hold }: { wanted(): Promise<readonly Each[]>; hold(each: Each): Kept },
  health: EngineHealth,
): Holder<Kept> {
  const held = new Map<string, { fingerprint: string; kept: Kept }>();

  async function round(): Promise<undefined> {
    const now = await wanted();
    const over = [...held].filter(
      ([id, { fingerprint }]) => now.find(({ account }) => account.id === id)?.fingerprint !== fingerprint,
    );
    await Promise.all(over.map(([id]) => release(id)));
    for (const each of now) {
      if (held.has(each.account.id)) continue;
      held.set(each.account.id, { fingerprint: each.fingerprint, kept: hold(each) });
    }
    return undefined;
  }

  async function release(id: string): Promise<void> {
    const entry = held.get(id);
    held.delete(id);
    await entry?.kept.close();
  }

  const loop = startLoop(ctx, name, round, health);
  return {
    ring: loop.ring,
    heldFor: (accountId) => held.get(accountId)?.kept,
    async stop() {
      await loop.stop();
      await Promise.all([...held.keys()].map(release));
    },
  };
}
