import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** These take longest, by far; begun last, they would be waited for alone. */
const FIRST = [
  'deliveryTests',
  'healthyWeek',
  'crashes',
  'burst',
  'faults',
  'webhooks',
  'asks',
  'routing',
  'trunkLoad',
  'sheets',
  'records',
];

class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const rank = ({ moduleId }: TestSpecification) => {
      const index = FIRST.findIndex((name) => moduleId.includes(`/${name}.test.`));
      return index < 0 ? FIRST.length : index;
    };
    return [...files].sort((a, b) => rank(a) - rank(b));
  }
}

/**
 * Tests that start real processes: two files at a time, because they mostly wait. Those
 * that measure time (`*.quiet.ts`) run by themselves: WINDGAP_QUIET=1.
 */
export default defineConfig({
  test: {
    include: [process.env.WINDGAP_QUIET ? 'tests/**/*.quiet.ts' : 'tests/**/*.test.ts'],
    testTimeout: 120_000,
    hookTimeout: 90_000,
    maxWorkers: process.env.WINDGAP_QUIET ? 1 : 2,
    sequence: { sequencer: LongestFirst },
  },
});
