/**
 * Puts a record's fields into a text (Liquid merge fields). What cannot be filled is a
 * finding, never a raw token or an empty place on somebody's phone.
 */
import { Context, type Template } from 'liquidjs';
import type { Finding } from '../finding';
import { missingField, type PostedRecord, plainText } from './fields';
import { createLiquid, TAGS } from './liquid';

export interface Merged {
  /** The text, whole only when there is no finding. */
  text: string;
  /** Each with its place in the template. */
  findings: Finding[];
}

/** What one merge has to say of the values it puts in; rendering is synchronous, so there is one at a time. */
let noted: ((value: unknown) => string) | undefined;

const liquid = createLiquid({
  // A fallback may stand in for a field that is not there: {{ name | default: "boater" }}.
  lenientIf: true,
  outputEscape: (value: unknown) => noted?.(value) ?? '',
});

/** An unfilled token of this or another program, as it comes in a value when the program before us did not fill it. */
export const TOKEN = /\{\{[^{}]*\}\}|\{%.*?%\}/;

/** The merge fields that nothing has filled, as they are written, each once. */
export function tokensIn(text: string): string[] {
  return [...new Set(text.match(new RegExp(TOKEN, 'g')) ?? [])];
}

export interface MergeOptions {
  /** What looks like an unfilled token in a value may stay: people's own words are passed on, not an app's. */
  tokensMayStay?: boolean;
}

export function mergeText(template: string, record: PostedRecord, { tokensMayStay }: MergeOptions = {}): Merged {
  let parts: Template[];
  try {
    parts = read(template);
  } catch (error) {
    return { text: '', findings: [broken(error)] };
  }
  const context = new Context({ ...record, post: record }, liquid.options, { sync: true });
  const findings: Finding[] = [];
  let text = '';
  for (const part of parts) {
    const { begin: from, end: to, input } = part.token;
    const place = { from, to };
    const written = input.slice(from, to);
    noted = (value) => {
      const finding = valueFinding(value, written, place);
      if (finding && !(tokensMayStay && finding.code === 'field-token')) findings.push(finding);
      return plainText(value) ?? '';
    };
    try {
      text += String(liquid.renderSync([part], context));
    } catch (error) {
      findings.push(missingIn(error, part, record, place) ?? broken(error, place));
    } finally {
      noted = undefined;
    }
    if (text.length > LONGEST) return { text: '', findings: [...findings, tooLong()] };
  }
  return { text, findings };
}

/** The text read last: a message for many people is read once. */
let latest: { template: string; parts: Template[] } | undefined;

function read(template: string): Template[] {
  if (latest?.template !== template) latest = { template, parts: liquid.parse(template) };
  return latest.parts;
}

function valueFinding(value: unknown, written: string, place: Finding['place']): Finding | undefined {
  const finding = (code: string, problem: string, remedy: string): Finding => ({
    code,
    severity: 'error',
    problem,
    remedy,
    place,
  });
  const plain = plainText(value);
  if (plain === undefined)
    return finding('field-group', `${written} is a group of fields, not a value.`, 'Choose a field inside the group.');
  if (plain.trim() === '') {
    const remedy = 'Have the app fill it, or add what to say instead: {{ field | default: "…" }}.';
    return finding('field-empty', `${written} came empty.`, remedy);
  }
  if (TOKEN.test(plain))
    return finding(
      'field-token',
      `The value of ${written} is itself an unfilled merge field: ${plain.slice(0, 60)}.`,
      'Fix it in the app that posts: it sent its own placeholder instead of the value.',
    );
  return undefined;
}

/** Liquid names only as much of a path as it followed; the reader wrote the whole. */
function missingIn(error: unknown, part: Template, record: PostedRecord, place: Finding['place']): Finding | undefined {
  const followed = /undefined variable: (.+?)(?:, line|$)/m.exec((error as Error).message)?.[1];
  if (followed === undefined) return undefined;
  const paths = liquid.globalVariableSegmentsSync([part]).map((path) => path.map(String).join('.'));
  const whole = paths.find((path) => path === followed || path.startsWith(`${followed}.`)) ?? followed;
  return missingField(record, whole.replace(/^post\./, ''), place);
}

/** Characters of one merged text: more than any channel carries, and few enough to work with. */
const LONGEST = 20_000;

function tooLong(): Finding {
  return {
    code: 'merge-too-long',
    severity: 'error',
    problem: `The text becomes longer than ${LONGEST} characters.`,
    remedy: 'Leave out the loop or the field that makes it so long.',
  };
}

function broken(error: unknown, place?: Finding['place']): Finding {
  const said = (error as Error).message.replace(/, line:\d+, col:\d+[\s\S]*$/, '');
  const unknown = /^tag "(.*)" not found$/.exec(said)?.[1];
  if (unknown !== undefined)
    return {
      code: 'merge-broken',
      severity: 'error',
      problem: `“${unknown}” is no tag that a text may use.`,
      remedy: `These are: ${TAGS.filter((name) => /\w/.test(name)).join(', ')}.`,
      place,
    };
  return {
    code: 'merge-broken',
    severity: 'error',
    problem: `The text cannot be read as it stands: ${said}.`,
    remedy: 'A field is written {{ name }}, with two braces on each side.',
    place,
  };
}
