/** Hands due texts to their providers, each channel within its pace, each provider within what it takes at once. */
import { isBulk } from '../core/pacing/bulk';
import { expectedClaim, textsAhead } from '../core/pacing/prefetch';
import type { AppContext } from '../operations/context';
import {
  claimDue,
  createReporter,
  type DueLine,
  dueChannels,
  handOver,
  keptBack,
  recoverClaims,
  type SendingLine,
  type SendJob,
  type SendReport,
  takeBack,
} from '../operations/outbound';
import type { TrunkLink } from '../operations/trunks';
import { type EngineHealth, isStoreTrouble, LOST_EVERY } from '../operations/workQueue';
import { type ChannelQueue, type ChannelQueueLimits, createChannelQueue } from './channelQueue';
import { type Loop, startLoop } from './loop';

export function startDispatcher(
  ctx: AppContext,
  owner: string,
  linkOf: (accountId: string) => TrunkLink | undefined,
  health: EngineHealth,
): Loop {
  const queues = new Map<string, ChannelQueue<SendJob>>();
  const unnoted = new Set<Promise<void>>();
  const report = createReporter(ctx);
  /** Messages that were claimed and whose answer is not noted yet. */
  const held = new Set<string>();
  /** Why an answer could not be noted, by message. */
  const reasons = new Map<string, unknown>();
  let lookedForLostAt = ctx.now();
  /** What a claim takes here now, in milliseconds. */
  let claimMs = 0;

  async function round(): Promise<number | undefined> {
    await takeOverLost();
    const { lines, nextDueAt } = await dueChannels(ctx);
    // One after the other: channels of one trunk share its room.
    for (const line of lines) await fill(line);
    return nextDueAt === undefined ? undefined : nextDueAt - ctx.now();
  }

  /** A claim whose answer could not be noted is nobody's: it is worked on again, or its outcome is not known. */
  async function takeOverLost(): Promise<void> {
    if (ctx.now() - lookedForLostAt < LOST_EVERY) return;
    lookedForLostAt = ctx.now();
    const { resumed, uncertain } = await recoverClaims(ctx, {
      held,
      why: (id) => reasons.get(id),
    });
    reasons.clear();
    if (resumed + uncertain > 0) ctx.log.warn({ resumed, uncertain }, 'claims whose answer was not noted');
  }

  async function fill(line: DueLine): Promise<void> {
    const channelQueue = queueOf(line);
    const room = (bulk: boolean) =>
      Math.min(
        channelQueue.room(bulk),
        line.connector.trunk ? (linkOf(line.account.id)?.room(claimMs, bulk) ?? 0) : Infinity,
      );
    const rooms = { all: line.bulkOnly ? 0 : room(false), bulk: room(true) };
    if (rooms.all <= 0 && rooms.bulk <= 0) return;
    const began = ctx.clock.elapsed();
    const jobs = await claimDue(ctx, line, rooms, owner);
    claimMs = expectedClaim(claimMs, ctx.clock.elapsed() - began);
    for (const { message } of jobs) held.add(message.id);
    channelQueue.push(jobs);
  }

  function queueOf(line: SendingLine): ChannelQueue<SendJob> {
    const channelQueue =
      queues.get(line.channel.id) ??
      createChannelQueue<SendJob>(limitsOf(line, claimMs), ctx.clock, send, {
        isBulk: ({ entry }) => isBulk(entry.priority),
        ...(line.connector.trunk ? {} : { stillLeaves }),
      });
    channelQueue.limits = limitsOf(line, claimMs);
    queues.set(line.channel.id, channelQueue);
    return channelQueue;
  }

  /** Ends with the answer; it is noted while the next texts leave. */
  async function send(job: SendJob): Promise<void> {
    const { account, channel, connector } = job.line;
    const link = connector.trunk && linkOf(account.id);
    const noted = leave(job, link);
    track(
      noted.then((handed) => handed && report(handed)),
      job,
    );
    await noted.catch(() => undefined);
    // The queue counts this send as over a moment later.
    setImmediate(() => ringFor(channel.id, link));
  }

  /** Whoever opted out, held or cancelled something since the claim is obeyed up to the moment it is on the wire. */
  async function stillLeaves(job: SendJob): Promise<boolean> {
    const why = await keptBack(ctx, job);
    if (why !== undefined) track(takeBack(ctx, job, why), job);
    return why === undefined;
  }

  /** A trunk asks by itself, when the link has a turn. */
  async function leave(job: SendJob, link: TrunkLink | undefined): Promise<SendReport | undefined> {
    if (!link) return handOver(ctx, job);
    let left = true;
    const handed = await handOver(ctx, job, link, async () => {
      left = await stillLeaves(job);
      return left;
    });
    return left ? handed : undefined;
  }

  function track(noting: Promise<void>, { message }: SendJob) {
    const ended = noting
      .catch((error) => {
        // What is the store's own trouble is no failure at this message.
        if (!isStoreTrouble(error)) reasons.set(message.id, error);
        ctx.log.error(
          { err: error, message: message.id },
          'an answer could not be noted; the claim is taken over within half a minute',
        );
      })
      .finally(() => {
        unnoted.delete(ended);
        held.delete(message.id);
        // What is to be tried again has its time now.
        if (unnoted.size === 0) loop.ring();
      });
    unnoted.add(ended);
  }

  function ringFor(channelId: string, link: TrunkLink | undefined) {
    if ((queues.get(channelId)?.room() ?? 0) > 0 && (!link || link.room(claimMs) > 0)) loop.ring();
  }

  const loop = startLoop(ctx, 'dispatch', round, health);
  return {
    ring: loop.ring,
    async stop() {
      await loop.stop();
      await Promise.all([...queues.values()].map((channelQueue) => channelQueue.drained()));
      await Promise.all(unnoted);
    },
  };
}

/**
 * A trunk holds its pace and window itself; a channel on it is paced here only when it is
 * to be slower than the trunk. Ahead is claimed only what may be asked for again after a crash.
 */
function limitsOf({ channel, connector }: SendingLine, claimMs: number): ChannelQueueLimits {
  const pace = Math.min(channel.pace, connector.limits.pace);
  const ahead = textsAhead(pace, claimMs);
  if (connector.trunk && channel.pace >= connector.limits.pace) return { atOnce: Number.POSITIVE_INFINITY, ahead: 0 };
  if (connector.trunk) return { atOnce: ahead, pace, ahead: 0 };
  return { atOnce: connector.limits.concurrency, pace, ahead: connector.honoursReference ? ahead : 0 };
}
