/** Faults injected for real: which are found before any message, and which are named rightly when somebody complains. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { type House, runCases, summary } from './run';

/** All cases of one house, one after the other, as one test. */
export function suiteOf(name: string, build: () => Promise<House>): void {
  let house: House;
  beforeAll(async () => {
    house = await build();
  });
  afterAll(() => house.installation.stop());

  test(`every fault of the ${name}`, async () => {
    const results = await runCases(house);
    console.log(`${name}: ${summary(results)}`);
    expect(results.filter(({ outcome }) => outcome === 'wrong')).toEqual([]);
    expect(results.filter(({ outcome }) => outcome === 'right').length / results.length).toBeGreaterThanOrEqual(0.9);
  });
}
