/** The bench set by scenarios and by drills: what they set, what they keep out of sight, and what they put back. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { DRILLS, drillOf } from '../src/core/drill/drills';
import { readBench, setFault, setHandset } from '../src/operations/bench/bench';
import { applyScenario, keepScenario, listScenarios } from '../src/operations/bench/benchScenarios';
import { drillRuns } from '../src/operations/bench/duringDrill';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { beginDrill, giveUp, guess, listDrills, takeHint } from '../src/operations/diagnosis/drills';
import { connectMossgate, INES, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';

let house: Installation;
let ctx: AppContext;
const agent: Actor = { kind: 'user', id: 'usr_a', name: 'Agent', role: 'agent' };

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  ctx = house.ctx;
  await connectMossgate(house);
});
afterAll(() => house.stop());

/** Every switch that is on, as `service.fault`. */
const faultsOn = async () =>
  Object.entries((await readBench(ctx, SYSTEM)).faults).flatMap(([service, switches]) =>
    Object.entries(switches).flatMap(([fault, value]) => (value ? [`${service}.${fault}`] : [])),
  );
const handset = async (number: string) =>
  (await readBench(ctx, SYSTEM)).handsets.find((each) => each.number === number);

describe('scenarios', () => {
  test('keep the switches that are on and the handsets that are off or slow, and bring them back', async () => {
    await setFault(ctx, SYSTEM, { service: 'brackwater', fault: 'creditGone', value: true });
    await setFault(ctx, SYSTEM, { service: 'brackwater', fault: 'delaysTexts', value: 20_000 });
    await setHandset(ctx, SYSTEM, { number: INES, power: 'off' });
    await setHandset(ctx, SYSTEM, { number: TOMAS, delayMs: 5000 });
    await keepScenario(ctx, SYSTEM, '  A bad Monday ');
    await applyScenario(ctx, SYSTEM);
    expect(await faultsOn()).toEqual([]);
    expect(await handset(INES)).toMatchObject({ power: 'on' });
    expect((await handset(TOMAS))?.delayMs).toBeLessThan(1000);

    await setFault(ctx, SYSTEM, { service: 'lockbook', fault: 'down', value: true });
    const [kept] = await listScenarios(ctx, SYSTEM);
    expect(kept).toMatchObject({ name: 'A bad Monday' });
    await applyScenario(ctx, SYSTEM, kept?.id);
    expect((await faultsOn()).sort()).toEqual(['brackwater.creditGone', 'brackwater.delaysTexts']);
    expect(await handset(INES)).toMatchObject({ power: 'off' });
    expect(await handset(TOMAS)).toMatchObject({ power: 'on', delayMs: 5000 });
    await applyScenario(ctx, SYSTEM);
    expect(await faultsOn()).toEqual([]);
  });

  test('need a name and an administrator', async () => {
    await expect(keepScenario(ctx, SYSTEM, '  ')).rejects.toThrow(/name/);
    await expect(keepScenario(ctx, agent, 'x')).rejects.toThrow(/administrator/);
    await expect(applyScenario(ctx, SYSTEM, 'bsc_none')).rejects.toThrow(/scenario/);
  });
});

describe('drills', () => {
  test('every one sets a switch that the bench has, and is found by its causes', async () => {
    const { faults } = await readBench(ctx, SYSTEM);
    for (const { id, fault } of DRILLS) expect(faults[fault.service]?.[fault.fault], id).toBeDefined();
  });

  test('one at a time, its fault out of sight, hints and wrong answers counted, the right one ends it', async () => {
    await beginDrill(ctx, SYSTEM, 'first');
    await expect(beginDrill(ctx, SYSTEM, 'first')).rejects.toThrow(/running already/);
    const drill = drillOf((await ctx.store.drills.one({ ended_at: null }))?.fault ?? '');
    if (!drill) throw new Error('No drill runs');
    expect(await faultsOn()).toEqual([`${drill.fault.service}.${drill.fault.fault}`]);
    const { running } = await listDrills(ctx, SYSTEM);
    expect(running).toMatchObject({ complaint: drill.complaint, hints: [], wrong: [] });
    expect(running).not.toHaveProperty('cause');
    expect(JSON.stringify(running)).not.toContain(drill.causes[0]);

    // Whoever set the bench now would see the fault, or take it away.
    await expect(keepScenario(ctx, SYSTEM, 'What is it')).rejects.toThrow(/drill/);
    await expect(applyScenario(ctx, SYSTEM)).rejects.toThrow(/drill/);
    expect(await drillRuns(ctx)).toBe(true);

    await takeHint(ctx, SYSTEM);
    await expect(guess(ctx, SYSTEM, 'no such cause')).rejects.toThrow(/Choose/);
    expect(await guess(ctx, SYSTEM, 'number-moved')).toEqual({ right: false });
    expect((await listDrills(ctx, SYSTEM)).running).toMatchObject({
      hints: [drill.hints[0]],
      hintsLeft: drill.hints.length - 1,
      wrong: [expect.any(String)],
    });
    expect(await faultsOn()).toHaveLength(1);

    const found = await guess(ctx, SYSTEM, drill.causes[0] as string);
    expect(found).toMatchObject({ right: true, score: expect.any(Number) });
    // A hint and a wrong answer cost 30 of 100; the seconds cost a little more.
    expect(found.score).toBeLessThanOrEqual(70);
    expect(found.score).toBeGreaterThan(60);
    expect(await faultsOn()).toEqual([]);
    const { running: none, past } = await listDrills(ctx, SYSTEM);
    expect(none).toBeUndefined();
    expect(past[0]).toMatchObject({ ending: 'found', cause: { title: expect.any(String) } });
  });

  test('those done least come first, so that none comes again before all have', async () => {
    const first = DRILLS.filter(({ level, fault }) => level === 'first' && fault.service !== 'ostrel');
    for (let time = 1; time < first.length; time++) {
      await beginDrill(ctx, SYSTEM, 'first');
      await giveUp(ctx, SYSTEM);
    }
    const done = (await ctx.store.drills.all()).map(({ fault }) => fault);
    expect(new Set(done).size).toBe(first.length);
    expect(await faultsOn()).toEqual([]);
    expect((await listDrills(ctx, SYSTEM)).past[0]).toMatchObject({ ending: 'given-up', score: 0 });
  });

  test('a bench that is away does not keep anybody in a drill', async () => {
    await beginDrill(ctx, SYSTEM, 'first');
    const { benchUrl } = ctx.config;
    Object.assign(ctx.config, { benchUrl: 'http://127.0.0.1:9' });
    await giveUp(ctx, SYSTEM);
    await expect(beginDrill(ctx, SYSTEM, 'first')).rejects.toThrow(/does not answer/);
    Object.assign(ctx.config, { benchUrl });
    // A drill whose fault could not be set did not begin.
    expect(await drillRuns(ctx)).toBe(false);
    await applyScenario(ctx, SYSTEM);
    expect(await faultsOn()).toEqual([]);
  });

  test('an agent takes no part', async () => {
    await expect(beginDrill(ctx, agent, 'first')).rejects.toThrow(/administrator/);
  });
});
