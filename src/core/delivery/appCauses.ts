/** What a failed call of an app is called. */
import type { CauseCode } from './causes';

/** A cause about an app, where the catalogue's own is about a provider. */
const APP_CAUSES: Partial<Record<CauseCode, CauseCode>> = {
  'provider-unreachable': 'app-unreachable',
  'provider-timeout': 'app-timeout',
  'provider-error': 'app-error',
  'request-refused': 'record-refused',
  'answered-by-other': 'app-error',
  // Theirs, but it is the app's record that is kept waiting.
  throttled: 'app-error',
  'credential-refused': 'app-credential-refused',
  'credential-expired': 'app-credential-refused',
  'credential-id-unknown': 'app-credential-refused',
  'credential-lacks-permission': 'app-credential-refused',
};

/** The cause of a failed call to an app, from the cause the same answer has at a provider. */
export function appCause(code: CauseCode): CauseCode {
  return APP_CAUSES[code] ?? code;
}
