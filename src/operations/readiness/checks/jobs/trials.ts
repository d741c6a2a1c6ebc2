/** What became of changes on trial that somebody may still rely on: said until somebody has read it, for a day at most where all is back. */
import type { ReadinessSubject } from '../../../../core/readiness/readiness';
import { finding, type ReadinessCheck } from '../check';

const DAY = 86_400_000;

export const changeTrials: ReadinessCheck = {
  name: 'change-trials',
  topics: ['trial'],
  async examine({ ctx, now }) {
    const rows = (await ctx.store.changeTrials.readable()).filter(({ seen_at }) => seen_at === null);
    return rows.flatMap(({ id, what, state, said, ended_at }) => {
      const since = ended_at ?? now;
      if (state !== 'stuck' && (state !== 'reverted' || now - since > DAY)) return [];
      const subject: ReadinessSubject = { kind: 'engine', id, name: 'A change on trial', href: '/prove/trials' };
      const words = { subject: `“${what}”`, ...(said ? { said } : {}) };
      return [
        state === 'stuck'
          ? finding('change-not-reverted', 'error', subject, words, { since })
          : finding('change-reverted', 'attention', subject, words, { since }),
      ];
    });
  },
};
