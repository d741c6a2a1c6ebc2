/** What the bench is set to, kept under a name and brought back. */
import { CARRIED_IN, isSlow } from '../../core/drill/handsets';
import { newId } from '../../store/ids';
import type { BenchScenarioRow } from '../../store/schema/rows';
import { type Actor, type AppContext, found, OperationError, requireRole } from '../context';
import { readBench, setFault, setHandset } from './bench';
import { refuseDuringDrill } from './duringDrill';

export async function listScenarios(ctx: AppContext, actor: Actor): Promise<BenchScenarioRow[]> {
  requireRole(actor, 'viewer');
  return ctx.store.benchScenarios.all(undefined, { order: [['name', 'ASC']] });
}

/** Keeps the faults that are on, and the handsets that are off or slow. */
export async function keepScenario(ctx: AppContext, actor: Actor, given: string): Promise<void> {
  requireRole(actor, 'administrator');
  const name = given.trim().slice(0, 80);
  if (!name) throw new OperationError('invalid', 'A scenario needs a name.');
  await refuseDuringDrill(ctx);
  const { faults, handsets } = await readBench(ctx, actor);
  const at = ctx.now();
  await ctx.store.write((unit) =>
    unit.benchScenarios.insert([
      {
        id: newId('bsc', at),
        name,
        faults: Object.fromEntries(
          Object.entries(faults).flatMap(([service, switches]) => {
            const on = Object.entries(switches).filter(([, value]) => Boolean(value));
            return on.length > 0 ? [[service, Object.fromEntries(on)]] : [];
          }),
        ),
        handsets: handsets
          .filter((handset) => handset.power === 'off' || isSlow(handset))
          .map(({ number, power, delayMs }) => ({ number, power, delayMs })),
        by: actor.name,
        at,
      },
    ]),
  );
}

/** Brings a scenario back: what it does not name is set well. Without one, everything is. */
export async function applyScenario(ctx: AppContext, actor: Actor, id?: string): Promise<void> {
  requireRole(actor, 'administrator');
  await refuseDuringDrill(ctx);
  const scenario = id ? found(await ctx.store.benchScenarios.one({ id }), 'scenario') : undefined;
  const { faults, handsets } = await readBench(ctx, actor);
  for (const [service, switches] of Object.entries(faults))
    for (const [fault, value] of Object.entries(switches)) {
      const wanted = scenario?.faults[service]?.[fault] ?? (typeof value === 'number' ? 0 : false);
      if (wanted !== value) await setFault(ctx, actor, { service, fault, value: wanted });
    }
  for (const handset of handsets) {
    const { number, power, delayMs } = handset;
    const well = { power: 'on' as const, delayMs: isSlow(handset) ? CARRIED_IN.usual : delayMs };
    const wanted = scenario?.handsets.find((each) => each.number === number) ?? well;
    if (wanted.power !== power || wanted.delayMs !== delayMs)
      await setHandset(ctx, actor, { number, power: wanted.power, delayMs: wanted.delayMs });
  }
}

export async function removeScenario(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write((unit) => unit.benchScenarios.remove({ id }));
}
