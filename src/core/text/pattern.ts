/** Patterns that people write, on an engine whose time is linear in the text (RE2), and whose size is bounded, too. */
import { RE2JS } from 're2js';
import { memo } from '../memo';

const LONGEST = 300;
/** Steps of the compiled program: counted repetitions multiply, and matching costs text times program. */
const LARGEST = 5000;

const known = memo<RE2JS | string>();

/** The compiled pattern, or in words why there is none. */
export function compilePattern(source: string, { ignoreCase = false } = {}): RE2JS | string {
  return known(`${ignoreCase ? 'i' : ''} ${source}`, () => {
    if (source.length > LONGEST) return `it is longer than ${LONGEST} characters`;
    try {
      const compiled = RE2JS.compile(source, ignoreCase ? RE2JS.CASE_INSENSITIVE : 0);
      return compiled.programSize() > LARGEST ? 'its repetitions make it too large to be matched quickly' : compiled;
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  });
}
