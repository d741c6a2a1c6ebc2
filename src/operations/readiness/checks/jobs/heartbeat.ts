/** A heartbeat that is not taken where it is posted: nobody would notice if it stopped. */

import { HEARTBEAT_LAST, type HeartbeatLast } from '../../../../core/installationStatus';
import type { ReadinessSubject } from '../../../../core/readiness/readiness';
import { finding, type ReadinessCheck } from '../check';

const SUBJECT: ReadinessSubject = {
  kind: 'engine',
  id: 'heartbeat',
  name: 'The heartbeat',
  href: '/watch/alerts/rules',
};
/** One that is lost on the way is none. */
const TIMES = 3;

export const heartbeat: ReadinessCheck = {
  name: 'heartbeat',
  topics: ['readiness'],
  async examine({ ctx }) {
    const last = (await ctx.store.settings.one({ name: HEARTBEAT_LAST }))?.value as HeartbeatLast | undefined;
    if (!last || last.failures < TIMES) return [];
    const words = { who: last.host, ...(last.said ? { said: last.said } : {}) };
    return [
      finding('heartbeat-not-accepted', 'attention', SUBJECT, words, last.takenAt ? { since: last.takenAt } : {}),
    ];
  },
};
