/** Posts webhooks to apps: many at once to each, one at a time within a conversation. */
import { groupBy } from '../core/groupBy';
import {
  changedSince,
  claimDeliveries,
  createDeliveryReporter,
  type DeliveryJob,
  deliver,
  FEW_WAITING,
  MOST_PER_APP,
  nextDeliveryDueAt,
  releaseDeliveries,
} from '../operations/apps/webhooks';
import type { AppContext } from '../operations/context';
import { type ChannelQueue, createChannelQueue } from './channelQueue';
import { type Loop, startLoop } from './loop';

export function startDeliverer(ctx: AppContext, owner: string): Loop {
  /** By subscription: an app that is slow keeps only its own events waiting. */
  const queues = new Map<string, ChannelQueue<DeliveryJob>>();
  /** Whose events wait in a queue, as they were when these were claimed. */
  const claimedFor = new Map<string, DeliveryJob['subscription']>();
  const unnoted = new Set<Promise<void>>();
  const report = createDeliveryReporter(ctx);

  async function round(): Promise<number | undefined> {
    await letGo();
    const nextDueAt = await nextDeliveryDueAt(ctx);
    if (nextDueAt === undefined) return undefined;
    if (nextDueAt > ctx.now()) return nextDueAt - ctx.now();
    const jobs = await claimDeliveries(ctx, owner, (id) => queueOf(id).waiting);
    for (const [id, group] of groupBy(jobs, ({ subscription }) => subscription.id)) {
      claimedFor.set(id, (group[0] as DeliveryJob).subscription);
      queueOf(id).push(group);
    }
    return undefined;
  }

  /** What was claimed before somebody paused, ended or changed a subscription is not sent as it was to be then. */
  async function letGo(): Promise<void> {
    for (const { id } of await changedSince(ctx, [...claimedFor.values()])) {
      claimedFor.delete(id);
      await releaseDeliveries(ctx, queueOf(id).withdraw());
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
    track(called.then(report), job);
    if (queueOf(job.subscription.id).waiting === FEW_WAITING) loop.ring();
    const failed = await called.then(
      ({ cause }) => cause !== undefined,
      () => true,
    );
    // What was claimed for an app at ease goes back: how many may leave to one in trouble is decided anew.
    if (failed) track(releaseDeliveries(ctx, queueOf(job.subscription.id).withdraw()), job);
  }

  function track(noting: Promise<void>, { delivery }: DeliveryJob) {
    const ended = noting
      .catch((error) =>
        ctx.log.error(
          { err: error, delivery: delivery.id },
          'an attempt could not be noted; it is repeated at the next start',
        ),
      )
      .finally(() => {
        unnoted.delete(ended);
        // Others of its conversation may go now.
        loop.ring();
      });
    unnoted.add(ended);
  }

  const loop = startLoop(ctx, 'webhooks', round);
  return {
    ring: loop.ring,
    async stop() {
      await loop.stop();
      for (const channelQueue of queues.values()) await releaseDeliveries(ctx, channelQueue.withdraw());
      await Promise.all([...queues.values()].map((channelQueue) => channelQueue.drained()));
      await Promise.all(unnoted);
    },
  };
}
