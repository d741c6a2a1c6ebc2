/** Leases of the engine's queues: who holds an item, and when one is nobody's. */

/** How often items are looked for that are leased and that nobody works on. */
export const LOST_EVERY = 30_000;

/** So old a lease must be before it is taken for lost, where its holder does not know of it. */
export const ABANDONED_AFTER = 30_000;
