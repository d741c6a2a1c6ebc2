/** What would be missed, channel by channel, and of what too little is known to miss it. */
import { countryName } from '../../../../core/addresses/display';
import { judgeShare, type Share } from '../../../../core/baseline/share';
import { judgeSilence, type Silence } from '../../../../core/baseline/silence';
import { groupBy } from '../../../../core/groupBy';
import { type Actor, type AppContext, reachesChannel, reachOf, requireRole } from '../../../context';
import { IN_TIME, type SentText, sentTexts } from './sentTexts';
import { channelsWithUsual } from './silence';

export interface Watched {
  channel: { id: string; name: string };
  /** Texts that come in. */
  inbound: Silence['state'];
  /** Texts the provider takes. */
  taken: Share['state'];
  /** Receipts; absent where none are to be had. */
  receipts?: Share['state'];
  /** Countries with too few texts to tell of by themselves. */
  tooFewTo: string[];
}

const inTime = (at: number, then: number | null) => then !== null && then - at <= IN_TIME;
const ofReceipts = (texts: readonly SentText[]) =>
  judgeShare(texts.filter(({ taken }) => taken !== null).map(({ at, receipt }) => inTime(at, receipt))).state;

export async function watchedChannels(ctx: AppContext, actor: Actor): Promise<Watched[]> {
  requireRole(actor, 'viewer');
  const now = ctx.now();
  const [reach, channels, sent, usual] = await Promise.all([
    reachOf(ctx.store, actor),
    ctx.store.channels.readable(),
    sentTexts(ctx, now),
    channelsWithUsual(ctx, now),
  ]);
  return channels
    .filter(({ id }) => reachesChannel(reach, id))
    .map(({ id, name }): Watched => {
      const seen = usual.get(id);
      const own = sent.find(({ channel }) => channel.id === id);
      const texts = own?.texts ?? [];
      const countries = [...groupBy(texts, ({ country }) => country ?? '')];
      return {
        channel: { id, name },
        inbound: seen ? judgeSilence(seen.usual, seen.seen, now, seen.offset).state : 'cannot tell',
        taken: judgeShare(texts.map(({ at, taken }) => inTime(at, taken))).state,
        ...(own?.receipts ? { receipts: ofReceipts(texts) } : {}),
        tooFewTo: countries.flatMap(([country, group]) =>
          country && own?.receipts && ofReceipts(group) === 'cannot tell' ? [countryName(country)] : [],
        ),
      };
    })
    .sort((a, b) => a.channel.name.localeCompare(b.channel.name));
}
