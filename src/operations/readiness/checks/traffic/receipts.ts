/** Whether receipts have stopped coming for a channel, or for one country or alphabet of it, before anybody misses them. */
import { countryName } from '../../../../core/addresses/display';
import { judgeShare } from '../../../../core/baseline/share';
import { groupBy } from '../../../../core/groupBy';
import type { Examined } from '../../../../core/readiness/readiness';
import type { ChannelRow } from '../../../../store/schema/rows';
import type { AppContext } from '../../../context';
import { channelSubject, finding, type ReadinessCheck } from '../check';

const DAY = 86_400_000;
const LOOKED_BACK = 7 * DAY;
/** A receipt that is to count comes within this; of a text that is younger nothing is known yet. */
const IN_TIME = 10 * 60_000;
const MOST = 20_000;

interface Sent {
  channel: string;
  country: string | null;
  encoding: string;
  at: number;
  receipt: number | null;
}

export const receipts: ReadinessCheck = {
  name: 'receipts',
  topics: [],
  async examine({ ctx, now }) {
    const before = looked.get(ctx);
    if (before && now >= before.at && now - before.at < LOOK_AGAIN) return before.found;
    const found = await examine(ctx, now);
    looked.set(ctx, { at: now, found });
    return found;
  },
};

/** A complaint is looked at several times within a minute; so many texts are read once. */
const LOOK_AGAIN = 60_000;
const looked = new WeakMap<AppContext, { at: number; found: Examined[] }>();

async function examine(ctx: AppContext, now: number): Promise<Examined[]> {
  const rows = await ctx.store.select<Sent>(
    `SELECT m.channel_id AS channel, m.country, m.encoding, m.created_at AS at,
              (SELECT min(e.recorded_at) FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('delivered', 'undelivered', 'read')) AS receipt
         FROM messages m INDEXED BY messages_created
        WHERE m.created_at BETWEEN :since AND :until AND m.direction = 'out' AND m.state IN ('sent', 'delivered', 'read', 'failed')
          AND EXISTS (SELECT 1 FROM message_events e WHERE e.message_id = m.id AND e.kind IN ('accepted', 'sent'))
          AND m.channel_id IN (SELECT subject_id FROM hop_proofs WHERE hop = 'receipt' AND state <> 'not-applicable')
        ORDER BY m.created_at DESC, m.id DESC LIMIT ${MOST}`,
    { since: now - LOOKED_BACK, until: now - IN_TIME },
  );
  const channels = await ctx.store.channels.readable();
  return [...groupBy(rows, ({ channel }) => channel)].flatMap(([id, sent]) => {
    const channel = channels.find((row) => row.id === id);
    return channel ? ofChannel(channel, sent) : [];
  });
}

/** The widest group in which they stopped is said: all of it, else by country, else by alphabet. */
function ofChannel(channel: ChannelRow, sent: readonly Sent[]) {
  const ways: [about: string, words: (value: string) => string, of: (each: Sent) => string][] = [
    ['all', () => '', () => ''],
    [
      'country',
      (country) => ` to ${country ? countryName(country) : 'numbers of no known country'}`,
      ({ country }) => country ?? '',
    ],
    ['encoding', (encoding) => ` in ${encoding}`, ({ encoding }) => encoding],
  ];
  for (const [about, words, of] of ways) {
    const fell = [...groupBy(sent, of)].flatMap(([value, group]) => {
      const oldestFirst = [...group].reverse();
      const share = judgeShare(oldestFirst.map(({ at, receipt }) => receipt !== null && receipt - at <= IN_TIME));
      if (share.state !== 'fell') return [];
      const said = `of the last ${share.of} texts${words(value)} ${share.got === 0 ? 'none' : share.got} got a receipt within ten minutes; usual are ${Math.round(share.usually * 100)} %, of the ${share.before} before`;
      const since = oldestFirst.at(-share.of)?.at;
      return [
        finding(
          'receipts-stopped',
          'attention',
          channelSubject(channel),
          { who: channel.name, said },
          {
            about: `${about} ${value}`,
            ...(since === undefined ? {} : { since }),
          },
        ),
      ];
    });
    if (fell.length > 0) return fell;
  }
  return [];
}
