/** Whether receipts, or a provider’s consent to take texts, have stopped coming: for a channel, or for one country or alphabet of it. */
import { countryName } from '../../../../core/addresses/display';
import { channelSubject, finding, type ReadinessCheck } from '../check';
import { fallsIn, type Grouping } from './falls';
import { IN_TIME, type SentText, sentTexts } from './sentTexts';

const GROUPINGS: readonly Grouping<SentText>[] = [
  { name: 'all', of: () => '', words: () => '' },
  {
    name: 'country',
    of: ({ country }) => country ?? '',
    words: (country) => ` to ${country ? countryName(country) : 'numbers of no known country'}`,
  },
  { name: 'encoding', of: ({ encoding }) => encoding, words: (encoding) => ` in ${encoding}` },
];

const inTime = (at: number, then: number | null) => then !== null && then - at <= IN_TIME;

export const receipts: ReadinessCheck = {
  name: 'receipts',
  topics: [],
  async examine({ ctx, now }) {
    const all = await sentTexts(ctx, now);
    return all.flatMap(({ channel, texts, receipts: told }) => {
      const taken = texts.filter((text) => text.taken !== null);
      const falls = told ? fallsIn(taken, GROUPINGS, ({ at, receipt }) => inTime(at, receipt)) : [];
      return falls.map(({ about, words, of, got, usual, before, since }) => {
        const said = `of the last ${of} texts${words} ${got === 0 ? 'none' : got} got a receipt within ten minutes; usual are ${usual} %, of the ${before} before`;
        const more = { about, ...(since === undefined ? {} : { since }) };
        return finding('receipts-stopped', 'attention', channelSubject(channel), { who: channel.name, said }, more);
      });
    });
  },
};

export const submits: ReadinessCheck = {
  name: 'submits',
  topics: [],
  async examine({ ctx, now }) {
    const all = await sentTexts(ctx, now);
    return all.flatMap(({ channel, texts }) =>
      fallsIn(texts, GROUPINGS, ({ at, taken }) => inTime(at, taken)).map(
        ({ about, words, of, got, usual, before, since }) => {
          const said = `of the last ${of} texts${words} ${got === 0 ? 'none was' : `${got} were`} accepted within ten minutes; usual are ${usual} %, of the ${before} before`;
          const more = { about: `taken ${about}`, ...(since === undefined ? {} : { since }) };
          return finding('submits-fell', 'attention', channelSubject(channel), { who: channel.name, said }, more);
        },
      ),
    );
  },
};
