/** Posts webhooks to apps: many at once to each, one at a time within a conversation. */
import { groupBy } from '../core/groupBy';
import {
  changedSince,
  claimDeliveries,
  createDeliveryReporter,
  type DeliveryJob,
  deliver,
  eventQueue,
  FEW_WAITING,
  MOST_PER_APP,
  nextDeliveryDueAt,
  releaseDeliveries,
  releaseLost,
} from '../operations/apps/webhooks';
import type { AppContext } from '../operations/context';
import { type EngineHealth, LOST_EVERY, noteFailure } from '../operations/workQueue';
import { type ChannelQueue, createChannelQueue } from './channelQueue';
import { type Loop, startLoop } from './loop';

export function startDeliverer(ctx: AppContext, owner: string, health: EngineHealth): Loop {
  /** By subscription: an app that is slow keeps only its own events waiting. */
  const queues = new Map<string, ChannelQueue<DeliveryJob>>();
  /** Whose events wait in a queue, as they were when these were claimed. */
  const claimedFor = new Map<string, DeliveryJob['subscription']>();
  const unnoted = new Set<Promise<void>>();
  const report = createDeliveryReporter(ctx);
  /** Deliveries that were claimed and whose attempt is neither noted nor given back. */
  const held = new Set<string>();
  let lookedForLostAt = ctx.now();

  async function round(): Promise<number | undefined> {
    await letGo();
    await takeBackLost();
    const nextDueAt = await nextDeliveryDueAt(ctx);
    if (nextDueAt === undefined) return undefined;
    if (nextDueAt > ctx.now()) return nextDueAt - ctx.now();
    const jobs = await claimDeliveries(ctx, owner, (id) => queueOf(id).waiting);
    for (const [id, group] of groupBy(jobs, ({ subscription }) => subscription.id)) {
      for (const { delivery } of group) held.add(delivery.id);
      claimedFor.set(id, (group[0] as DeliveryJob).subscription);
      queueOf(id).push(group);
    }
    return undefined;
  }

  async function takeBackLost(): Promise<void> {
    if (ctx.now() - lookedForLostAt < LOST_EVERY) return;
    lookedForLostAt = ctx.now();
    const lost = await releaseLost(ctx, held);
    if (lost > 0) ctx.log.warn({ deliveries: lost }, 'attempts that were not noted are repeated');
  }

  /** What was claimed before somebody paused, ended or changed a subscription is not sent as it was to be then. */
  async function letGo(): Promise<void> {
    for (const { id } of await changedSince(ctx, [...claimedFor.values()])) {
      claimedFor.delete(id);
      await giveBack(id);
    }
  }

  /** What waits here for one app, unsent, may be claimed anew. */
  async function giveBack(subscriptionId: string): Promise<void> {
    const unsent = queueOf(subscriptionId).withdraw();
    try {
      await releaseDeliveries(ctx, unsent);
    } finally {
      for (const { delivery } of unsent) held.delete(delivery.id);
    }
  }

  function queueOf(subscriptionId: string): ChannelQueue<DeliveryJob> {
    const channelQueue =
      queues.get(subscriptionId) ??
      createChannelQueue<DeliveryJob>({ atOnce: MOST_PER_APP, ahead: 0 }, ctx.clock, send);
    queues.set(subscriptionId, channelQueue);
    return channelQueue;
  }

  /** Ends with the answer; it is noted while the next events leave. */
  async function send(job: DeliveryJob): Promise<void> {
    const called = deliver(ctx, job);
    track(noted(job, called.then(report)));
    if (queueOf(job.subscription.id).waiting === FEW_WAITING) loop.ring();
    const failed = await called.then(
      ({ cause }) => cause !== undefined,
      () => true,
    );
    // What was claimed for an app at ease goes back: how many may leave to one in trouble is decided anew.
    if (failed) track(giveBack(job.subscription.id));
  }

  /** A failure at one attempt is counted against its event; what is the store's trouble is repeated after a while. */
  async function noted({ delivery }: DeliveryJob, noting: Promise<void>): Promise<void> {
    try {
      await noting.catch((error) => noteFailure(ctx, eventQueue, delivery.id, error));
    } finally {
      held.delete(delivery.id);
    }
  }

  function track(work: Promise<void>) {
    const ended = work
      .catch((error) => ctx.log.error({ err: error }, 'what became of an event could not be noted'))
      .finally(() => {
        unnoted.delete(ended);
        // Others of its conversation may go now.
        loop.ring();
      });
    unnoted.add(ended);
  }

  const loop = startLoop(ctx, 'webhooks', round, health);
  return {
    ring: loop.ring,
    async stop() {
      await loop.stop();
      for (const id of queues.keys()) await giveBack(id);
      await Promise.all([...queues.values()].map((channelQueue) => channelQueue.drained()));
      await Promise.all(unnoted);
    },
  };
}
