/** What every step of a route is done with, and how it says that it could not be. */
import type { RouteOp } from '../../core/routing/program';
import type { Outcome } from '../../core/steps/run';
import type { RunRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { numberOf } from '../contacts';
import { type Actor, noteChanges } from '../context';

export type Op<Kind extends RouteOp['do']> = Extract<RouteOp, { do: Kind }>;

export function refused(code: string, problem: string, remedy: string): Outcome {
  return { kind: 'failed', finding: { code, severity: 'error', problem, remedy } };
}

export function routeActor(run: RunRow): Actor {
  return { kind: 'route', id: run.source_id, name: run.memory.route ?? 'A route' };
}

export async function setAttribute(
  unit: Unit,
  contact_id: string,
  name: string,
  value: string,
  at: number,
): Promise<void> {
  const text = value.trim().slice(0, 1000);
  if (text === '') await unit.contactAttributes.remove({ contact_id, name });
  else await unit.contactAttributes.put({ contact_id, name, value: text, number: numberOf(text) });
  await noteChanges(unit, at, [['contact', contact_id]]);
}
