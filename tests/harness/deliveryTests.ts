/** Delivery tests of an installation: written, run to their end, and what came of them. */
import type { Route } from '../../src/core/routing/route';
import { SYSTEM } from '../../src/operations/context/actor';
import { askForRuns, getRun, saveTest } from '../../src/operations/deliveryTests/deliveryTests';
import { INES, type Mossgate } from './mossgate';
import type { Installation } from './processes';
import { all, begins, publishRoutes, route } from './routes';
import { until } from './until';

export function testBench({ ctx }: Installation, mossgate: Mossgate) {
  const echo = (text = 'Echo of {{ message.text }}') =>
    route('echo', all(begins('echo')), [{ do: 'reply', text }], { name: 'Echo' });
  const tell = () => route('tell', all(), [{ do: 'tell', app: mossgate.appId }], { name: 'Everything to Lockbook' });
  const publish = (routes: Route[]) => publishRoutes(ctx, routes);

  const text = (words: string, phone = INES) => ({ kind: 'text', phone, channel: mossgate.channel.id, text: words });
  // As long as a test may wait: what arrives later on a slow machine has arrived all the same.
  const arrives = (words: string, phone = INES, within = 120) => ({
    expect: 'arrives',
    phone,
    within,
    way: 'contains',
    text: words,
  });

  async function write(name: string, content: object): Promise<string> {
    return (await saveTest(ctx, SYSTEM, { name, content, guardsPublishing: false })).id;
  }

  async function run(...ids: string[]) {
    const { runs } = await askForRuns(ctx, SYSTEM, ids);
    await until(
      'every run has ended',
      async () => (await ctx.store.testRuns.count({ id: runs, ended_at: null })) === 0,
      // What looks takes time from what is tested.
      200,
    );
    return Promise.all(runs.map(async (id) => (await getRun(ctx, SYSTEM, id)).run));
  }

  async function verdictsOf(content: object, name = 'A test') {
    const [row] = await run(await write(name, content));
    return { state: row?.state, verdicts: row?.rounds.flatMap(({ verdicts }) => verdicts) ?? [], run: row };
  }

  return { echo, tell, publish, text, arrives, write, run, verdictsOf };
}
