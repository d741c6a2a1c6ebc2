/**
 * What a text costs by a price list: for a country, a range of numbers or the rest, and where it matters for a kind of
 * number. Money is in micro-units of an ISO 4217 currency; a long text costs as many times as it has parts.
 */
import { z } from 'zod';
import type { Destination } from './destination';

export const PRICED_KINDS = [
  'any',
  'mobile',
  'fixed',
  'premium',
  'personal',
  'satellite',
  'toll-free',
  'voip',
] as const;

export const priceLine = z.strictObject({
  /** ISO 3166-1 alpha-2, the beginning of numbers with "+", or "*" for the rest. */
  to: z
    .string()
    .trim()
    .regex(/^(?:[A-Z]{2}|\+\d{1,14}|\*)$/, 'A destination is a country such as GB, a beginning such as +4477, or *'),
  kind: z.enum(PRICED_KINDS).default('any'),
  /** Of one part. */
  micros: z.number().int().min(0).max(1_000_000_000),
  currency: z.string().regex(/^[A-Z]{3}$/, 'A currency is three letters, as in ISO 4217'),
});
export type PriceLine = z.infer<typeof priceLine>;

export interface Price {
  micros: number;
  currency: string;
  /** The line it comes from. */
  line: PriceLine;
}

/** The longest beginning goes before the country, the country before the rest, a line for the kind before one for any. */
export function priceOf(lines: readonly PriceLine[], to: Destination, parts: number): Price | undefined {
  let best: { line: PriceLine; rank: number } | undefined;
  for (const line of lines) {
    if (line.kind !== 'any' && line.kind !== to.kind && !(line.kind === 'mobile' && to.kind === 'fixed-or-mobile'))
      continue;
    const place = rankOf(line.to, to);
    if (place === undefined) continue;
    const rank = place * 2 + (line.kind === 'any' ? 0 : 1);
    if (!best || rank > best.rank) best = { line, rank };
  }
  return best && { micros: best.line.micros * parts, currency: best.line.currency, line: best.line };
}

function rankOf(place: string, { value, country }: Destination): number | undefined {
  if (place === '*') return 0;
  if (place.startsWith('+')) return value.startsWith(place) ? 1 + place.length : undefined;
  return place === country ? 1 : undefined;
}

export type PriceReading = { ok: true; lines: PriceLine[] } | { ok: false; row: number; problem: string };

/** Most lines of a list; the numbering plan has some thousand ranges. */
export const MOST_PRICES = 20_000;

const HEADINGS: Record<string, RegExp> = {
  to: /^(?:destination|country|prefix|to|iso)$/i,
  kind: /^(?:kind|type)$/i,
  price: /^(?:price|price per part|per part|rate|cost)$/i,
  currency: /^currency$/i,
};

/** Rows of a table with headings, such as `destination,kind,price,currency`. Rows are counted as a person sees them. */
export function readPrices(rows: readonly (readonly string[])[]): PriceReading {
  const [head = [], ...rest] = rows;
  const places = Object.fromEntries(
    Object.entries(HEADINGS).map(([name, pattern]) => [name, head.findIndex((cell) => pattern.test(cell.trim()))]),
  ) as Record<string, number>;
  for (const name of ['to', 'price', 'currency'])
    if (places[name] === -1)
      return { ok: false, row: 1, problem: 'The first row has no heading for destination, price and currency' };
  if (rest.length > MOST_PRICES) return { ok: false, row: MOST_PRICES + 2, problem: `More than ${MOST_PRICES} lines` };
  const lines: PriceLine[] = [];
  for (const [index, cells] of rest.entries()) {
    if (cells.every((cell) => cell.trim() === '')) continue;
    const cell = (name: string) => (places[name] === -1 ? '' : (cells[places[name] as number] ?? '')).trim();
    const micros = microsOf(cell('price'));
    if (micros === undefined)
      return { ok: false, row: index + 2, problem: `“${cell('price').slice(0, 30)}” is no price` };
    const to = cell('to');
    const line = priceLine.safeParse({
      to: /^\d{1,14}$/.test(to) ? `+${to}` : to.toUpperCase(),
      kind: cell('kind').toLowerCase() || 'any',
      micros,
      currency: cell('currency').toUpperCase(),
    });
    if (!line.success)
      return { ok: false, row: index + 2, problem: line.error.issues[0]?.message ?? 'This line is not a price' };
    lines.push(line.data);
  }
  return lines.length > 0 ? { ok: true, lines } : { ok: false, row: 2, problem: 'There is no price in it' };
}

/** A decimal with a point or a comma as micro-units, without the error of a binary fraction. */
export function microsOf(written: string): number | undefined {
  const match = /^(\d{1,6})(?:[.,](\d{1,6}))?$/.exec(written);
  if (!match) return undefined;
  return Number(match[1]) * 1_000_000 + Number((match[2] ?? '').padEnd(6, '0'));
}
