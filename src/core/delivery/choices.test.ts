import { expect, test } from 'vitest';
import { inWords, offerChoices } from './choices';

const RULES = { most: 3, longest: 20 };

test('buttons where they fit, words where they do not', () => {
  const offer = (labels: string[], rules: typeof RULES | undefined = RULES, file = false) =>
    offerChoices('Coming?', labels, rules, file);
  expect(offer([])).toEqual({ text: 'Coming?', choices: null });
  expect(offer(['Yes', 'No'])).toEqual({ text: 'Coming?', choices: { labels: ['Yes', 'No'], asButtons: true } });
  for (const [labels, rules, file] of [
    [['Yes', 'No'], undefined, false],
    [['Yes', 'No'], RULES, true],
    [['1', '2', '3', '4'], RULES, false],
    [['x'.repeat(21)], RULES, false],
  ] as const) {
    const { text, choices } = offerChoices('Coming?', labels, rules, file);
    expect(choices?.asButtons).toBe(false);
    expect(text).toBe(`Coming?\n${labels.join(' / ')}`);
  }
  // A label is counted as people see it.
  expect(offer(['🛶'.repeat(20)]).choices?.asButtons).toBe(true);
  expect(inWords('', { labels: ['Yes', 'No'] })).toBe('Yes / No');
});
