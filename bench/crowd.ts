/** Fifty delivery tests at once beside a hundred messages a second: how soon the slowest answer is there. */
import { runCrowd, startCrowdHouse } from '../tests/harness/crowd';

const TESTS = 50;
const PER_SECOND = 100;

export async function crowd(): Promise<void> {
  const house = await startCrowdHouse();
  try {
    const { wrong, overlap, carried, slowest } = await runCrowd(house, TESTS, PER_SECOND);
    console.log(
      `${TESTS} delivery tests, ${overlap} at once, beside ${carried.toFixed(0)} messages a second (${PER_SECOND} were to be): the slowest answer after ${(slowest / 1000).toFixed(1)} s; wrong verdicts: ${wrong.length}`,
    );
  } finally {
    await house.stop();
  }
}
