/**
 * Reads what an app posts to a send hook: one record, as a form or as JSON. Takes time in
 * proportion to the post's length, and refuses a record that only a program gone wrong makes,
 * so that everything done with records afterwards is bounded too.
 */
import type { PostedRecord, RecordValue } from '../text/fields';

export type ReadPost = { ok: true; record: PostedRecord; form: 'form' | 'json' } | { ok: false; reason: string };

/** Fields of a form. */
const MOST_FIELDS = 1000;
/** Values of a JSON record, in all its groups and lists: an order of many lines has far more than a form. */
const MOST_VALUES = 10_000;
/** Groups and lists within each other. */
const DEEPEST = 32;
/** Characters of a field's name. */
const LONGEST_NAME = 200;

/** The content type is believed unless the body plainly says otherwise: many apps send JSON without saying so. */
export function readPost(contentType: string | undefined, body: string): ReadPost {
  const type = (contentType ?? '').split(';')[0]?.trim().toLowerCase() ?? '';
  if (type === 'multipart/form-data')
    return refused('it is a form with files; post the fields alone, as a plain form or as JSON');
  const text = body.replace(/^\ufeff/, '').trim();
  if (text === '') return refused('it is empty');
  if (type.endsWith('json') || /^[[{]/.test(text)) return readJson(text);
  if (type === 'application/x-www-form-urlencoded' || text.includes('=')) return readForm(text);
  return refused('it is neither a form nor JSON');
}

function readJson(text: string): ReadPost {
  let value: RecordValue;
  try {
    value = JSON.parse(text) as RecordValue;
  } catch {
    return refused('it is not whole JSON');
  }
  const record = Array.isArray(value) && value.length === 1 ? (value[0] as RecordValue) : value;
  if (Array.isArray(record)) return refused(`it is a list of ${record.length}; a post carries one record`);
  if (typeof record !== 'object' || record === null) return refused('it is a single value and not a record');
  const problem = shapeProblem(record);
  return problem ? refused(problem) : { ok: true, record, form: 'json' };
}

/** What makes a record too large to work with. Goes through it without recursion, as it may be deeper than the stack. */
function shapeProblem(record: PostedRecord): string | undefined {
  const open: { value: RecordValue; depth: number }[] = [{ value: record, depth: 1 }];
  let values = 0;
  for (let next = open.pop(); next; next = open.pop()) {
    const { value, depth } = next;
    if (typeof value !== 'object' || value === null) continue;
    if (depth > DEEPEST) return `its groups and lists stand more than ${DEEPEST} deep in each other`;
    const long = Array.isArray(value) ? undefined : Object.keys(value).find((name) => name.length > LONGEST_NAME);
    if (long !== undefined) return nameTooLong(long);
    const inner = Object.values(value);
    values += inner.length;
    if (values > MOST_VALUES) return `it has more than ${MOST_VALUES} values`;
    for (const entry of inner) open.push({ value: entry, depth: depth + 1 });
  }
  return undefined;
}

function nameTooLong(name: string): string {
  return `the name of a field is longer than ${LONGEST_NAME} characters: “${name.slice(0, 40)}…”`;
}

/** A name that comes more than once holds a list. */
function readForm(text: string): ReadPost {
  // Counted before any is read: reading tens of thousands takes a while.
  let fields = 1;
  for (let at = text.indexOf('&'); at >= 0; at = text.indexOf('&', at + 1)) fields += 1;
  if (fields > MOST_FIELDS) return refused(`it has more than ${MOST_FIELDS} fields`);
  const record = new Map<string, string | string[]>();
  for (const [name, value] of new URLSearchParams(text)) {
    if (name.length > LONGEST_NAME) return refused(nameTooLong(name));
    const before = record.get(name);
    if (before === undefined) record.set(name, value);
    else if (Array.isArray(before)) before.push(value);
    else record.set(name, [before, value]);
  }
  return { ok: true, record: Object.fromEntries(record), form: 'form' };
}

function refused(reason: string): ReadPost {
  return { ok: false, reason };
}
