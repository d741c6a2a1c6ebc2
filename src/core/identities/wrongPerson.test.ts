import { expect, test } from 'vitest';
import { saysWrongPerson } from './wrongPerson';

test.each<[string, boolean]>([
  ['Wrong number!', true],
  ['wrong number, sorry', true],
  ['You have the wrong number. Please stop', true],
  ['FEL NUMMER', true],
  ['Mauvais numero', true],
  ['Número equivocado', true],
  ['pomylka', false],
  ['Pomyłka', true],
  ['I gave you a wrong number for the lock', false],
  ['The wrong number is painted on the gate', false],
  [`wrong number ${'and a long story '.repeat(10)}`, false],
  ['', false],
])('“%s”: %s', (text, wrong) => {
  expect(saysWrongPerson(text)).toBe(wrong);
});
