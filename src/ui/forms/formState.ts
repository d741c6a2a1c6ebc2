import type { Finding } from '../../core/finding';

export type AskWhy = 'confirm' | 'signed-out';

/** Nothing was done yet: whoever asked has to show that it is they, or to sign in. See `throughAsking`. */
export interface Asks {
  status: 'ask';
  why: AskWhy;
}

/** What an error says to the browser when the session had ended. */
export const SIGNED_OUT = 'windgap-signed-out';

/** Where pages of one browser hear that somebody signed in. */
export const SIGNED_IN_CHANNEL = 'windgap-signed-in';

/** What a form knows after it was sent. */
export type FormState =
  | { status: 'new' }
  | Asks
  | { status: 'done'; message?: string; values?: Record<string, string> }
  | { status: 'refused'; message: string; findings: { field: string; finding: Finding }[] };

export const NEW_FORM: FormState = { status: 'new' };

export function findingFor(state: FormState, field: string): Finding | undefined {
  return state.status === 'refused' ? state.findings.find((entry) => entry.field === field)?.finding : undefined;
}
