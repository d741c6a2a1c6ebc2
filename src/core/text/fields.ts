/**
 * Fields of a record as an application posts it: named groups within groups, whatever the
 * application calls them. A field is written as its names joined by dots; a name that
 * holds a dot itself is found as well.
 */
import type { Finding } from '../finding';

export type RecordValue = string | number | boolean | null | RecordValue[] | PostedRecord;
export interface PostedRecord {
  [name: string]: RecordValue;
}

export interface FieldSample {
  /** Names joined by dots. */
  name: string;
  /** As it would be read in a text; empty for an empty field. */
  value: string;
}

/** Deeper or more than this is not offered; it is still found when it is named. */
const DEEPEST = 8;
const MOST = 400;

/** Every field with a value of its own, in the order posted. */
export function listFields(record: PostedRecord): FieldSample[] {
  const fields: FieldSample[] = [];
  const walk = (value: RecordValue, name: string, depth: number) => {
    if (fields.length >= MOST) return;
    if (isGroup(value) && depth < DEEPEST) {
      for (const [key, inner] of Object.entries(value)) walk(inner, `${name}.${key}`, depth + 1);
    } else if (Array.isArray(value) && value.some((entry) => typeof entry === 'object') && depth < DEEPEST) {
      for (const [index, inner] of value.entries()) walk(inner, `${name}.${index}`, depth + 1);
    } else fields.push({ name, value: plainText(value) ?? '' });
  };
  for (const [key, value] of Object.entries(record)) walk(value, key, 1);
  // Two fields may be written alike where names hold dots; only the one that is found by its name is offered.
  return fields.filter(({ name, value }, index) => {
    const first = fields.findIndex((field) => field.name === name) === index;
    return first && (plainText(fieldValue(record, name)) ?? '') === value;
  });
}

function isGroup(value: unknown): value is PostedRecord {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** A value as it may stand in a text; undefined for a group of fields. */
export function plainText(value: unknown): string | undefined {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value)) {
    const entries = value.map(plainText);
    return entries.includes(undefined) ? undefined : entries.join(', ');
  }
  return typeof value === 'object' ? undefined : String(value);
}

/** The value of a field, or undefined where the record has none of this name. */
export function fieldValue(record: PostedRecord, name: string): RecordValue | undefined {
  return valueAt(record, name.split('.'));
}

function valueAt(value: RecordValue, names: readonly string[]): RecordValue | undefined {
  if (names.length === 0) return value;
  if (typeof value !== 'object' || value === null) return undefined;
  // The longest name first, so that "a.b" is found as one name and as two.
  for (let taken = names.length; taken > 0; taken--) {
    const key = names.slice(0, taken).join('.');
    if (Array.isArray(value) ? !/^\d+$/.test(key) || Number(key) >= value.length : !Object.hasOwn(value, key)) continue;
    const found = valueAt((value as PostedRecord)[key] as RecordValue, names.slice(taken));
    if (found !== undefined) return found;
  }
  return undefined;
}

const PLAIN = /^[A-Za-z_][\w-]*$/;
/** Names Liquid reads as something else than a field. */
const TAKEN = new Set(['post', 'true', 'false', 'nil', 'null', 'empty', 'blank']);

/** How a field is written in a text, for Liquid: `{{ guest.first_name }}`, or by its whole name where that has spaces. */
export function mergeField(record: PostedRecord, name: string): string {
  const keys = keysOf(record, name.split('.')) ?? [name];
  const [first = '', ...rest] = keys;
  const start = PLAIN.test(first) && !TAKEN.has(first) ? first : `post${quoted(first)}`;
  return `{{ ${start}${rest.map((key) => (PLAIN.test(key) ? `.${key}` : quoted(key))).join('')} }}`;
}

/** Liquid knows no escapes, so a name with both kinds of quotes can only be written with the one it lacks. */
function quoted(key: string): string {
  if (/^(0|[1-9]\d*)$/.test(key)) return `[${key}]`;
  return key.includes('"') ? `['${key}']` : `["${key}"]`;
}

function keysOf(value: RecordValue, names: readonly string[]): string[] | undefined {
  if (names.length === 0) return [];
  if (typeof value !== 'object' || value === null) return undefined;
  for (let taken = names.length; taken > 0; taken--) {
    const key = names.slice(0, taken).join('.');
    if (!Object.hasOwn(value, key)) continue;
    const rest = keysOf((value as PostedRecord)[key] as RecordValue, names.slice(taken));
    if (rest) return [key, ...rest];
  }
  return undefined;
}

/** What is left of a name when case, spaces and punctuation are not counted. */
const bare = (name: string) => name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

/**
 * Why a record has no field of this name, with the one that was probably meant: another
 * letter case, the label people see instead of the field's name, or a field inside a group.
 */
export function missingField(record: PostedRecord, name: string, place?: Finding['place']): Finding {
  const fields = listFields(record);
  const found = (code: string, problem: string, remedy: string): Finding => ({
    code,
    severity: 'error',
    problem,
    remedy,
    place,
  });
  const sameLetters = fields.find((field) => field.name.toLowerCase() === name.toLowerCase());
  if (sameLetters) {
    return found(
      'field-letter-case',
      `The post has no field “${name}”, but one called “${sameLetters.name}”: capital and small letters count.`,
      `Use ${sameLetters.name}.`,
    );
  }
  const sameWords = fields.find((field) => bare(field.name) === bare(name));
  if (sameWords) {
    return found(
      'field-label',
      `“${name}” is how people read it; the field that is posted is called “${sameWords.name}”.`,
      `Use ${sameWords.name}.`,
    );
  }
  const last = bare(name.split('.').at(-1) ?? name);
  const inside = fields.find((field) => field.name.includes('.') && bare(field.name.split('.').at(-1) ?? '') === last);
  if (inside) {
    return found(
      'field-elsewhere',
      `The post has no field “${name}”; “${inside.name}” is one.`,
      `Use ${inside.name} if that is meant.`,
    );
  }
  const names = fields.map((field) => field.name);
  const known =
    names.length > 0 ? `It has ${names.slice(0, 6).join(', ')}${names.length > 6 ? ' …' : ''}.` : 'It is empty.';
  return found('field-missing', `The post has no field “${name}”. ${known}`, 'Choose a field from a real post.');
}
