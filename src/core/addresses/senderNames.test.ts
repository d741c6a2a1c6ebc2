import { expect, test } from 'vitest';
import { countryChoices } from './display';
import { nameCarriage } from './senderNames';

test('every country has at most one answer, and what is not known is not guessed', () => {
  const codes = countryChoices().map(([code]) => code);
  const answers = codes.map((code) => nameCarriage(code));
  expect(answers.filter((answer) => answer === 'refused')).toHaveLength(4);
  expect(nameCarriage('GB')).toBe('carried');
  expect(nameCarriage('SG')).toBe('registered');
  expect(nameCarriage('AQ')).toBeUndefined();
  expect(nameCarriage(undefined)).toBeUndefined();
});
