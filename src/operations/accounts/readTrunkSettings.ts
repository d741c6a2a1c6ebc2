import { settingsOf, type TrunkDialect, type TrunkSettings, trunkSettings } from '../../connectors/smpp/dialect';
import { OperationError } from '../context';

/** The settings of a trunk as they would be with what is given. Throws with a finding at each field that cannot be as it is. */
export function readTrunkSettings(
  dialect: TrunkDialect,
  saved: Record<string, unknown>,
  given: Record<string, unknown>,
): TrunkSettings {
  const parsed = trunkSettings.safeParse({ ...settingsOf(dialect, saved), ...given });
  if (parsed.success) return parsed.data;
  const findings = parsed.error.issues.map((issue) => ({
    field: String(issue.path[0] ?? 'form'),
    finding: { code: 'setting', severity: 'error' as const, problem: issue.message, remedy: 'Correct the value.' },
  }));
  throw new OperationError('invalid', 'A setting cannot be as it is.', findings);
}
