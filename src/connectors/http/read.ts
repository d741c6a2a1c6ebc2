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

/** All values at a path as texts. Undefined without a path: not told is not the same as none. */
export function texts(node: Json, path: string | undefined): string[] | undefined {
  return path === undefined ? undefined : nodes(node, path).map(String);
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

/** Epoch milliseconds from an ISO time or from seconds since 1970. */
export function time(node: Json, path: string | undefined): number | undefined {
  const text = optional(node, path);
  if (text === undefined) return undefined;
  const parsed = /^\d{9,10}$/.test(text) ? Number(text) * 1000 : Date.parse(text);
  return Number.isNaN(parsed) ? undefined : parsed;
}

/** Decimal amount → integer micro-units. */
export function micros(node: Json, path: string | undefined): number | undefined {
  const text = optional(node, path);
  const amount = Number(text);
  return text !== undefined && Number.isFinite(amount) ? Math.round(amount * 1e6) : undefined;
}

export function money(node: Json, amountPath: string | undefined, currencyPath: string | undefined) {
  const amount = micros(node, amountPath);
  const currency = optional(node, currencyPath);
  return amount !== undefined && currency ? { micros: amount, currency } : undefined;
}
