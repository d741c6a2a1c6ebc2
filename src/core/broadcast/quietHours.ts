/** Hours of the day in which nobody is written to, by country, as people write them down. */

/** Times of day in which nothing is sent, as 21:00 and 08:00; where both are the same there are none. */
export interface QuietHours {
  from: string;
  to: string;
}

/** By ISO 3166-1 alpha-2; `*` for all others. */
export type QuietTable = Readonly<Record<string, QuietHours>>;

/** Nobody is woken unless somebody says so: nine in the evening to eight in the morning, everywhere. */
export const USUAL_QUIET: QuietTable = { '*': { from: '21:00', to: '08:00' } };

const LINE = /^(\*|[A-Z]{2})\s+((?:[01]\d|2[0-3]):[0-5]\d)\s*[-–]\s*((?:[01]\d|2[0-3]):[0-5]\d)$/;
const MOST_LINES = 300;

/** A line for each country, `*` for all others: “FR 20:00-09:00”. Returns the table, or what is wrong with which line. */
export function readQuietTable(written: string): { table: QuietTable } | { problem: string } {
  const table: Record<string, QuietHours> = {};
  const lines = written
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '');
  if (lines.length > MOST_LINES) return { problem: 'There are more lines than countries.' };
  for (const line of lines) {
    const [, country, from, to] = LINE.exec(line.toUpperCase()) ?? [];
    if (!country || !from || !to) return { problem: `“${line.slice(0, 40)}” is no country and its hours.` };
    if (table[country]) return { problem: `${country} is there twice.` };
    table[country] = { from, to };
  }
  return { table };
}

export function writeQuietTable(table: QuietTable): string {
  return Object.entries(table)
    .map(([country, { from, to }]) => `${country} ${from}-${to}`)
    .join('\n');
}
