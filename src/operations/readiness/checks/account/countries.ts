/** People in conversation who live where the account may not send, as far as the provider tells. */
import { cause } from '../../../../core/delivery/causes';
import { type AccountCheck, channelSubject } from '../check';

export const countries: AccountCheck = {
  name: 'countries',
  async prepare({ traffic }) {
    const { people } = await traffic();
    return (account, own) => {
      const allowed = account.facts.countries;
      if (!allowed || account.disabled_at !== null) return [];
      return own.flatMap((channel) =>
        people
          .filter((each) => each.channel === channel.id && !allowed.includes(each.country))
          .map(({ country, n }) => ({
            code: 'country-off',
            severity: 'attention' as const,
            problem: `${n === 1 ? 'One person' : `${n} people`} in conversation here ${n === 1 ? 'has' : 'have'} a number of ${country}, where ${account.name} may not send.`,
            remedy: cause('country-off').remedy,
            subject: channelSubject(channel),
            about: country,
            affects: [channel.id],
          })),
      );
    };
  },
};
