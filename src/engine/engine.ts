/** The engine's loops together. Everything they do goes through operations and can be killed at any point. */

import { createAccountChecks } from '../operations/accounts';
import { createAlertTeller } from '../operations/alerts';
import { createFeedReader, recoverFeeds } from '../operations/apps/feeds';
import { createSheetWatch } from '../operations/apps/sheets';
import { recoverDeliveries } from '../operations/apps/webhooks';
import { createRunner, recoverRuns } from '../operations/automations';
import { planBroadcasts, runBroadcasts } from '../operations/broadcasts';
import { workTrials } from '../operations/changeTrials';
import { makeTimedMoves } from '../operations/channels';
import { endCodes } from '../operations/codes';
import { removeImportFiles, workImports } from '../operations/contacts';
import { type AppContext, pruneChanges, type Work } from '../operations/context';
import { closeIdle } from '../operations/conversations';
import { createTestRunner } from '../operations/deliveryTests';
import { whyTestFailed } from '../operations/diagnosis';
import { createDoorWatch } from '../operations/door';
import { forgetMissed } from '../operations/identities';
import { createFileFetcher, processInbound } from '../operations/inbound';
import { pruneCounts } from '../operations/limits';
import { holdMailbox, mailboxAccounts } from '../operations/mailboxes';
import { checkMailKeys } from '../operations/mailSigning';
import { createSender, goSecondWays, pruneIdempotency, recoverClaims } from '../operations/outbound';
import { syncProfiles } from '../operations/profiles';
import { createReadinessMonitor } from '../operations/readiness';
import { prune } from '../operations/retention';
import { workReplays } from '../operations/routing';
import { createHeartbeat } from '../operations/status';
import { checkReviews } from '../operations/templates';
import { holdTrunk, prunePdus, trunkAccounts } from '../operations/trunks';
import { createEngineHealth } from '../operations/workQueue';
import { startDeliverer } from './deliverer';
import { startDispatcher } from './dispatcher';
import { startHolding } from './held';
import { startLoop } from './loop';

export interface Engine {
  ring(work: Work): void;
  stop(): Promise<void>;
}

const HOUSEKEEPING = 60_000;

/** Profiles, then what an earlier engine left, then the loops. Whoever calls this holds the lock. */
export async function startEngine(ctx: AppContext): Promise<Engine> {
  const owner = `engine-${process.pid}`;
  await step('reading the profiles written in the interface', () => syncProfiles(ctx, true));
  const claims = await step('taking over texts', () => recoverClaims(ctx));
  const deliveries = await step('taking over events for apps', () => recoverDeliveries(ctx));
  await step('taking over runs', () => recoverRuns(ctx));
  await step('taking over calendars', () => recoverFeeds(ctx));
  if (claims.resumed + claims.uncertain + deliveries > 0)
    ctx.log.warn({ ...claims, deliveries }, 'took over what an earlier engine left');

  const health = createEngineHealth(ctx);
  const loop = (name: string, work: () => Promise<number | undefined>) => startLoop(ctx, name, work, health);
  let stopping = false;
  const isStopping = () => stopping;
  const trunks = startHolding(
    ctx,
    'trunks',
    {
      wanted: () => trunkAccounts(ctx),
      hold: (each) => holdTrunk(ctx, each, { ready: () => dispatcher.ring() }),
    },
    health,
  );
  const mailboxes = startHolding(
    ctx,
    'mailboxes',
    { wanted: () => mailboxAccounts(ctx), hold: (each) => holdMailbox(ctx, each) },
    health,
  );
  const dispatcher = startDispatcher(ctx, owner, (accountId) => trunks.heldFor(accountId)?.link, health);
  const deliverer = startDeliverer(ctx, owner, health);
  const runner = createRunner(ctx, () => runs.ring());
  const runs = loop('runs', () => runner.round(owner));
  const sheetWatch = createSheetWatch(ctx);
  const sheets = loop('sheets', () => sheetWatch.round());
  const feedReader = createFeedReader(ctx, () => feeds.ring());
  const feeds = loop('feeds', () => feedReader.round());
  const imports = loop('imports', () => workImports(ctx, isStopping));
  const replays = loop('replays', () => workReplays(ctx, isStopping));
  const accountChecks = createAccountChecks(ctx, () => checks.ring());
  const checks = loop('account checks', () => accountChecks.round());
  const reviews = loop('reviews', () => checkReviews(ctx));
  const moves = loop('moves of numbers', () => makeTimedMoves(ctx));
  const secondWays = loop('second ways', () => goSecondWays(ctx));
  const planning = loop('plans of broadcasts', async () => {
    await planBroadcasts(ctx, isStopping);
    broadcasts.ring();
    return undefined;
  });
  const broadcasts = loop('broadcasts', async () => {
    const wait = await runBroadcasts(ctx, isStopping);
    dispatcher.ring();
    return wait;
  });
  const fetcher = createFileFetcher(ctx, () => files.ring());
  const files = loop('files that came as links', () => fetcher.round());
  const receiver = loop('inbound', async () => {
    const done = await processInbound(ctx);
    if (done === 0) return undefined;
    deliverer.ring();
    runs.ring();
    files.ring();
    return 0;
  });
  const sender = createSender(ctx);
  const testRunner = createTestRunner(ctx, sender, () => tests.ring(), whyTestFailed);
  const tests = loop('tests', () => testRunner.round());
  const monitor = createReadinessMonitor(ctx);
  const readiness = loop('readiness', () => monitor.round());
  const teller = createAlertTeller(ctx);
  const alerts = loop('alerts', () => teller.round());
  const trials = loop('changes on trial', () => workTrials(ctx));
  const heart = createHeartbeat(ctx);
  const heartbeat = loop('the heartbeat', () => heart.round());
  const doorWatch = createDoorWatch(ctx);
  const door = loop('the public address', () => doorWatch.round());
  const chores: Record<string, () => Promise<unknown>> = {
    'changes told': () => pruneChanges(ctx),
    'counts of what was sent': () => pruneCounts(ctx),
    'codes that ran out': () => endCodes(ctx),
    'idempotency keys': () => pruneIdempotency(ctx),
    'PDUs of trunks': () => prunePdus(ctx),
    'what is no longer kept': () => prune(ctx, isStopping),
    'files of imports': () => removeImportFiles(ctx),
    'numbers nothing got to': () => forgetMissed(ctx),
    'keys that mail is signed with': () => checkMailKeys(ctx),
    'idle conversations': () => closeIdle(ctx, sender),
  };
  let tidiedAt = ctx.now();
  const housekeeper = loop('housekeeping', async () => {
    if (ctx.now() - tidiedAt < HOUSEKEEPING) return undefined;
    tidiedAt = ctx.now();
    // One chore that fails keeps no other from being done.
    for (const [name, chore] of Object.entries(chores)) {
      const failed = await chore().then(
        () => undefined,
        (error: unknown) => error ?? 'failed',
      );
      if (failed) ctx.log.error({ err: failed, chore: name }, 'a chore failed');
      health.noteRound(`housekeeping: ${name}`, failed);
    }
    return undefined;
  });

  return {
    ring(work) {
      if (work === 'inbound') receiver.ring();
      else if (work === 'outbox') dispatcher.ring();
      else if (work === 'accounts') {
        trunks.ring();
        mailboxes.ring();
      } else if (work === 'runs') runs.ring();
      else if (work === 'sheets') sheets.ring();
      else if (work === 'feeds') feeds.ring();
      else if (work === 'reviews') reviews.ring();
      else if (work === 'imports') imports.ring();
      else if (work === 'replays') replays.ring();
      else if (work === 'tests') tests.ring();
      else if (work === 'broadcasts') {
        planning.ring();
        broadcasts.ring();
      } else deliverer.ring();
    },
    async stop() {
      // A long import is left at its next batch and gone on with at the next start.
      stopping = true;
      ctx.apart.close();
      // Trunks last: what is under way on them is answered and noted before they unbind.
      await Promise.all([
        receiver.stop(),
        mailboxes.stop(),
        sheets.stop(),
        feeds.stop(),
        reviews.stop(),
        secondWays.stop(),
        moves.stop(),
        planning.stop(),
        broadcasts.stop(),
        files.stop(),
        checks.stop(),
        imports.stop(),
        replays.stop(),
        runs.stop(),
        tests.stop(),
        readiness.stop(),
        door.stop(),
        trials.stop(),
        heartbeat.stop(),
        alerts.stop(),
        dispatcher.stop(),
        deliverer.stop(),
        housekeeper.stop(),
      ]);
      await Promise.all([runner, sheetWatch, feedReader, accountChecks, fetcher].map((working) => working.drained()));
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
