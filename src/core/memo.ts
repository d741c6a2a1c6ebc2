/** What was worked out for a key, kept for the next time it is asked for. */
import { LRUCache } from 'lru-cache';

/**
 * Returns a function that works a value out once for each key. Keys come from outside, so there is an end to how many
 * are kept and how long they may be: of more than `most` the one that was not asked for longest is forgotten; a key of
 * more than `longest` UTF-16 units is worked out each time. What throws is not kept. Whoever asks shares the value and
 * does not change it.
 */
export function memo<Value>(most = 1000, longest = 2000): (key: string, make: () => Value) => Value {
  // In a box of its own, so that a value that is undefined is known as well.
  const kept = new LRUCache<string, { value: Value }>({ max: most });
  return (key, make) => {
    const before = kept.get(key);
    if (before) return before.value;
    const value = make();
    if (key.length <= longest) kept.set(key, { value });
    return value;
  };
}
