/**
 * Checks accounts by itself. Credentials can be withdrawn on the other side at any time, so their proof is renewed now and
 * then; what a provider has yet to decide is asked after soon and with growing steps.
 */
import { HOSTED_KINDS } from '../../core/connect/channelKinds';
import type { AccountFacts } from '../../core/connect/facts';
import { type AppContext, SYSTEM } from '../context';
import { createBeside } from '../workQueue';
import { checkAccount } from './accounts';

const EVERY = 15 * 60_000;
/** First asked after so soon, in milliseconds. */
const SOON = 2000;
/** Providers are slow together; each delays only itself. */
const AT_ONCE = 5;

export interface AccountChecks {
  /** Begins to check every account whose time has come. Returns in how many milliseconds the next one is due. */
  round(): Promise<number | undefined>;
  drained(): Promise<void>;
}

interface Standing {
  id: string;
  /** The document, where something in it is submitted and not decided. */
  facts: string | null;
  checked_at: number | null;
}

export function createAccountChecks(ctx: AppContext, ring: () => void): AccountChecks {
  /** What an account waits for, and since when it is known here. */
  const waits = new Map<string, { what: string; since: number }>();
  const beside = createBeside(AT_ONCE, ring);

  /** Milliseconds between two checks of an account, as things stand. */
  function pauseOf({ id, facts }: Standing): number {
    const what = awaited(facts);
    if (what === '') {
      waits.delete(id);
      return EVERY;
    }
    const known = waits.get(id);
    if (known?.what !== what) waits.set(id, { what, since: ctx.now() });
    return Math.min(Math.max((ctx.now() - (waits.get(id)?.since ?? 0)) / 2, SOON), EVERY);
  }

  async function check(id: string) {
    await checkAccount(ctx, SYSTEM, id).catch(async (error) => {
      ctx.log.error({ err: error, account: id }, 'an account could not be checked');
      // It waits for its next turn like the others, and is not asked again at once.
      await ctx.store
        .write((unit) =>
          unit.execute('UPDATE provider_accounts SET checked_at = :at WHERE id = :id', { id, at: ctx.now() }),
        )
        .catch(() => undefined);
    });
  }

  return {
    async round() {
      const accounts = await ctx.store.select<Standing>(
        `SELECT id, checked_at, CASE WHEN facts LIKE '%"submitted"%' THEN facts END AS facts FROM provider_accounts
          WHERE disabled_at IS NULL AND connector NOT IN (:hosted)`,
        { hosted: [...HOSTED_KINDS] },
      );
      let next: number | undefined;
      for (const account of accounts) {
        const dueIn = (account.checked_at ?? 0) + pauseOf(account) - ctx.now();
        // One that was checked meanwhile is checked once more at worst.
        if (dueIn <= 0) beside.begin(account.id, () => check(account.id));
        else next = Math.min(next ?? Number.POSITIVE_INFINITY, dueIn);
      }
      return next;
    },
    drained: () => beside.drained(),
  };
}

/** What a provider has been asked for and has not decided, in words that change when it does; empty for nothing. */
function awaited(facts: string | null): string {
  if (facts === null) return '';
  try {
    const { registrations = [] } = JSON.parse(facts) as AccountFacts;
    return registrations
      .filter(({ brand, use }) => brand === 'submitted' || use === 'submitted')
      .map(({ country, brand, use }) => `${country} ${brand} ${use}`)
      .join(', ');
  } catch {
    return '';
  }
}
