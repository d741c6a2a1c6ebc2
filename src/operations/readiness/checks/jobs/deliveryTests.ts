/** Delivery tests that are to be watched, by a schedule or before publishing, and failed when they ran last. */
import type { ReadinessSubject } from '../../../../core/readiness/readiness';
import { finding, type ReadinessCheck } from '../check';

interface Failing {
  id: string;
  name: string;
  guards: number;
  run: string;
  problem: string | null;
  /** When the first run failed since one that passed. */
  since: number;
}

export const deliveryTests: ReadinessCheck = {
  name: 'delivery-tests',
  topics: ['test'],
  async examine({ ctx }) {
    // A run that was stopped says nothing of the path.
    const rows = await ctx.store.select<Failing>(
      `SELECT t.id, t.name, t.guards_publishing AS guards, r.id AS run, r.problem,
              (SELECT min(f.ended_at) FROM delivery_test_runs f WHERE f.test_id = t.id AND f.state = 'failed'
                  AND f.id > coalesce((SELECT max(p.id) FROM delivery_test_runs p WHERE p.test_id = t.id AND p.state = 'passed'), '')) AS since
         FROM delivery_tests t
         JOIN delivery_test_runs r ON r.id = (SELECT max(l.id) FROM delivery_test_runs l WHERE l.test_id = t.id AND l.state IN ('passed', 'failed'))
        WHERE t.archived_at IS NULL AND r.state = 'failed' AND (t.every_minutes IS NOT NULL OR t.guards_publishing = 1)`,
    );
    return rows.map(({ id, name, guards, run, problem, since }) => {
      const subject: ReadinessSubject = { kind: 'engine', id, name, href: `/prove/tests/runs/${run}` };
      const words = { subject: `“${name}”`, ...(problem ? { said: problem } : {}) };
      return finding('delivery-test-fails', guards === 1 ? 'error' : 'attention', subject, words, { since });
    });
  },
};
