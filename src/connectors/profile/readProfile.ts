/** Reads a profile's YAML, with findings that name their place in the text. */
import { LineCounter, parseDocument } from 'yaml';
import type { z } from 'zod';
import type { Finding } from '../../core/finding';
import { type Profile, profileSchema } from './schema';

/** Characters; the longest that ships has a tenth of it. */
const LONGEST_PROFILE = 200_000;
/** Nobody reads more at once, and each costs a look through the text. */
const MOST_FINDINGS = 50;

export type Reading<Document> = { ok: true; profile: Document } | { ok: false; findings: Finding[] };
export type ProfileReading = Reading<Profile>;

/** Everything that is wrong with a profile, each with its place as UTF-16 offsets. */
export function examineProfile(text: string): ProfileReading {
  return examineDocument(text, profileSchema);
}

/** The same for a profile of any schema that asks for credentials. */
export function examineDocument<Document extends { credentials: { name: string }[] }>(
  text: string,
  schema: z.ZodType<Document>,
): Reading<Document> {
  if (text.length > LONGEST_PROFILE)
    return {
      ok: false,
      findings: [finding(`The profile has more than ${LONGEST_PROFILE} characters.`, { from: 0, to: 1 })],
    };
  const document = parseDocument(text, { lineCounter: new LineCounter(), prettyErrors: false });
  if (document.errors.length > 0) {
    const findings = document.errors
      .slice(0, MOST_FINDINGS)
      .map((error) => finding(error.message, { from: error.pos[0], to: Math.max(error.pos[1], error.pos[0] + 1) }));
    return { ok: false, findings };
  }
  const value = plainValue(document);
  if (value instanceof Error) return { ok: false, findings: [finding(value.message, { from: 0, to: 1 })] };
  const result = schema.safeParse(value);
  if (result.success) {
    const unknown = unknownCredentials(result.data).map(({ name, path }) =>
      finding(`${path.join('.')}: the profile asks for no credential “${name}”`, placeIn(text)(path)),
    );
    return unknown.length > 0 ? { ok: false, findings: unknown } : { ok: true, profile: result.data };
  }
  const placeOf = placeIn(text);
  const findings = result.error.issues.slice(0, MOST_FINDINGS).flatMap((issue) => {
    const named =
      issue.code === 'unrecognized_keys'
        ? issue.keys.slice(0, MOST_FINDINGS).map((key) => [...issue.path, key])
        : [issue.path];
    const message = issue.message.length > 300 ? `${issue.message.slice(0, 300)}…` : issue.message;
    return named.map((path) => finding(`${path.join('.') || 'The profile'}: ${message}`, placeOf(path)));
  });
  return { ok: false, findings };
}

/** The line of a text at which the value at a path stands, from 1; the nearest one around it where there is none. */
export function lineOf(text: string, path: readonly PropertyKey[]): number {
  return text.slice(0, placeIn(text)(path).from).split('\n').length;
}

/** Gives the range of the value at a path of a text, or of the nearest one around it that exists. */
export function placeIn(text: string): (path: readonly PropertyKey[]) => { from: number; to: number } {
  const document = parseDocument(text, { prettyErrors: false });
  return (path) => {
    for (let length = path.length; length > 0; length--) {
      const node = document.getIn(path.slice(0, length), true) as { range?: [number, number, number] } | undefined;
      if (node?.range) return { from: node.range[0], to: node.range[1] };
    }
    return { from: 0, to: 1 };
  };
}

/** The document as plain values; aliases that would unfold into far more than was written are refused (YAML 1.2.2 §3.2.2.2). */
function plainValue(written: ReturnType<typeof parseDocument>): unknown {
  try {
    return written.toJS({ maxAliasCount: 50 });
  } catch (error) {
    return error as Error;
  }
}

/** Credentials that templates name and that nobody is asked for. */
function unknownCredentials(profile: { credentials: { name: string }[] }): { name: string; path: PropertyKey[] }[] {
  const asked = new Set(profile.credentials.map((field) => field.name));
  const found: { name: string; path: PropertyKey[] }[] = [];
  walk(profile, []);
  return found;

  function walk(value: unknown, path: PropertyKey[]): void {
    if (typeof value === 'string') {
      for (const [, inside] of value.matchAll(/\{[{%](.*?)[%}]\}/gs))
        for (const [, name] of (inside ?? '').matchAll(/\bcredentials\.(\w+)/g))
          if (name && !asked.has(name)) found.push({ name, path });
    } else if (Array.isArray(value)) {
      for (const [index, entry] of value.entries()) walk(entry, [...path, index]);
    } else if (typeof value === 'object' && value !== null) {
      for (const [name, entry] of Object.entries(value)) walk(entry, [...path, name]);
    }
  }
}

function finding(problem: string, place: Finding['place']): Finding {
  return {
    code: 'profile-invalid',
    severity: 'error',
    problem,
    remedy: 'Compare with the schema; Ctrl and Space offers what may stand here.',
    place,
  };
}

/** Throws with the name and every finding when the profile is not right. */
export function readProfile(text: string, name: string): Profile {
  const reading = examineProfile(text);
  if (reading.ok) return reading.profile;
  throw new Error(`Connector profile ${name}:\n${reading.findings.map(({ problem }) => problem).join('\n')}`);
}
