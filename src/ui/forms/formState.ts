import type { Finding } from '../../core/finding';

/** What a form knows after it was sent. */
export type FormState =
  | { status: 'new' }
  | { status: 'done'; message?: string; values?: Record<string, string> }
  | { status: 'refused'; message: string; findings: { field: string; finding: Finding }[] };

export const NEW_FORM: FormState = { status: 'new' };

export function findingFor(state: FormState, field: string): Finding | undefined {
  return state.status === 'refused' ? state.findings.find((entry) => entry.field === field)?.finding : undefined;
}
