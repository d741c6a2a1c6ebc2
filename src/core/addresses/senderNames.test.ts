import { expect, test } from 'vitest';
import { countryChoices } from './display';
import { meantAsName, nameCarriage } from './senderNames';

test('every country has at most one answer, and what is not known is not guessed', () => {
  const codes = countryChoices().map(([code]) => code);
  const answers = codes.map((code) => nameCarriage(code));
  expect(answers.filter((answer) => answer === 'refused')).toHaveLength(4);
  expect(nameCarriage('GB')).toBe('carried');
  expect(nameCarriage('SG')).toBe('registered');
  expect(nameCarriage('AQ')).toBeUndefined();
  expect(nameCarriage(undefined)).toBeUndefined();
});

test('a number with a letter typed into it is no name', () => {
  expect(meantAsName('Mossgate')).toBe(true);
  expect(meantAsName('LOCK 7')).toBe(true);
  expect(meantAsName('O7700 90089')).toBe(false);
});
