/** Reading answers and posts by JSONPath (RFC 9535). */
import { type Json, nodes } from './jsonPath';

export function parseJson(text: string): Json | undefined {
  try {
    return JSON.parse(text) as Json;
  } catch {
    return undefined;
  }
}

/**
 * A posted form as a list with one object, so that a path can choose by a field of it. A
 * field that comes more than once keeps its last value.
 */
export function parseForm(text: string): Json {
  return [Object.fromEntries(new URLSearchParams(text))] as Json;
}

/** All values at a path as texts. Undefined without a path, and where the list itself is missing: not told is not none. */
export function texts(node: Json, path: string | undefined): string[] | undefined {
  return path === undefined ? undefined : listAt(node, path)?.map(String);
}

/** All values at a path; undefined where the list they would stand in is missing. */
export function listAt(node: Json, path: string): Json[] | undefined {
  const found = nodes(node, path);
  return found.length > 0 || isThere(node, path.replace(/\[\*\]$/, '')) ? found : undefined;
}

const isThere = (node: Json, path: string) => nodes(node, path).length > 0;

/** Those of some paths that find nothing in an answer, by the name of what they are read for. */
export function foundNothing(node: Json, read: Readonly<Record<string, unknown>>): { name: string; path: string }[] {
  return Object.entries(read).flatMap(([name, path]) =>
    typeof path === 'string' && path.startsWith('$') && !isThere(node, path.replace(/\[\*\]$/, ''))
      ? [{ name, path }]
      : [],
  );
}

export function optional(node: Json, path: string | undefined): string | undefined {
  if (!path) return undefined;
  const found = nodes(node, path)[0];
  return found === undefined || found === null ? undefined : String(found);
}

/** Throws with the path when there is nothing. */
export function required(node: Json, path: string): string {
  const found = optional(node, path);
  if (found === undefined) throw new Error(`nothing at ${path}`);
  return found;
}

export function flag(node: Json, path: string | undefined): boolean | undefined {
  const text = optional(node, path);
  return text === undefined ? undefined : ['true', '1', 'yes', 'on'].includes(text.toLowerCase());
}

export function wholeNumber(node: Json, path: string | undefined): number | undefined {
  const number = Number(optional(node, path));
  return Number.isInteger(number) ? number : undefined;
}

/** Digits of a time since 1970 in each unit, for the years 2001 to 2286, and how many of the unit a millisecond has. */
const EPOCH_UNITS: readonly (readonly [digits: number, perMs: number])[] = [
  [10, 0.001],
  [13, 1],
  [16, 1000],
  [19, 1_000_000],
];

/** A date and time of ISO 8601 without a zone, which would be taken for the time of wherever this runs. */
const WITHOUT_ZONE = /^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d([.,]\d+)?)?$/;

/** Epoch milliseconds from an ISO 8601 time, UTC where it has no zone, or from seconds, ms, µs or ns since 1970. */
export function time(node: Json, path: string | undefined): number | undefined {
  const text = optional(node, path)?.trim();
  if (text === undefined) return undefined;
  const epoch = /^(\d{9,19})(\.\d+)?$/.exec(text);
  const unit = epoch && EPOCH_UNITS.find(([digits]) => (epoch[1] as string).length <= digits);
  if (unit) return Math.round(Number(text) / unit[1]);
  // A year alone, or digits that are no time, would be read as some day.
  if (/^[\d.]*$/.test(text)) return undefined;
  const parsed = Date.parse(WITHOUT_ZONE.test(text) ? `${text.replace(' ', 'T').replace(',', '.')}Z` : text);
  return Number.isNaN(parsed) ? undefined : parsed;
}

/** In which unit a provider writes amounts: pounds, pence, or millionths of a pound. */
export const AMOUNT_UNITS = ['major', 'minor', 'micro'] as const;
export type AmountUnit = (typeof AMOUNT_UNITS)[number];

/** An amount of a currency in integer micro-units, from how the provider writes it. */
export function micros(
  node: Json,
  path: string | undefined,
  { unit = 'major', currency }: { unit?: AmountUnit; currency?: string } = {},
): number | undefined {
  const text = optional(node, path);
  const amount = Number(text);
  if (text === undefined || text.trim() === '' || !Number.isFinite(amount)) return undefined;
  return Math.round(amount * (unit === 'major' ? 1e6 : unit === 'micro' ? 1 : 1e6 / 10 ** decimalsOf(currency)));
}

/** Decimals of a currency (ISO 4217): 2 for most, 0 for yen; 2 for what is no currency. */
function decimalsOf(currency: string | undefined): number {
  if (!currency || !/^[A-Za-z]{3}$/.test(currency)) return 2;
  return new Intl.NumberFormat('en', { style: 'currency', currency }).resolvedOptions().maximumFractionDigits ?? 2;
}

export function money(
  node: Json,
  amountPath: string | undefined,
  currencyPath: string | undefined,
  unit: AmountUnit = 'major',
) {
  const currency = optional(node, currencyPath);
  const amount = micros(node, amountPath, { unit, currency });
  return amount !== undefined && currency ? { micros: amount, currency } : undefined;
}
