/** Whose clock is wrong, judged by what providers say the time is: one witness alone cannot tell whose it is. */

export interface ClockWitness {
  id: string;
  name: string;
  /** By how much its clock is ahead of ours, milliseconds. */
  ahead: number;
}

export type ClockVerdict =
  | { whose: 'nobody' }
  /** All say the same other time; with one witness alone it may be its clock as well. */
  | { whose: 'ours'; ahead: number; sure: boolean; by: readonly ClockWitness[] }
  /** These say another time than everybody else. */
  | { whose: 'theirs'; off: readonly ClockWitness[] };

/** Signatures are good for minutes; less is of no consequence. */
export const CLOCKS_AGREE = 60_000;

export function judgeClocks(witnesses: readonly ClockWitness[]): ClockVerdict {
  const off = witnesses.filter(({ ahead }) => Math.abs(ahead) > CLOCKS_AGREE);
  const [first] = off;
  if (!first) return { whose: 'nobody' };
  const agree = off.every(({ ahead }) => Math.abs(ahead - first.ahead) <= CLOCKS_AGREE);
  if (off.length === witnesses.length && agree)
    return { whose: 'ours', ahead: first.ahead, sure: off.length > 1, by: off };
  return { whose: 'theirs', off };
}
