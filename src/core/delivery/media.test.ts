import { expect, test } from 'vitest';
import { fileName, inOneLine } from './media';

const file = (url: string) => ({ url, type: 'image/png' });

test('a file is named by the end of its address', () => {
  expect(fileName(file('https://mossgate.example/plans/lock%20gate.png?size=2#top'))).toBe('lock gate.png');
  expect(fileName(file('https://mossgate.example/'))).toBe('https://mossgate.example/');
  expect(fileName(file('https://mossgate.example/100%.png'))).toBe('100%.png');
});

test('one line is the words, else the file', () => {
  expect(inOneLine({ text: 'The gate sticks', media: file('https://mossgate.example/a.png') })).toBe('The gate sticks');
  expect(inOneLine({ text: '', media: file('https://mossgate.example/a.png') })).toBe('a.png');
  expect(inOneLine({ text: '', media: null })).toBe('');
});
