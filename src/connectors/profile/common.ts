/** What every connector made from a profile has, whatever it speaks. */
import { compilePattern } from '../../core/text/pattern';
import type { Connector, CredentialField } from '../connector';
import { examineCredentials } from '../http/examine';
import type { Profile } from './schema';

type Common = Pick<
  Connector,
  | 'id'
  | 'name'
  | 'summary'
  | 'kind'
  | 'prices'
  | 'preconditions'
  | 'credentialFields'
  | 'handover'
  | 'examineCredentials'
>;

/** Credentials as forms ask for them. */
export function credentialFields(profile: Pick<Profile, 'credentials'>): CredentialField[] {
  return profile.credentials.map((field) => ({
    ...field,
    pattern: patternOf(field.pattern),
  }));
}

/** What is no pattern was refused when the profile was read; here it tells nothing about a value. */
function patternOf(source: string | undefined): CredentialField['pattern'] {
  const compiled = source ? compilePattern(source) : undefined;
  return typeof compiled === 'object' ? compiled : undefined;
}

export function common(profile: Profile): Common {
  const fields = credentialFields(profile);
  return {
    id: profile.id,
    name: profile.name,
    summary: profile.summary,
    kind: profile.kind,
    prices: (profile.prices ?? []).map(({ perPart, ...line }) => ({ ...line, micros: Math.round(perPart * 1e6) })),
    preconditions: profile.preconditions.map((entry) => (typeof entry === 'string' ? { text: entry } : entry)),
    credentialFields: fields,
    handover: profile.handover,
    examineCredentials: (credentials) => examineCredentials(fields, credentials),
  };
}
