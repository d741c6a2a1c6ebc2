/** Runs the cases of one half and reports each: its place, its cause, the verdict and how sure it was. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Outcome, Unforeseen } from './case';
import { closeHouse, type House, openHouse, runCase } from './house';

/** At most so many may be sure and wrong. */
const MOST_SURE_AND_WRONG = 1;
const RIGHT_PLACE = 0.7;

export function suiteOf(name: string, cases: readonly Unforeseen[]): void {
  let house: House;
  beforeAll(async () => {
    house = await openHouse();
  });
  afterAll(() => closeHouse(house));

  test(`${name}: named, or placed, or left open; never sure and wrong`, async () => {
    const wanted = process.env.WINDGAP_SUITE_CASE ?? '';
    const results: Outcome[] = [];
    for (const each of cases.filter((one) => one.name.includes(wanted))) results.push(await runCase(house, each));
    console.log(summary(name, results));
    const faults = results.filter((each) => !each.name.startsWith('well'));
    const healthy = results.filter((each) => each.name.startsWith('well'));
    const right = faults.filter(({ outcome }) => outcome.startsWith('right'));
    if (wanted === '') expect(right.length / faults.length).toBeGreaterThanOrEqual(RIGHT_PLACE);
    expect(faults.filter(({ outcome }) => outcome === 'sure and wrong').length).toBeLessThanOrEqual(
      MOST_SURE_AND_WRONG,
    );
    // No healthy path is called broken.
    expect(healthy.filter(({ outcome }) => outcome.endsWith('wrong'))).toEqual([]);
  });
}

/** Of the verdicts that name a cause: how often it is right, against how sure they were, with 95 % intervals (Wilson). */
function calibration(results: readonly Outcome[]): string {
  const named = results.filter(({ cause }) => cause !== '');
  return [
    ['at least 0.9', (share: number) => share >= 0.9],
    ['0.5 to 0.9', (share: number) => share >= 0.5 && share < 0.9],
    ['below 0.5', (share: number) => share < 0.5],
  ]
    .map(([words, holds]) => {
      const those = named.filter(({ share }) => (holds as (share: number) => boolean)(share));
      const right = those.filter(({ outcome }) => outcome === 'right cause').length;
      const [low, high] = wilson(right, those.length);
      return `  said with ${words}: ${right} of ${those.length} right (${low.toFixed(2)} to ${high.toFixed(2)})`;
    })
    .join('\n');
}

/** The 95 % interval of a share seen `k` times of `n` (Wilson 1927). */
function wilson(k: number, n: number): [number, number] {
  if (n === 0) return [0, 1];
  const z = 1.96;
  const middle = (k + (z * z) / 2) / (n + z * z);
  const half = (z * Math.sqrt((k * (n - k)) / n + (z * z) / 4)) / (n + z * z);
  return [middle - half, middle + half];
}

function summary(name: string, results: readonly Outcome[]): string {
  const count = (outcome: Outcome['outcome'], healthy: boolean) =>
    results.filter((each) => each.outcome === outcome && each.name.startsWith('well') === healthy).length;
  const line = (healthy: boolean) =>
    (['right cause', 'right place', 'open', 'leaning wrong', 'sure and wrong'] as const)
      .map((outcome) => `${count(outcome, healthy)} ${outcome}`)
      .join(', ');
  return [
    `${name}: faults: ${line(false)}`,
    `${name}: healthy: ${line(true)}`,
    calibration(results),
    ...results.map(
      ({ outcome, name: each, verdict, cause, place, share }) =>
        `  ${outcome.padEnd(14)} ${verdict.padEnd(12)} ${place.padEnd(18)} ${share.toFixed(2)} ${cause.padEnd(24)} ${each}`,
    ),
  ].join('\n');
}
