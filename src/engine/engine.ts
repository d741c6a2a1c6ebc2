/** The engine's loops together. Everything they do goes through operations and can be killed at any point. */

import { checkAccount } from '../operations/accounts';
import { SYSTEM } from '../operations/actor';
import { pruneChanges } from '../operations/changes';
import { closeIdle } from '../operations/conversationWork';
import { recoverDeliveries } from '../operations/deliveries';
import { pruneTestRuns } from '../operations/deliveryTests';
import { recoverClaims } from '../operations/dispatch';
import type { Work } from '../operations/doorbell';
import { pruneHookPosts } from '../operations/hookIntake';
import { pruneIdempotency } from '../operations/idempotency';
import { workImports } from '../operations/importing';
import { processInbound } from '../operations/inboundQueue';
import { prunePhoneCalls } from '../operations/phoneIntake';
import { syncProfiles } from '../operations/profiles';
import { createReadinessKeeper, pruneReadinessHistory } from '../operations/readinessKeeping';
import { pruneRefusals } from '../operations/refusals';
import { workReplays } from '../operations/replays';
import { createRunner, recoverRuns } from '../operations/runner';
import { createTestRunner } from '../operations/runningTests';
import { scanSheets } from '../operations/scanningSheets';
import { createSender } from '../operations/sending';
import { recoverFeeds, syncFeeds } from '../operations/syncingFeeds';
import { checkReviews } from '../operations/templateReviews';
import { prunePdus } from '../operations/trunks';
import type { Windgap } from '../operations/windgap';
import { startDeliverer } from './deliverer';
import { startDispatcher } from './dispatcher';
import { startLoop } from './loop';
import { startTrunks } from './trunks';

export interface Engine {
  ring(work: Work): void;
  stop(): Promise<void>;
}

const HOUSEKEEPING = 60_000;
const ACCOUNT_CHECK = 15 * 60_000;

/** Profiles, then what an earlier engine left, then the loops. Whoever calls this holds the lock. */
export async function startEngine(w: Windgap): Promise<Engine> {
  const owner = `engine-${process.pid}`;
  await step('reading the profiles written in the interface', () => syncProfiles(w, true));
  const claims = await step('taking over texts', () => recoverClaims(w));
  const deliveries = await step('taking over events for apps', () => recoverDeliveries(w));
  await step('taking over runs', () => recoverRuns(w));
  await step('taking over calendars', () => recoverFeeds(w));
  if (claims.resumed + claims.uncertain + deliveries > 0)
    w.log.warn({ ...claims, deliveries }, 'took over what an earlier engine left');

  const trunks = startTrunks(w, () => dispatcher.ring());
  const dispatcher = startDispatcher(w, owner, trunks.linkOf);
  const deliverer = startDeliverer(w, owner);
  const runner = createRunner(w, () => runs.ring());
  const runs = startLoop(w, 'runs', () => runner.round(owner));
  const sheets = startLoop(w, 'sheets', async () => {
    await scanSheets(w);
    return undefined;
  });
  const feeds = startLoop(w, 'feeds', () => syncFeeds(w));
  let stopping = false;
  const imports = startLoop(w, 'imports', () => workImports(w, () => stopping));
  const replays = startLoop(w, 'replays', () => workReplays(w, () => stopping));
  const reviews = startLoop(w, 'reviews', () => checkReviews(w));
  const receiver = startLoop(w, 'inbound', async () => {
    const done = await processInbound(w);
    if (done === 0) return undefined;
    deliverer.ring();
    runs.ring();
    return 0;
  });
  const sender = createSender(w);
  const testRunner = createTestRunner(w, sender, () => tests.ring());
  const tests = startLoop(w, 'tests', () => testRunner.round());
  const keeper = createReadinessKeeper(w);
  const readiness = startLoop(w, 'readiness', () => keeper.round());
  let tidiedAt = w.now();
  const housekeeper = startLoop(w, 'housekeeping', async () => {
    if (w.now() - tidiedAt < HOUSEKEEPING) return undefined;
    tidiedAt = w.now();
    await pruneChanges(w);
    await pruneIdempotency(w);
    await prunePdus(w);
    await pruneHookPosts(w);
    await prunePhoneCalls(w);
    await pruneRefusals(w);
    await pruneTestRuns(w);
    await pruneReadinessHistory(w);
    await checkOldAccounts(w);
    await closeIdle(w, sender);
    return undefined;
  });

  return {
    ring(work) {
      if (work === 'inbound') receiver.ring();
      else if (work === 'outbox') dispatcher.ring();
      else if (work === 'trunks') trunks.ring();
      else if (work === 'runs') runs.ring();
      else if (work === 'sheets') sheets.ring();
      else if (work === 'feeds') feeds.ring();
      else if (work === 'reviews') reviews.ring();
      else if (work === 'imports') imports.ring();
      else if (work === 'replays') replays.ring();
      else if (work === 'tests') tests.ring();
      else deliverer.ring();
    },
    async stop() {
      // A long import is left at its next batch and gone on with at the next start.
      stopping = true;
      w.apart.close();
      // Trunks last: what is under way on them is answered and noted before they unbind.
      await Promise.all([
        receiver.stop(),
        sheets.stop(),
        feeds.stop(),
        reviews.stop(),
        imports.stop(),
        replays.stop(),
        runs.stop(),
        tests.stop(),
        readiness.stop(),
        dispatcher.stop(),
        deliverer.stop(),
        housekeeper.stop(),
      ]);
      await runner.drained();
      await testRunner.stop();
      await trunks.stop();
    },
  };
}

/** A start that fails says at what. */
async function step<T>(what: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw new Error(`The engine could not start: ${what} failed. ${(error as Error).message}`, { cause: error });
  }
}

/** Credentials can be withdrawn on the other side at any time, so their proof is renewed by itself. */
async function checkOldAccounts(w: Windgap): Promise<void> {
  const before = w.now() - ACCOUNT_CHECK;
  const accounts = await w.store.select<{ id: string }>(
    `SELECT id FROM provider_accounts WHERE coalesce(checked_at, 0) < :before AND disabled_at IS NULL AND connector <> 'web-chat' LIMIT 5`,
    { before },
  );
  for (const { id } of accounts) await checkAccount(w, SYSTEM, id);
}
