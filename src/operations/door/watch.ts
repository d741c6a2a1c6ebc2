/** Knocks at the door from time to time: often while it is not open, seldom while it is. */
import type { AppContext } from '../context';
import { knock } from './knock';

const WHILE_OPEN = 5 * 60_000;
const WHILE_NOT = 30_000;
/** The web process may be starting beside this one. */
const FIRST_AFTER = 10_000;

export function createDoorWatch(ctx: AppContext): { round(): Promise<number | undefined> } {
  let dueAt = ctx.clock.elapsed() + FIRST_AFTER;
  return {
    async round() {
      const now = ctx.clock.elapsed();
      if (now < dueAt) return undefined;
      const { state } = await knock(ctx);
      dueAt = ctx.clock.elapsed() + (state === 'open' ? WHILE_OPEN : WHILE_NOT);
      return undefined;
    },
  };
}
