import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

/** These take longest, by far; begun last, they would be waited for alone. */
const FIRST = [
  'chaos/chaos',
  'diagnosis.apps',
  'diagnosis.chat',
  'diagnosis.provider',
  'unforeseen/visible',
  'unforeseen/held',
  'unforeseen/later',
  'crashes',
  'asks',
  'faults',
  'trunkLoad',
  'deliveryTests',
  'healthyWeek',
  'burst',
  'sheets',
  'routing',
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

const HOUR = 3_600_000;

/** Tests that start real processes: three files at a time, because they mostly wait. */
export default defineConfig({
  test: {
    include: ['tests/**/*.test.ts'],
    setupFiles: ['tests/harness/seed.ts'],
    // Only against what hangs; whoever waits for something gives up long before.
    testTimeout: HOUR,
    hookTimeout: HOUR,
    maxWorkers: 3,
    // A worker loads the operations once for all its files; what they share is no state.
    isolate: false,
    sequence: { sequencer: LongestFirst },
  },
});
