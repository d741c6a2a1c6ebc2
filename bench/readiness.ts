/** What the examination of a large house costs: all of it, one changed part, and the page that shows it. */
import { examineRoutes } from '../src/core/routing/overlap';
import { SYSTEM } from '../src/operations/context/actor';
import { CHECKS } from '../src/operations/readiness/checks';
import { getReadiness } from '../src/operations/readiness/readiness';
import { accountPart, allParts, examineParts } from '../src/operations/readiness/readinessChecks';
import { examineAgain } from '../src/operations/readiness/readinessMonitor';
import { startInstallation } from '../tests/harness/processes';
import { LARGE, makeLarge } from './largeHouse';
import { median } from './load';
import { random, ruleSet } from './routes';

const ROUNDS = 9;

export async function readiness(): Promise<void> {
  const installation = await startInstallation({ web: false, engine: false });
  const { ctx } = installation;
  try {
    await makeLarge(installation);
    const parts = await allParts(ctx);
    const account = parts.find((part) => part.startsWith('account ')) ?? accountPart('');
    const timed = async (work: () => Promise<unknown>) => {
      const times: number[] = [];
      await work();
      for (let round = 0; round < ROUNDS; round++) {
        const begun = performance.now();
        await work();
        times.push(performance.now() - begun);
      }
      return median(times);
    };
    const cold = performance.now();
    await examineParts(ctx, parts);
    const first = performance.now() - cold;
    const whole = await timed(() => examineParts(ctx, parts));
    const dense = ruleSet(random(2026));
    const overlaps = await timed(async () => examineRoutes(dense));
    await examineAgain(ctx, parts, { whole: true });
    const page = await timed(() => getReadiness(ctx, SYSTEM));
    const each: string[] = [];
    for (const part of [account, ...CHECKS.map(({ name }) => name)])
      each.push(`${part.split(' ')[0]} ${(await timed(() => examineParts(ctx, [part]))).toFixed(1)} ms`);
    const { open } = await getReadiness(ctx, SYSTEM);
    console.log(
      `Readiness of ${LARGE.channels} channels, ${LARGE.routes} routes, ${LARGE.templates} templates, ${LARGE.apps} apps: ${whole.toFixed(0)} ms for all of it, in the engine (${open.length} findings; ${first.toFixed(0)} ms the first time, with the routes’ overlaps; those alone of 300 routes made to overlap everywhere ${overlaps.toFixed(0)} ms); after a change only its part: ${each.join(', ')}; what the page reads ${page.toFixed(1)} ms`,
    );
  } finally {
    await installation.stop();
  }
}
