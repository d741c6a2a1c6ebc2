/** What the simulated outside has begun and not ended: texts on their way to handsets, posts that are not answered yet. */
import { after } from './clock';

let begun = 0;

/** How many such things there are now. */
export function underWay(): number {
  return begun;
}

/** Does something that counts until it has ended. */
export async function during<T>(work: () => Promise<T>): Promise<T> {
  begun += 1;
  try {
    return await work();
  } finally {
    begun -= 1;
  }
}

export function pause(ms: number): Promise<void> {
  return during(() => passing(ms));
}

/** Does something after so many milliseconds; it counts from now on. */
export function later(ms: number, work: () => void): void {
  void during(async () => {
    await passing(ms);
    work();
  });
}

/** A pause between two tries, which may be long and does not count: nothing happens until it is over. */
export function rest(ms: number): Promise<void> {
  return new Promise((resolve) => after(ms, resolve));
}

function passing(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
