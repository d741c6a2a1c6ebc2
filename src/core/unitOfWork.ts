/**
 * Keeps calls to the outside out of units of work. A unit holds the store's write lock, so whoever waits inside one for
 * a provider or an app makes everybody else's writes wait for them, too.
 */
import { AsyncLocalStorage } from 'node:async_hooks';

const units = new AsyncLocalStorage<{ open: boolean }>();

/** Does the work of a unit. What it starts and does not wait for is outside once the unit has ended. */
export async function asUnit<Result>(work: () => Promise<Result>): Promise<Result> {
  const unit = { open: true };
  try {
    return await units.run(unit, work);
  } finally {
    unit.open = false;
  }
}

/** Throws inside a unit; every way to the outside begins with it. `what`: such as “an HTTP request”. */
export function outsideUnit(what: string): void {
  if (units.getStore()?.open) throw new Error(`${what} inside a unit of work would make all writes wait for it`);
}
