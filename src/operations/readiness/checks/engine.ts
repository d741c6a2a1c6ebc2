/** The engine itself: parts of it that fail, queues that stand still, and what was set aside. */
import { wordsOfLength } from '../../../core/text/length';
import { SYSTEM } from '../../context';
import { countSetAside, QUEUES, readStuckQueues, viewSetAside } from '../../setAside';
import { readLoopTroubles } from '../../workQueue';
import { ENGINE, finding, type ReadinessCheck } from './check';

export const engine: ReadinessCheck = {
  name: 'engine',
  topics: ['queue'],
  async examine({ ctx, now }) {
    const [troubles, stuck, aside] = await Promise.all([
      readLoopTroubles(ctx),
      readStuckQueues(ctx),
      countSetAside(ctx),
    ]);
    const [newest] = aside > 0 ? await viewSetAside(ctx, SYSTEM, false) : [];
    return [
      ...troubles.map(({ loop, since, reason }) =>
        finding(
          'loop-failing',
          'error',
          ENGINE,
          { subject: `Its loop “${loop}”`, said: reason },
          { about: loop, since, affects: ['*'] },
        ),
      ),
      ...stuck.map(({ queue, items, since }) => {
        const item = QUEUES.find(({ name }) => name === queue)?.item ?? queue;
        const subject =
          items === 1 ? `${item.charAt(0).toUpperCase()}${item.slice(1)}` : `The oldest of ${items} (${item})`;
        return finding(
          'queue-stuck',
          'error',
          ENGINE,
          { subject, said: `for ${wordsOfLength(now - since)}` },
          { about: queue, since, affects: ['*'] },
        );
      }),
      ...(newest
        ? [
            finding(
              'set-aside',
              'error',
              ENGINE,
              {
                subject: aside === 1 ? newest.title : `${aside} items, the latest of them ${newest.title},`,
                said: newest.reason,
              },
              { since: newest.since, affects: [] },
            ),
          ]
        : []),
    ];
  },
};
