/** Broadcasts that held themselves: people wait for a decision. What somebody holds by hand is theirs. */
import type { ReadinessSubject } from '../../../../core/readiness/readiness';
import { finding, type ReadinessCheck } from '../check';

export const heldBroadcasts: ReadinessCheck = {
  name: 'held-broadcasts',
  topics: ['broadcast'],
  async examine({ ctx }) {
    const rows = await ctx.store.broadcasts.all({ state: 'held' });
    return rows.flatMap(({ id, name, held }) => {
      if (!held || held.code === 'by-hand') return [];
      const subject: ReadinessSubject = { kind: 'engine', id, name, href: `/send/broadcasts/${id}` };
      const words = { subject: `“${name}”`, said: held.problem };
      return [{ ...finding('broadcast-held', 'attention', subject, words, { since: held.at }), remedy: held.remedy }];
    });
  },
};
