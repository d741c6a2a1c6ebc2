import { expect, test } from 'vitest';
import { compilePattern } from './pattern';

test('a pattern is compiled once, and what is none says why', () => {
  const compiled = compilePattern('^BWA[0-9A-Z]{10}$');
  expect(typeof compiled === 'object' && compiled.test('BWA0123456789')).toBe(true);
  expect(compilePattern('^BWA[0-9A-Z]{10}$')).toBe(compiled);
  expect(compilePattern('(')).toMatch(/missing closing/);
  // RE2 has no look-around, which is what makes others slow.
  expect(typeof compilePattern('(?=a)b')).toBe('string');
});

test('repetitions that multiply are refused, whatever their length', () => {
  for (const source of ['.{0,1000}'.repeat(10), '(?:.{0,100}){100}', '((a{0,30}){0,30}){0,30}'])
    expect(compilePattern(source), source.slice(0, 30)).toMatch(/too large|repeat/);
  expect(compilePattern('a'.repeat(301))).toMatch(/longer than 300/);
  // What people write is far from it.
  expect(typeof compilePattern('(?:st[o0]p|end|unsubscribe){1,3}.{0,160}')).toBe('object');
});
