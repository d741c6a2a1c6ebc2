/** What can be told about typed credentials before anybody is called. */
import type { Finding } from '../../core/finding';
import type { CredentialField, Credentials } from '../connector';

export function examineCredentials(fields: readonly CredentialField[], credentials: Credentials) {
  const findings = fields.flatMap((field) => {
    const finding = examineValue(field, credentials[field.name] ?? '');
    return finding ? [{ field: field.name, finding }] : [];
  });
  const swapped = findSwapped(fields, credentials);
  return swapped ? [swapped, ...findings.filter((entry) => !swapped.fields.includes(entry.field))] : findings;
}

function examineValue(field: CredentialField, value: string): Finding | undefined {
  if (value.trim() === '') {
    return { code: 'credential-empty', severity: 'error', problem: `${field.label} is empty.`, remedy: field.help };
  }
  const stray = /^[\s\u200b\ufeff"']+|[\s\u200b\ufeff"']+$/.exec(value);
  if (stray) {
    const where = stray.index === 0 ? 'before' : 'after';
    const what = /["']/.test(stray[0]) ? 'a quotation mark' : 'a space';
    return {
      code: 'credential-stray',
      severity: 'error',
      problem: `There is ${what} ${where} the ${field.label.toLowerCase()}.`,
      remedy: 'It was probably copied along. Remove it.',
      place: { from: stray.index, to: stray.index + stray[0].length },
    };
  }
  if (!field.pattern || field.pattern.test(value)) return undefined;
  return isTruncated(field.pattern, value)
    ? {
        code: 'credential-truncated',
        severity: 'error',
        problem: `The ${field.label.toLowerCase()} looks cut short: ${value.length} characters.`,
        remedy: 'Copy it again with the provider’s own copy button.',
      }
    : {
        code: 'credential-shape',
        severity: 'error',
        problem: `This does not look like the ${field.label.toLowerCase()}.`,
        remedy: field.help,
      };
}

/** A value that would fit if it went on: filling it up with characters of its own kind makes it match. */
function isTruncated(pattern: NonNullable<CredentialField['pattern']>, value: string): boolean {
  if (value.length < 3) return false;
  for (let missing = 1; missing <= 48; missing++) if (pattern.test(value + '0'.repeat(missing))) return true;
  return false;
}

function findSwapped(fields: readonly CredentialField[], credentials: Credentials) {
  for (const [index, one] of fields.entries()) {
    for (const other of fields.slice(index + 1)) {
      if (!one.pattern || !other.pattern) continue;
      const first = (credentials[one.name] ?? '').trim();
      const second = (credentials[other.name] ?? '').trim();
      const swapped =
        one.pattern.test(second) &&
        other.pattern.test(first) &&
        !one.pattern.test(first) &&
        !other.pattern.test(second);
      if (swapped) {
        const finding: Finding = {
          code: 'credential-swapped',
          severity: 'error',
          problem: `${one.label} and ${other.label.toLowerCase()} are swapped.`,
          remedy: 'Exchange the two values.',
        };
        return { field: one.name, fields: [one.name, other.name], finding };
      }
    }
  }
  return undefined;
}
