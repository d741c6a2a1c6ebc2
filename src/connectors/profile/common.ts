/** What every connector made from a profile has, whatever it speaks. */
import { channelKind } from '../../core/connect/channelKinds';
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
  | 'handsOverAddress'
  | 'prices'
  | 'preconditions'
  | 'credentialFields'
  | 'handover'
  | 'secretPlaces'
  | 'examineCredentials'
>;

/** Credentials as forms ask for them. */
export function credentialFields(profile: Pick<Profile, 'credentials'>): CredentialField[] {
  return profile.credentials.map((field) => ({
    ...field,
    pattern: patternOf(field.pattern),
  }));
}

/** Paths of the templates that hold a secret, or all credentials at once. */
function secretPlaces(profile: Profile): string[] {
  const secret = new Set(profile.credentials.filter((field) => field.secret).map(({ name }) => name));
  const places: string[] = [];
  const walk = (node: unknown, path: string) => {
    if (typeof node === 'object' && node !== null)
      for (const [name, inner] of Object.entries(node)) walk(inner, path ? `${path}.${name}` : name);
    if (typeof node !== 'string' || !/\{[{%]/.test(node)) return;
    const named = [...node.matchAll(/\bcredentials\b(?:\.(\w+))?/g)];
    if (named.some(([, name]) => name === undefined || secret.has(name))) places.push(path);
  };
  walk(profile, '');
  return places;
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
    handsOverAddress: channelKind(profile.kind).handsOverAddress,
    prices: (profile.prices ?? []).map(({ perPart, ...line }) => ({ ...line, micros: Math.round(perPart * 1e6) })),
    preconditions: profile.preconditions.map((entry) => (typeof entry === 'string' ? { text: entry } : entry)),
    credentialFields: fields,
    handover: profile.handover,
    secretPlaces: secretPlaces(profile),
    examineCredentials: (credentials) => examineCredentials(fields, credentials),
  };
}
