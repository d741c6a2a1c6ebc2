/** Holds the links of all trunks: opens, closes and reopens them as accounts are connected, changed or switched off. */

import type { AppContext } from '../operations/context';
import { holdTrunk, type TrunkLink, trunkAccounts } from '../operations/trunks';
import type { EngineHealth } from '../operations/workQueue';
import { type Loop, startLoop } from './loop';

export interface TrunkHolder extends Loop {
  /** The link of an account, bound or not; undefined while the engine does not hold one. */
  linkOf(accountId: string): TrunkLink | undefined;
}

interface Held {
  fingerprint: string;
  trunk: ReturnType<typeof holdTrunk>;
}

export function startTrunks(ctx: AppContext, ready: () => void, health: EngineHealth): TrunkHolder {
  const held = new Map<string, Held>();

  async function round(): Promise<undefined> {
    const wanted = await trunkAccounts(ctx);
    const ids = new Set(wanted.map(({ account }) => account.id));
    const over = [...held].filter(
      ([id, { fingerprint }]) =>
        !ids.has(id) || wanted.find(({ account }) => account.id === id)?.fingerprint !== fingerprint,
    );
    await Promise.all(over.map(([id]) => release(id)));
    for (const entry of wanted) {
      if (held.has(entry.account.id)) continue;
      held.set(entry.account.id, { fingerprint: entry.fingerprint, trunk: holdTrunk(ctx, entry, { ready }) });
    }
    return undefined;
  }

  async function release(id: string): Promise<void> {
    const entry = held.get(id);
    held.delete(id);
    await entry?.trunk.close();
  }

  const loop = startLoop(ctx, 'trunks', round, health);
  return {
    ring: loop.ring,
    linkOf: (accountId) => held.get(accountId)?.trunk.link,
    async stop() {
      await loop.stop();
      await Promise.all([...held.keys()].map(release));
    },
  };
}
