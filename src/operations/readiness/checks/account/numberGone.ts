/** Channels whose number the provider no longer lists. */
import { displayAddress } from '../../../../core/addresses/display';
import { type AccountCheck, channelSubject, finding } from '../check';

export const numberGone: AccountCheck = {
  name: 'number-gone',
  async prepare({ ctx, channels }) {
    const ids = channels.flatMap(({ number_id }) => number_id ?? []);
    const numbers = new Map((await ctx.store.numbers.allBy('id', ids)).map((row) => [row.id, row]));
    return (account, own) =>
      account.disabled_at !== null
        ? []
        : own.flatMap((channel) => {
            const goneAt = numbers.get(channel.number_id ?? '')?.gone_at;
            if (!goneAt) return [];
            const context = { who: account.name, subject: displayAddress(channel.address) };
            return [finding('number-gone', 'error', channelSubject(channel), context, { since: goneAt })];
          });
  },
};
