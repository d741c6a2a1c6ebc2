/** Faults injected for real: which are found before any message, and which are named rightly when somebody complains. */
import { expect, test } from 'vitest';
import { appsHouse } from './faultSuite/apps';
import type { Result } from './faultSuite/case';
import { chatHouse } from './faultSuite/chat';
import { providerHouse } from './faultSuite/provider';
import { type House, runCases, summary } from './faultSuite/run';

const HOUSES: Record<string, () => Promise<House>> = { provider: providerHouse, chat: chatHouse, apps: appsHouse };
const WANTED = process.env.WINDGAP_SUITE?.split(',') ?? Object.keys(HOUSES);
/** So many houses of each kind share its cases; most of a case is waiting. */
const OF_EACH = 2;

test('every fault of the suite', async () => {
  const shares = WANTED.flatMap((name) => {
    let next = 0;
    return Array.from({ length: OF_EACH }, () => ({ name, turn: () => next++ }));
  });
  // One is set up after the other: the machine is small, and they do not wait for each other with their cases.
  let before: Promise<unknown> = Promise.resolve();
  const setUp = (name: string): Promise<House> => {
    const house = before.then(() => (HOUSES[name] as () => Promise<House>)());
    before = house.catch(() => undefined);
    return house;
  };
  // One house's breakdown is told after the others have ended.
  const ended = await Promise.allSettled(
    shares.map(async ({ name, turn }): Promise<Result[]> => {
      const house = await setUp(name);
      try {
        return await runCases(house, turn);
      } finally {
        await house.installation.stop();
      }
    }),
  );
  const failed = ended.find((each) => each.status === 'rejected');
  if (failed) throw failed.reason;
  const results = ended.flatMap((each) => (each.status === 'fulfilled' ? each.value : []));
  console.log(summary(results));
  expect(results.filter(({ outcome }) => outcome === 'wrong')).toEqual([]);
  expect(results.filter(({ outcome }) => outcome === 'right').length / results.length).toBeGreaterThanOrEqual(0.9);
}, 600_000);
