/**
 * Properties are tried on the same cases in every run of the tests, so that a red one is a
 * change's and not chance's. `npm run fuzz` tries others, and far more of them.
 */
import fc from 'fast-check';

const seed = Number(process.env.WINDGAP_SEED ?? 20_260_504);
const times = Number(process.env.WINDGAP_FUZZ_TIMES ?? 1);

const { assert } = fc;
fc.configureGlobal({ seed });
// What a test says of its own number of runs is for one run of the tests.
if (times > 1)
  fc.assert = ((property: Parameters<typeof assert>[0], parameters: Parameters<typeof assert>[1] = {}) =>
    assert(property, { ...parameters, numRuns: (parameters.numRuns ?? 100) * times })) as typeof assert;
