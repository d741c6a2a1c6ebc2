/** Every colour words or marks are drawn in can be read on every ground there is, in both themes (WCAG 2.2, 1.4.3 and 1.4.11). */
import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';

const css = readFileSync('src/app/globals.css', 'utf8');

/** The colours of one theme by name: the first of each `light-dark` is for the day. */
function themeOf(theme: 'light' | 'dark'): Map<string, string> {
  const pairs = css.matchAll(/--([a-z-]+): light-dark\((#[0-9a-f]{6}), (#[0-9a-f]{6})\);/g);
  return new Map([...pairs].map(([, name = '', day = '', night = '']) => [name, theme === 'light' ? day : night]));
}

/** Relative luminance, WCAG 2.2. */
function luminance(colour: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const value = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

function contrast(one: string, other: string): number {
  const [light = 0, dark = 0] = [luminance(one), luminance(other)].sort((a, b) => b - a);
  return (light + 0.05) / (dark + 0.05);
}

const GROUNDS = ['paper', 'panel', 'bank', 'hover'];
const WORDS = ['ink', 'soft', 'ridge', 'ridge-deep', 'ochre-ink', 'clay', 'moss', 'heather'];
/** Marks and the edges of fields, which need less. */
const MARKS = ['ochre', 'line-strong'];

test('the yardstick itself: black on white is 21, and a grey known to fail fails', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21);
  expect(contrast('#777777', '#ffffff')).toBeLessThan(4.5);
});

test.each(['light', 'dark'] as const)('%s', (chosen) => {
  const theme = themeOf(chosen);
  const of = (name: string) => theme.get(name) ?? `no ${name}`;
  const low = [
    ...WORDS.flatMap((word) => GROUNDS.map((ground) => ({ word, ground, least: 4.5 }))),
    ...MARKS.flatMap((word) => GROUNDS.map((ground) => ({ word, ground, least: 3 }))),
    ...['ridge', 'ridge-deep'].map((ground) => ({ word: 'on-ridge', ground, least: 4.5 })),
  ].filter(({ word, ground, least }) => !(contrast(of(word), of(ground)) >= least));
  expect(low).toEqual([]);
});
