/** The texts of the last week that were handed to a provider, with what followed: read once a minute for the checks of what is usual. */
import { groupBy } from '../../../../core/groupBy';
import type { ChannelRow } from '../../../../store/schema/rows';
import type { AppContext } from '../../../context';

const LOOKED_BACK = 7 * 86_400_000;
/** What is to follow comes within this; of a text that is younger nothing is known yet. */
export const IN_TIME = 10 * 60_000;
const MOST = 20_000;
/** A complaint is looked at several times within a minute. */
const LOOK_AGAIN = 60_000;

export interface SentText {
  channel: string;
  country: string | null;
  encoding: string;
  /** Epoch milliseconds: when it was ordered, when the provider took it, when its first receipt came. */
  at: number;
  taken: number | null;
  receipt: number | null;
}

export interface ChannelTexts {
  channel: ChannelRow;
  /** Oldest first. */
  texts: SentText[];
  /** Receipts are to be had of it. */
  receipts: boolean;
}

const kept = new WeakMap<AppContext, { at: number; texts: Promise<ChannelTexts[]> }>();

/** By channel; a minute old at most. */
export function sentTexts(ctx: AppContext, now: number): Promise<ChannelTexts[]> {
  const before = kept.get(ctx);
  if (before && now >= before.at && now - before.at < LOOK_AGAIN) return before.texts;
  const texts = read(ctx, now);
  kept.set(ctx, { at: now, texts });
  texts.catch(() => kept.delete(ctx));
  return texts;
}

async function read(ctx: AppContext, now: number): Promise<ChannelTexts[]> {
  const [rows, channels, proofs] = await Promise.all([
    ctx.store.select<SentText>(
      `SELECT m.channel_id AS channel, m.country, m.encoding, m.created_at AS at,
              (SELECT min(e.recorded_at) FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('accepted', 'sent')) AS taken,
              (SELECT min(e.recorded_at) FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('delivered', 'undelivered', 'read')) AS receipt
         FROM messages m INDEXED BY messages_created
        WHERE m.created_at BETWEEN :since AND :until AND m.direction = 'out'
          AND EXISTS (SELECT 1 FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('attempted', 'accepted', 'sent'))
        ORDER BY m.created_at DESC, m.id DESC LIMIT ${MOST}`,
      { since: now - LOOKED_BACK, until: now - IN_TIME },
    ),
    ctx.store.channels.readable(),
    ctx.store.proofs.all({ hop: 'receipt' }),
  ]);
  const told = new Set(proofs.filter(({ state }) => state !== 'not-applicable').map(({ subject_id }) => subject_id));
  return [...groupBy(rows, ({ channel }) => channel)].flatMap(([id, sent]) => {
    const channel = channels.find((row) => row.id === id);
    return channel ? [{ channel, texts: [...sent].reverse(), receipts: told.has(id) }] : [];
  });
}
