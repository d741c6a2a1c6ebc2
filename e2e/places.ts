/** Where the demonstration listens that the browser tests start for themselves. */
export const PORT = 3411;
export const BENCH_PORT = 4511;
