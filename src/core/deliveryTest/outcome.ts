/** What the rounds of a run come to, and what runs over time say about a test. */
import type { DeliveryTest } from './deliveryTest';
import type { Round, Verdict } from './judge';

export interface Timing {
  count: number;
  min: number;
  p50: number;
  p95: number;
  max: number;
}

/** Nearest-rank percentiles of the times to the last thing awaited, one of each round, in milliseconds. */
export function timingOf(rounds: readonly Round[]): Timing | undefined {
  const times = rounds
    .flatMap(({ verdicts }) => {
      const took = verdicts.flatMap(({ tookMs }) => (tookMs === undefined ? [] : [tookMs]));
      return took.length > 0 ? [Math.max(...took)] : [];
    })
    .sort((a, b) => a - b);
  if (times.length === 0) return undefined;
  return {
    count: times.length,
    min: times[0] as number,
    p50: percentile(times, 50),
    p95: percentile(times, 95),
    max: times.at(-1) as number,
  };
}

/** Nearest rank over sorted values: the smallest that at least `share` percent do not exceed. */
export function percentile(sorted: readonly number[], share: number): number {
  return sorted[Math.max(0, Math.ceil((share / 100) * sorted.length) - 1)] ?? Number.NaN;
}

/** The demand on timing over all rounds; undefined where there is none. */
export function paceVerdict({ pace }: DeliveryTest, rounds: readonly Round[]): Verdict | undefined {
  if (!pace) return undefined;
  const expected = `${pace.percentile} % of the rounds take at most ${pace.withinMs} ms`;
  const times = rounds
    .flatMap(({ verdicts }) => {
      const took = verdicts.flatMap(({ tookMs }) => (tookMs === undefined ? [] : [tookMs]));
      return took.length > 0 && verdicts.every(({ holds }) => holds) ? [Math.max(...took)] : [];
    })
    .sort((a, b) => a - b);
  if (times.length === 0) return { holds: false, expected, said: 'No round has a time' };
  const seen = percentile(times, pace.percentile);
  return {
    holds: seen <= pace.withinMs && times.length === rounds.length,
    expected,
    said: `${pace.percentile} % took at most ${Math.round(seen)} ms`,
    tookMs: seen,
  };
}

export function passed(test: DeliveryTest, rounds: readonly Round[]): boolean {
  return (
    rounds.length > 0 &&
    rounds.every(({ verdicts }) => verdicts.every(({ holds }) => holds === true)) &&
    (paceVerdict(test, rounds)?.holds ?? true)
  );
}

/** So many of the latest runs are looked at. */
const LOOKED_AT = 12;
const TURNS = 3;

/**
 * A test that passes and fails in turn while nobody changed anything: newest first, only runs
 * since the set-up it covers last changed.
 */
export function isFlaky(states: readonly ('passed' | 'failed')[]): boolean {
  const recent = states.slice(0, LOOKED_AT);
  const turns = recent.filter((state, index) => index > 0 && state !== recent[index - 1]).length;
  return turns >= TURNS;
}
