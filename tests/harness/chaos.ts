/** How often a test kills and how much it sends: enough to fail when something is wrong, and far more in `npm run chaos`. */
const CHAOS = process.env.WINDGAP_CHAOS === '1';

/** `usual` in every run of the tests, `often` where killing is what the run is for. */
export function counts<Counts>(usual: Counts, often: Counts): Counts {
  return CHAOS ? often : usual;
}
