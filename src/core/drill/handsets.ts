/** How long a text takes to or from a handset of the bench, milliseconds: as usual, or made slow by hand. */
export const CARRIED_IN = { usual: 60, slow: 8000 } as const;

/** Whether somebody made a handset slow: no network of the bench takes so long, in milliseconds, by itself. */
export function isSlow({ delayMs }: { delayMs: number }): boolean {
  return delayMs >= 1000;
}
