/** Delivery tests that Windgap writes itself, that guard publishing, and that go through a hook without proving the app. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Route, RouteStep } from '../src/core/routing/route';
import { getHook } from '../src/operations/apps/hooks/hookPages';
import { changeHook, createHook, guardHook } from '../src/operations/apps/hooks/hooks';
import { SYSTEM } from '../src/operations/context/actor';
import { listTests, runGuardingTests, saveTest } from '../src/operations/deliveryTests/deliveryTests';
import { suggestedTests, testsAgainstDraft } from '../src/operations/deliveryTests/testSuggestions';
import { probe } from '../src/operations/diagnosis/probe';
import { createSender } from '../src/operations/outbound/sendMessage';
import { testBench } from './harness/deliveryTests';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, begins, route } from './harness/routes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let on: ReturnType<typeof testBench>;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  on = testBench(house, mossgate);
  await on.publish([on.echo(), on.tell()]);
});
afterAll(() => house.stop());

test('suggested for what no test covers; kept as they are they pass, and are suggested no more', async () => {
  const { ctx, world } = house;
  const suggested = await suggestedTests(ctx, SYSTEM);
  expect(suggested.length).toBeGreaterThan(1);
  const spare = world.handsets.find(({ forTests }) => forTests);
  const phones = suggested.flatMap(({ content: { stimulus } }) => ('phone' in stimulus ? [stimulus.phone] : []));
  expect(new Set(phones)).toEqual(new Set([spare?.number]));
  const ids = await Promise.all(suggested.map(({ name, content }) => on.write(name, content)));
  const runs = await on.run(...ids);
  expect(runs.map((run) => `${run.name}: ${run.state}`)).toEqual(suggested.map(({ name }) => `${name}: passed`));
  expect(await suggestedTests(ctx, SYSTEM)).toEqual([]);
});

test('a draft is held against the tests that guard publishing; published all the same, they run and show it', async () => {
  const { ctx } = house;
  const { id } = await saveTest(ctx, SYSTEM, {
    name: 'Echo is answered',
    content: {
      stimulus: on.text('echo {{ run }}'),
      expectations: [{ expect: 'routed', route: 'echo' }, on.arrives('Echo of', INES, 6)],
      times: 1,
    },
    guardsPublishing: true,
  });
  const set = (routes: Route[]) => ({ routes, hours: [] });
  expect(await testsAgainstDraft(ctx, SYSTEM, set([on.echo(), on.tell()]))).toEqual([]);
  const turned = [on.tell(), on.echo()];
  expect(await testsAgainstDraft(ctx, SYSTEM, set(turned))).toEqual([
    { id, name: 'Echo is answered', would: '“Everything to Lockbook”' },
  ]);

  await on.publish(turned);
  expect(await runGuardingTests(ctx, SYSTEM)).toBe(1);
  const last = async () => (await listTests(ctx, SYSTEM)).find((each) => each.test.id === id)?.last;
  await until('it has run', async () => (await last())?.endedAt);
  expect(await last()).toMatchObject({ state: 'failed', why: 'published' });
  await on.publish([on.echo(), on.tell()]);
  await runGuardingTests(ctx, SYSTEM);
  await until('it is well again', async () => (await last())?.state === 'passed');
});

test('what a test sets going ends with it: its conversation, its question, and nothing that was open before', async () => {
  const { ctx, bench } = house;
  const question: RouteStep = {
    do: 'ask',
    text: 'Which lock?',
    minutes: 60,
    keep: '',
    answers: [],
    otherwise: [{ do: 'reply', text: 'We hold it for you' }],
    late: [],
  };
  const asks = route('Asks which lock', all(begins('passage')), [question]);
  await on.publish([asks, on.echo(), on.tell()]);
  const content = { stimulus: on.text('passage {{ run }}', TOMAS), expectations: [on.arrives('Which lock?', TOMAS)] };
  expect((await on.verdictsOf(content, 'Passages')).state).toBe('passed');
  const withTomas = async () => {
    const [identity] = await ctx.store.identities.all({ value: TOMAS });
    return ctx.store.conversations.one({ contact_id: identity?.contact_id ?? '' });
  };
  const tidied = await withTomas();
  expect(tidied).toMatchObject({ state: 'closed', unread: 0 });
  expect(await ctx.store.conversationNotes.all({ conversation_id: tidied?.id ?? '' })).toMatchObject([
    { text: 'closed it: the delivery test “Passages” is over' },
  ]);
  // The next text is a message of its own, and not the answer to the question of a test.
  await bench.type(TOMAS, mossgate.channel.address, 'Is anybody there');
  await until('it is routed', async () => {
    const [text] = await ctx.store.messages.all({ sender: TOMAS, text: 'Is anybody there' });
    return (
      text && (await ctx.store.messageRoutings.one({ message_id: text.id }))?.routes.some(({ id }) => id === 'tell')
    );
  });
  expect(await withTomas()).toMatchObject({ state: 'open' });
  expect((await on.verdictsOf(content, 'Passages again')).state).toBe('passed');
  expect((await withTomas())?.state).not.toBe('closed');
});

test('the test of a diagnosis leaves no conversation behind either', async () => {
  const { ctx, world } = house;
  const spare = world.handsets.find(({ forTests }) => forTests)?.number ?? '';
  expect(await probe(ctx, SYSTEM, createSender(ctx), 'bench-in', { channel: mossgate.channel.id })).toEqual({
    answer: 'yes',
    said: `A text of its own, from ${spare}`,
  });
  const [identity] = await ctx.store.identities.all({ value: spare });
  expect(await ctx.store.conversations.one({ contact_id: identity?.contact_id ?? '' })).toMatchObject({
    state: 'closed',
    last_text: expect.stringMatching(/^Windgap test /),
  });
});

test.each(['token', 'signature'] as const)(
  'a test of a hook passes its %s and proves nothing of the app',
  async (guard) => {
    const { ctx } = house;
    const { id } = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name: `Guarded by ${guard}` });
    await changeHook(ctx, SYSTEM, id, {
      name: `Guarded by ${guard}`,
      text: 'Lock {{ lock }} is ready',
      phoneField: 'mobile',
      country: 'GB',
      sender: { by: 'channel', channel: mossgate.channel.id },
    });
    await guardHook(ctx, SYSTEM, id, guard);
    const { state, verdicts } = await on.verdictsOf({
      stimulus: {
        kind: 'hook',
        hook: id,
        record: JSON.stringify({ lock: 'Tern {{ run }}', mobile: INES }),
        phone: INES,
      },
      expectations: [on.arrives('Lock Tern'), { expect: 'delivered', within: 120 }],
    });
    expect(verdicts.filter(({ holds }) => !holds)).toEqual([]);
    expect(state).toBe('passed');
    // Only the app itself can prove that the app calls.
    expect((await getHook(ctx, SYSTEM, id)).summary.proofs).toMatchObject([{ hop: 'call-in', state: 'unproven' }]);
  },
);
