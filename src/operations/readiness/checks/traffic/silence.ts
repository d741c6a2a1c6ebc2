/** Whether a channel has been silent for longer than is usual of it at this time of the week. */
import { judgeSilence, type Seen, type Usual, usualOf } from '../../../../core/baseline/silence';
import { wordsOfLength } from '../../../../core/text/length';
import type { ChannelRow } from '../../../../store/schema/rows';
import type { AppContext } from '../../../context';
import { readOrganisation } from '../../../organisation';
import { channelSubject, finding, type ReadinessCheck } from '../check';
import { inboundHistory, lastIn } from './history';

export interface SeenOfChannel {
  channel: ChannelRow;
  /** Undefined where too little is known. */
  usual: Usual | undefined;
  seen: Seen;
  /** Milliseconds that local time is ahead of UTC. */
  offset: number;
}

/** By channel to which somebody wrote within the last weeks, what is usual of it and what has come. */
export async function channelsWithUsual(ctx: AppContext, now: number): Promise<ReadonlyMap<string, SeenOfChannel>> {
  const history = await inboundHistory(ctx);
  const channels = (await ctx.store.channels.readable()).filter(({ id }) => history.has(id));
  if (channels.length === 0) return new Map();
  const last = await lastIn(
    ctx,
    channels.map(({ id }) => id),
  );
  const offset = offsetOf((await readOrganisation(ctx.store)).zone ?? 'UTC', now);
  return new Map(
    channels.map((channel) => {
      const byHour = history.get(channel.id) ?? new Map();
      const usual = usualNow(ctx, channel.id, byHour, now, offset);
      return [channel.id, { channel, usual, seen: { byHour, last: last.get(channel.id) ?? now }, offset }];
    }),
  );
}

export const silence: ReadinessCheck = {
  name: 'silence',
  topics: [],
  async examine({ ctx, now }) {
    return [...(await channelsWithUsual(ctx, now)).values()].flatMap(({ channel, usual, seen, offset }) => {
      const found = judgeSilence(usual, seen, now, offset);
      if (found.state !== 'silent') return [];
      const words = {
        who: channel.name,
        subject: wordsOfLength(now - found.since),
        said: `about ${Math.round(found.expected)} would be usual in that time`,
      };
      return [finding('inbound-silent', 'attention', channelSubject(channel), words, { since: found.since })];
    });
  },
};

/** What is usual is of whole days, and so the same until midnight. */
const known = new WeakMap<AppContext, Map<string, { day: number; usual: Usual | undefined }>>();

function usualNow(
  ctx: AppContext,
  channel: string,
  byHour: ReadonlyMap<number, number>,
  now: number,
  offset: number,
): Usual | undefined {
  const day = Math.floor((now + offset) / 86_400_000);
  const kept = known.get(ctx) ?? new Map<string, { day: number; usual: Usual | undefined }>();
  known.set(ctx, kept);
  const before = kept.get(channel);
  if (before?.day === day) return before.usual;
  const usual = usualOf(byHour, now, offset);
  kept.set(channel, { day, usual });
  return usual;
}

/** Milliseconds by which the time of a zone is ahead of UTC. */
function offsetOf(zone: string, at: number): number {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  }).formatToParts(at);
  const value = (type: string) => Number(parts.find((part) => part.type === type)?.value);
  const there = Date.UTC(value('year'), value('month') - 1, value('day'), value('hour'), value('minute'));
  return there - Math.floor(at / 60_000) * 60_000;
}
