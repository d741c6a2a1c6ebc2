import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';
import { HANGS } from './tests/harness/until';

/** These take longest, by far; begun last, they would be waited for alone. */
const FIRST = [
  'diagnosis.apps',
  'diagnosis.chat',
  'diagnosis.provider',
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

/** Tests that start real processes: three files at a time, because they mostly wait. */
export default defineConfig({
  test: {
    include: ['tests/**/*.test.ts'],
    setupFiles: ['tests/harness/seed.ts'],
    // Only against what hangs, and later than whoever waits for something gives up by himself.
    testTimeout: 4 * HANGS,
    hookTimeout: 2 * HANGS,
    maxWorkers: 3,
    sequence: { sequencer: LongestFirst },
  },
});
