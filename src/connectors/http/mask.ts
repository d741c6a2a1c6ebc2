/**
 * Removes secrets from what is kept of a request. A header that carries credentials is
 * masked whole; the credential values themselves are masked wherever they appear.
 */
import type { Credentials } from '../connector';

const TELLING_HEADERS = /^(authorization|proxy-authorization|cookie|set-cookie|x-api-key)$/i;
export const MASK = '••••••';

export function maskHeaders(headers: Record<string, string>, secrets: readonly string[]): Record<string, string> {
  return Object.fromEntries(
    Object.entries(headers).map(([name, value]) => [
      name,
      TELLING_HEADERS.test(name) ? MASK : maskText(value, secrets),
    ]),
  );
}

export function maskText(text: string, secrets: readonly string[]): string {
  return secrets.reduce((masked, secret) => {
    if (secret === '') return masked;
    return secret.length >= SURELY_MEANT ? masked.replaceAll(secret, MASK) : masked.replace(alone(secret), MASK);
  }, text);
}

/** What is as long as that is not found by accident in the middle of something else. */
const SURELY_MEANT = 6;

/** A short secret where it stands alone: inside a longer word it is a part of that word. */
function alone(secret: string): RegExp {
  const plain = secret.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
  return new RegExp(`(?<![\\p{L}\\p{N}])${plain}(?![\\p{L}\\p{N}])`, 'gu');
}

export function secretValues(fields: readonly { name: string; secret: boolean }[], credentials: Credentials): string[] {
  return fields.filter((field) => field.secret).map((field) => credentials[field.name] ?? '');
}

/** The credentials with a mask in the place of each secret. */
export function withoutSecrets(
  fields: readonly { name: string; secret: boolean }[],
  credentials: Credentials,
): Credentials {
  const secret = new Set(fields.filter((field) => field.secret).map(({ name }) => name));
  return Object.fromEntries(
    Object.entries(credentials).map(([name, value]) => [name, secret.has(name) ? MASK : value]),
  );
}
