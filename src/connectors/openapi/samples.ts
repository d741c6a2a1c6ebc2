/** Samples as people copy them: a body, with the first line and the headers above it where they have them. */
import { parseForm, parseJson } from '../http/read';

export interface Sample {
  /** Id of the call it answers, or “post” for what was posted to us. */
  of: string;
  text: string;
}

export interface ReadSample {
  of: string;
  /** Of an answer; 200 where none is written. */
  status: number;
  /** Of a post, whole, where it is written. */
  url: string;
  headers: Record<string, string>;
  body: string;
  format: 'json' | 'form';
  value: unknown;
}

const FIRST_LINE = /^(?:HTTP\/[\d.]+ +(?<status>\d{3})|(?:GET|POST|PUT|PATCH) +(?<url>\S+))/i;
const HEADER = /^(?<name>[A-Za-z0-9-]+): ?(?<value>.*)$/;

/** Undefined for what is neither JSON nor a form. */
export function readSample({ of, text }: Sample): ReadSample | undefined {
  const lines = text.replaceAll('\r\n', '\n').trimStart().split('\n');
  const first = FIRST_LINE.exec(lines[0] ?? '');
  if (first) lines.shift();
  const headers: Record<string, string> = {};
  while (lines.length > 0) {
    const header = HEADER.exec(lines[0] ?? '');
    if (!header?.groups) break;
    headers[(header.groups.name ?? '').toLowerCase()] = (header.groups.value ?? '').trim();
    lines.shift();
  }
  const body = lines.join('\n').replace(/^\n+/, '').trimEnd();
  if (body === '') return undefined;
  const json = parseJson(body);
  const isForm = json === undefined && /^[\w.%+~[\]-]+=/.test(body) && !body.includes('\n');
  if (json === undefined && !isForm) return undefined;
  return {
    of,
    status: Number(first?.groups?.status ?? 200),
    url: first?.groups?.url ?? '',
    headers,
    body,
    format: isForm ? 'form' : 'json',
    value: isForm ? (parseForm(body) as unknown[])[0] : json,
  };
}
