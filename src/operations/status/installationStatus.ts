/** How the installation stands as a whole, from what the engine wrote down last. */
import { type Status, statusOf } from '../../core/installationStatus';
import type { AppContext } from '../context';
import { countErrors } from '../readiness';
import { getInstallation } from '../shell';

export interface InstallationStatus {
  name: string;
  kind: 'test' | 'live';
  status: Status;
  engine: boolean;
  /** Findings that are errors. */
  broken: number;
  /** Epoch milliseconds. */
  at: number;
}

export async function readStatus(ctx: AppContext): Promise<InstallationStatus> {
  const [{ name, kind }, { errors, engineSilent }, rows] = await Promise.all([
    getInstallation(ctx),
    countErrors(ctx),
    ctx.store.select<{ attention: number; parts: number }>(
      `SELECT (SELECT count(*) FROM alerts WHERE closed_at IS NULL AND severity = 'attention') AS attention,
              (SELECT count(*) FROM readiness_parts) AS parts`,
    ),
  ]);
  const { attention = 0, parts = 0 } = rows[0] ?? {};
  const engine = !engineSilent;
  return {
    name,
    kind,
    status: statusOf({ engine, errors, attention, examined: parts > 0 }),
    engine,
    broken: errors,
    at: ctx.now(),
  };
}
