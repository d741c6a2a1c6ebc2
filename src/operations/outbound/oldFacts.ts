/**
 * A refusal that rests on what a provider told some time ago asks the provider first: what it has decided since may be
 * another. Asked at most once in a while for each account, whoever is refused, and nobody waits long for it.
 */
import type { CauseCode } from '../../core/delivery/causes';
import type { ProviderAccountRow } from '../../store/schema/rows';
import { checkAccount } from '../accounts';
import { type AppContext, type OperationError, SYSTEM } from '../context';

/** Facts younger than this are taken as they are, in milliseconds. */
const FRESH = 5000;
const PATIENCE = 3000;

const FACTS: ReadonlySet<CauseCode> = new Set([
  'credential-expired',
  'trial-unverified',
  'country-off',
  'registration-missing',
]);

const resting = new WeakMap<OperationError, ProviderAccountRow>();

/** Marks a refusal as resting on an account's facts, where its cause does. Returns it. */
export function restingOn(error: OperationError, code: CauseCode, account: ProviderAccountRow): OperationError {
  if (FACTS.has(code)) resting.set(error, account);
  return error;
}

export interface FactRefresh {
  /** Whether asking the provider could change this refusal. */
  mayChange(error: OperationError): boolean;
  /** Asks. Returns whether the provider answered in time. */
  ask(error: OperationError): Promise<boolean>;
}

export function createFactRefresh(ctx: AppContext): FactRefresh {
  const asked = new Map<string, { at: number; answer: Promise<boolean> }>();
  return {
    mayChange(error) {
      const account = resting.get(error);
      return account !== undefined && ctx.now() - (account.facts_at ?? 0) > FRESH;
    },
    ask(error) {
      const account = resting.get(error);
      if (!account) return Promise.resolve(false);
      const before = asked.get(account.id);
      const now = ctx.clock.elapsed();
      if (before && now - before.at < FRESH) return before.answer;
      const answer = inTime(ctx, checkAccount(ctx, SYSTEM, account.id));
      asked.set(account.id, { at: now, answer });
      return answer;
    },
  };
}

async function inTime(ctx: AppContext, asking: Promise<unknown>): Promise<boolean> {
  const told = asking.then(
    () => true,
    (error) => {
      ctx.log.warn({ err: error }, 'an account could not be asked before a refusal');
      return false;
    },
  );
  return Promise.race([told, ctx.clock.pause(PATIENCE).then(() => false)]);
}
