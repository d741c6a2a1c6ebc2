/**
 * Properties are tried on the same cases in every run of the tests, so that a red one is a
 * change's and not chance's. `npm run fuzz` tries others.
 */
import fc from 'fast-check';

fc.configureGlobal({ seed: Number(process.env.WINDGAP_SEED ?? 20_260_504) });
