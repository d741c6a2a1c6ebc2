/**
 * Liquid as Windgap uses it: own properties only, unknown names are an error rather
 * than an empty string, bounded in memory and time.
 */
import { Liquid } from 'liquidjs';

export const LIMITS = {
  ownPropertyOnly: true,
  strictVariables: true,
  strictFilters: true,
  memoryLimit: 1_000_000,
  // Of the clock on the wall, milliseconds: a busy machine stands still for a while, and no innocent text may fail for it.
  renderLimit: 1000,
  parseLimit: 100_000,
};

export const liquid = new Liquid(LIMITS);

/** What is wrong with a template before anything is put into it; undefined when nothing is. */
export function templateProblem(text: string): string | undefined {
  try {
    liquid.parse(text);
    return undefined;
  } catch (error) {
    return (error as Error).message.replace(/, line:\d+, col:\d+$/, '');
  }
}
