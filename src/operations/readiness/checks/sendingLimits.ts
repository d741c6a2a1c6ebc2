/** What the limits on sending stopped or held in the last hour. */
import { limitNamed } from '../../../core/limits/limits';
import type { ReadinessSubject } from '../../../core/readiness/readiness';
import { recentStops } from '../../limits';
import { finding, type ReadinessCheck } from './check';

const SENDING: ReadinessSubject = { kind: 'engine', id: 'sending', name: 'Sending', href: '/send/limits' };

export const sendingLimits: ReadinessCheck = {
  name: 'sending-limits',
  topics: ['limits'],
  async examine({ ctx }) {
    return (await recentStops(ctx)).map(({ limit, place, words, orders, held, by, firstAt, key }) => {
      const more = { about: key, since: firstAt, affects: [] };
      if (held) {
        const said = `${orders} ${orders === 1 ? 'message' : 'messages'}`;
        return finding('rise-held', 'error', SENDING, { said, subject: place, who: by }, more);
      }
      if (limit === 'codes-unread') return finding('codes-unread', 'error', SENDING, { subject: place }, more);
      const { unit } = limitNamed(limit);
      const said = `the limit on ${unit} ${words} (${orders} stopped, the last by ${by})`;
      return finding('limit-reached', 'attention', SENDING, { said, subject: place }, more);
    });
  },
};
