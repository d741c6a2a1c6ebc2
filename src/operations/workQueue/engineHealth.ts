/** Which loops of the engine fail round after round, written down so that everybody can see it. */
import type { AppContext } from '../context';

const SETTING = 'engine-troubles';
/** So many rounds in a row: once is a hiccup. */
const IN_A_ROW = 3;

export interface LoopTrouble {
  loop: string;
  /** Since when each round fails, epoch milliseconds. */
  since: number;
  reason: string;
}

export interface EngineHealth {
  /** How a round of a loop went; `error` where it failed. */
  noteRound(loop: string, error?: unknown): void;
}

/** Written when a loop has failed for so many rounds, and when it works again. A new engine begins with none. */
export function createEngineHealth(ctx: AppContext): EngineHealth {
  const failing = new Map<string, { rounds: number; since: number; reason: string }>();
  let written = '';
  let writing = false;

  async function write() {
    if (writing) return;
    writing = true;
    try {
      for (let text = told(); text !== written; text = told()) {
        await ctx.store.write((unit) => unit.settings.put({ name: SETTING, value: JSON.parse(text) }));
        written = text;
      }
    } catch {
      // The store may be what is in trouble: it is written with the next round that ends.
    } finally {
      writing = false;
    }
  }

  const told = () =>
    JSON.stringify(
      [...failing].flatMap(([loop, { rounds, since, reason }]) =>
        rounds >= IN_A_ROW ? [{ loop, since, reason } satisfies LoopTrouble] : [],
      ),
    );

  void write();
  return {
    noteRound(loop, error) {
      const before = failing.get(loop);
      if (error === undefined) {
        if (before === undefined && written === told()) return;
        failing.delete(loop);
      } else {
        const reason = error instanceof Error ? error.message : String(error);
        failing.set(loop, {
          rounds: (before?.rounds ?? 0) + 1,
          since: before?.since ?? ctx.now(),
          // The first reason, so that one whose words change each time is not written each time.
          reason: before?.reason ?? reason.slice(0, 300),
        });
      }
      void write();
    },
  };
}

/** Loops that fail now, as the engine wrote it down. */
export async function readLoopTroubles(ctx: AppContext): Promise<LoopTrouble[]> {
  return ((await ctx.store.settings.one({ name: SETTING }))?.value as LoopTrouble[] | undefined) ?? [];
}
