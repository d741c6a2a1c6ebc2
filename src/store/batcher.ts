import { isStoreTrouble } from './trouble';

/**
 * Group commit: while one flush is being written, everything that arrives waits and
 * shares the next one. Alone, a request pays one commit; under load, hundreds do.
 *
 * A flush is one unit: it writes all of its items or none. Where it fails, each is flushed by
 * itself, so that what is wrong with one item is that item's alone; what keeps the store from
 * working is everybody's and is tried no further.
 */
export function createBatcher<Item, Result>(
  flush: (items: Item[]) => Promise<Result[]>,
  largest = 500,
): (item: Item) => Promise<Result> {
  interface Waiting {
    item: Item;
    resolve: (result: Result) => void;
    reject: (error: unknown) => void;
  }
  let waiting: Waiting[] = [];
  let flushing = false;

  async function drain() {
    flushing = true;
    while (waiting.length > 0) {
      const batch = waiting.slice(0, largest);
      waiting = waiting.slice(largest);
      try {
        const results = await flush(batch.map(({ item }) => item));
        batch.forEach((entry, index) => {
          entry.resolve(results[index] as Result);
        });
      } catch (error) {
        if (batch.length === 1 || isStoreTrouble(error)) for (const entry of batch) entry.reject(error);
        else for (const entry of batch) await alone(entry);
      }
    }
    flushing = false;
  }

  async function alone({ item, resolve, reject }: Waiting) {
    try {
      const [result] = await flush([item]);
      resolve(result as Result);
    } catch (error) {
      reject(error);
    }
  }

  return (item) =>
    new Promise((resolve, reject) => {
      waiting.push({ item, resolve, reject });
      // The next turn of the event loop, so that requests already read share this flush.
      if (!flushing) {
        flushing = true;
        setImmediate(() => void drain());
      }
    });
}
