/** Delivery tests over real wires: right verdicts, alone and in a crowd. */
import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { addFeed } from '../src/operations/apps/feeds/feeds';
import { addPhoneSystem } from '../src/operations/apps/phone/phoneSystems';
import { SYSTEM } from '../src/operations/context/actor';
import {
  archiveTest,
  askForRuns,
  listTests,
  reportRuns,
  setSpendingCap,
} from '../src/operations/deliveryTests/deliveryTests';
import { testBench } from './harness/deliveryTests';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, killHard, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
let on: ReturnType<typeof testBench>;

beforeAll(async () => {
  house = await startInstallation({ perSecond: 400 });
  mossgate = await connectMossgate(house, 'brackwater', 200);
  on = testBench(house, mossgate);
  await on.publish([on.echo(), on.tell()]);
});
afterAll(() => house.stop());

describe('one at a time', () => {
  test('a round trip through the app, the route that took it, and nothing twice', async () => {
    const { state, verdicts } = await on.verdictsOf({
      stimulus: on.text('LOCK Tern {{ run }}'),
      expectations: [
        on.arrives('Passage booked: Tern'),
        { expect: 'routed', route: 'tell' },
        { expect: 'told', app: mossgate.appId, within: 120, field: 'data.from', value: INES },
        { expect: 'round-trip', within: 120 },
        { expect: 'once', during: 4 },
      ],
    });
    expect(verdicts.filter(({ holds }) => !holds)).toEqual([]);
    expect(state).toBe('passed');
    expect(verdicts.every(({ tookMs }) => tookMs === undefined || tookMs < 10_000)).toBe(true);
  });

  test('times over several rounds, with a demand on the 95th percentile that fails when it is too hard', async () => {
    const content = (withinMs: number) => ({
      stimulus: on.text('echo {{ run }}'),
      expectations: [on.arrives('Echo of echo')],
      times: 4,
      pace: { percentile: 95, withinMs },
    });
    const good = await on.verdictsOf(content(9000));
    expect([good.state, good.run?.rounds.length]).toEqual(['passed', 4]);
    const bad = await on.verdictsOf(content(1));
    expect(bad.state).toBe('failed');
    expect(bad.verdicts.every(({ holds }) => holds)).toBe(true);
  });

  test('what fails says the cause: a phone that is off, a spent account, an app that is down, the wrong route', async () => {
    const { bench } = house;
    await bench.setHandset(TOMAS, { power: 'off' });
    const off = await on.verdictsOf({
      stimulus: { kind: 'order', channel: mossgate.channel.id, phone: TOMAS, text: 'Stoppage {{ run }}' },
      expectations: [{ expect: 'delivered', within: 120 }],
    });
    await bench.setHandset(TOMAS, { power: 'on' });
    expect(off.verdicts).toMatchObject([{ holds: false, cause: 'handset-unreachable' }]);

    await bench.faults({ lockbook: { answers500: true } });
    const down = await on.verdictsOf({
      stimulus: on.text('LOCK Heron {{ run }}'),
      expectations: [{ expect: 'told', app: mossgate.appId, within: 4, field: '', value: '' }],
    });
    await bench.faults({ lockbook: { answers500: false } });
    expect(down.verdicts).toMatchObject([{ holds: false, cause: 'app-error' }]);

    const routed = await on.verdictsOf({
      stimulus: on.text('echo once more'),
      expectations: [{ expect: 'routed', route: 'tell' }],
    });
    expect(routed.verdicts).toMatchObject([{ holds: false, said: expect.stringContaining('“Echo”') }]);
  });

  test('a second copy is seen, and so is a silence that is broken', async () => {
    await on.publish(
      [on.echo(), { ...on.echo('Echo of {{ message.text }}'), id: 'again', name: 'Again' }].map((route) => ({
        ...route,
        goesOn: true,
      })),
    );
    const twice = await on.verdictsOf({
      stimulus: on.text('echo {{ run }}'),
      expectations: [{ expect: 'once', during: 6 }],
    });
    expect(twice.verdicts).toMatchObject([{ holds: false, said: 'It arrived 2 times' }]);
    await on.publish([on.echo(), on.tell()]);
    const broken = await on.verdictsOf({
      stimulus: on.text('echo {{ run }}'),
      expectations: [{ expect: 'silence', phone: INES, during: 8 }],
    });
    expect(broken.verdicts[0]?.holds).toBe(false);
    const kept = await on.verdictsOf({
      stimulus: on.text('nothing answers {{ run }}'),
      expectations: [
        { expect: 'silence', phone: INES, during: 3 },
        { expect: 'routed', route: 'tell' },
      ],
    });
    expect(kept.state).toBe('passed');
  });

  test('wrong on purpose: it must be refused, and for the right cause', async () => {
    const { ctx, bench } = house;
    const order = { kind: 'order', channel: mossgate.channel.id, phone: TOMAS, text: 'You asked us not to' };
    const content = { stimulus: order, expectations: [{ expect: 'refused', cause: 'opted-out' }] };
    expect((await on.verdictsOf(content)).verdicts).toMatchObject([
      { holds: false, said: 'It was not refused: it arrived' },
    ]);
    await bench.type(TOMAS, mossgate.channel.address, 'STOP');
    await until('it is entered', async () => (await ctx.store.consentEntries.count({ what: 'withdrawn' })) > 0);
    expect((await on.verdictsOf(content)).state).toBe('passed');
    await bench.type(TOMAS, mossgate.channel.address, 'START');
    await until('it is taken back', async () => (await ctx.store.consentEntries.count({ what: 'given' })) > 0);
  });

  test('people are never written to, money has an end, and what is put away no longer runs', async () => {
    const { ctx } = house;
    await expect(
      on.write('A customer', { stimulus: on.text('hello', '+447700900999'), expectations: [on.arrives('x')] }),
    ).rejects.toThrow(/verified/);
    await expect(on.write('Nothing', { stimulus: on.text('hello'), expectations: [] })).rejects.toThrow(/expectations/);
    await setSpendingCap(ctx, SYSTEM, { micros: 1, currency: 'GBP' });
    const stopped = await on.verdictsOf({ stimulus: on.text('echo {{ run }}'), expectations: [on.arrives('Echo')] });
    expect([stopped.state, stopped.run?.problem]).toEqual(['stopped', expect.stringContaining('cap')]);
    await setSpendingCap(ctx, SYSTEM, undefined);
    const id = await on.write('Archive', { stimulus: on.text('echo'), expectations: [on.arrives('Echo')] });
    await archiveTest(ctx, SYSTEM, id);
    await expect(askForRuns(ctx, SYSTEM, [id])).rejects.toThrow(/no such test/);
  });

  test('changed since it ran, and exported as JUnit', async () => {
    const { ctx } = house;
    const id = await on.write('Covers the routes', {
      stimulus: on.text('echo <&> {{ run }}'),
      expectations: [on.arrives('Echo of')],
    });
    await on.run(id);
    const before = (await listTests(ctx, SYSTEM)).find(({ test }) => test.id === id);
    expect(before?.staleBy).toBeUndefined();
    await on.publish([on.echo(), on.tell()]);
    const after = (await listTests(ctx, SYSTEM)).find(({ test }) => test.id === id);
    expect(after?.staleBy?.summary).toContain('Published revision');
    const { junit } = await reportRuns(ctx, SYSTEM, 'latest');
    expect(junit).toContain('<testcase name="Covers the routes"');
    expect(junit).toContain('&lt;&amp;&gt;');
    expect(Number(/failures="(\d+)"/.exec(junit)?.[1])).toBe((junit.match(/<failure /g) ?? []).length);
  });

  test('an engine killed in the middle begins the run again', async () => {
    const { ctx } = house;
    const id = await on.write('Interrupted', {
      stimulus: on.text('echo {{ run }}'),
      expectations: [on.arrives('Echo of'), { expect: 'once', during: 3 }],
    });
    const begun = ctx.now();
    const { runs } = await askForRuns(ctx, SYSTEM, [id]);
    const texts = async () =>
      (await ctx.store.messages.all({ direction: 'in', sender: INES })).filter(({ created_at }) => created_at >= begun);
    await until('its text is in', async () => (await texts()).length > 0);
    await killHard(house.engine);
    await house.startEngine();
    await until('it has ended', async () => (await ctx.store.testRuns.count({ id: runs, ended_at: null })) === 0);
    expect((await ctx.store.testRuns.one({ id: runs[0] ?? '' }))?.state).toBe('passed');
    // The conversation was opened by the round that was broken off.
    const opened = await ctx.store.conversations.allBy(
      'id',
      (await texts()).map(({ conversation_id }) => conversation_id),
    );
    expect([(await texts()).length, ...opened.map(({ state }) => state)]).toEqual([2, 'closed']);
  });

  test('an event in the calendar is reminded of, and a missed call is answered', async () => {
    const { ctx, world } = house;
    const sender = { by: 'channel' as const, channel: mossgate.channel.id };
    const { id: feed } = await addFeed(ctx, SYSTEM, mossgate.appId, {
      name: 'Lock duty',
      url: `http://127.0.0.1:${world.ports.calendar}/${world.calendar.key}/duty.ics`,
      periodMinutes: 15,
      zone: 'Europe/London',
      country: 'GB',
      dayTime: '09:00',
      offsets: [60],
      text: 'Reminder: {{ event.title }}',
      sender,
      notify: '',
    });
    const reminded = await on.verdictsOf({
      stimulus: { kind: 'event', feed, phone: TOMAS, title: 'Duty {{ run }}' },
      expectations: [on.arrives('Reminder: Duty', TOMAS), { expect: 'delivered', within: 120 }],
    });
    expect(reminded.verdicts.filter(({ holds }) => !holds)).toEqual([]);

    const { id: system } = await addPhoneSystem(ctx, SYSTEM, mossgate.appId, {
      name: 'Harbour office',
      events: ['missed'],
      answer: 'Sorry we missed you.',
      alert: '',
      alertPhones: '',
      alertMails: '',
      country: 'GB',
      channel: mossgate.channel.id,
      onceHours: 1,
    });
    const called = await on.verdictsOf({
      stimulus: { kind: 'call', system, phone: TOMAS, event: 'missed' },
      expectations: [on.arrives('Sorry we missed you', TOMAS)],
    });
    expect(called.state).toBe('passed');
  });

  test('from a pipeline: run by name, an exit code that says how it went, and JUnit', async () => {
    const { ctx } = house;
    const { key } = await createApiKey(ctx, SYSTEM, { appId: mossgate.appId, name: 'Pipeline', scopes: ['tests:run'] });
    await on.write('Pipeline good', { stimulus: on.text('echo {{ run }}'), expectations: [on.arrives('Echo of')] });
    await on.write('Pipeline bad', {
      stimulus: on.text('echo {{ run }}', TOMAS),
      expectations: [on.arrives('never said', TOMAS, 2)],
    });
    const junit = join(house.folder, 'junit.xml');
    const prove = (apiKey: string, ...names: string[]) =>
      promisify(execFile)(process.execPath, ['scripts/prove.mjs', ...names], {
        env: { ...process.env, WINDGAP_URL: house.origin, WINDGAP_API_KEY: apiKey, WINDGAP_JUNIT: junit },
      }).then(
        ({ stdout }) => ({ code: 0, out: stdout }),
        (error: { code: number; stdout: string; stderr: string }) => ({
          code: error.code,
          out: error.stdout + error.stderr,
        }),
      );
    expect(await prove(key, 'Pipeline good')).toMatchObject({
      code: 0,
      out: expect.stringContaining('1 passed, 0 failed'),
    });
    expect(readFileSync(junit, 'utf8')).toContain('tests="1" failures="0"');
    const bad = await prove(key, 'Pipeline good', 'Pipeline bad');
    expect(bad).toMatchObject({ code: 1, out: expect.stringContaining('1 passed, 1 failed') });
    expect(bad.out).toContain('expected that a text containing “never said”');
    expect(await prove(key, 'No such test')).toMatchObject({ code: 2, out: expect.stringContaining('No such test') });
    // A key for something else may not.
    expect((await prove(mossgate.apiKey, 'Pipeline good')).code).toBe(2);
  });
});
