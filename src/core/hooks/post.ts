/** Reads what an app posts to a send hook: one record, as a form or as JSON. */
import type { PostedRecord, RecordValue } from '../text/fields';

export type ReadPost = { ok: true; record: PostedRecord; form: 'form' | 'json' } | { ok: false; reason: string };

/** The content type is believed unless the body plainly says otherwise: many apps send JSON without saying so. */
export function readPost(contentType: string | undefined, body: string): ReadPost {
  const type = (contentType ?? '').split(';')[0]?.trim().toLowerCase() ?? '';
  if (type === 'multipart/form-data')
    return refused('it is a form with files; post the fields alone, as a plain form or as JSON');
  const text = body.replace(/^\ufeff/, '').trim();
  if (text === '') return refused('it is empty');
  if (type.endsWith('json') || /^[[{]/.test(text)) return readJson(text);
  if (type === 'application/x-www-form-urlencoded' || text.includes('='))
    return { ok: true, record: readForm(text), form: 'form' };
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
  return { ok: true, record, form: 'json' };
}

/** A name that comes more than once holds a list. */
function readForm(text: string): PostedRecord {
  const record: PostedRecord = Object.create(null);
  for (const [name, value] of new URLSearchParams(text)) {
    const before = record[name];
    record[name] = before === undefined ? value : Array.isArray(before) ? [...before, value] : [before, value];
  }
  return { ...record };
}

function refused(reason: string): ReadPost {
  return { ok: false, reason };
}
