/**
 * Where the demonstrations listen that the browser tests start for themselves: one for each
 * share of the files, so that two shares run at once and neither sees what the other does.
 */
export const SHARE = process.env.WINDGAP_E2E_SHARE ?? '';

const above = SHARE === '2' ? 1 : 0;
/** Those of `npm test` are looked for when it begins, so that whatever listens on this machine already is left alone. */
export const PORT = Number(process.env.WINDGAP_E2E_PORT ?? 3411 + above);
export const BENCH_PORT = Number(process.env.WINDGAP_E2E_BENCH_PORT ?? 4511 + 200 * above);

/** The files of the first share, about half of the time; whatever is new is the second's. */
const FIRST = ['apps', 'contacts', 'feeds', 'hooks', 'kinds', 'pages'].map((name) => `${name}.spec.ts`);

/** Which files this share runs, and which it leaves; all where nothing is shared. */
export const SHARED = {
  match: SHARE === '1' ? FIRST : ['*.spec.ts'],
  leave: SHARE === '2' ? FIRST : [],
};
