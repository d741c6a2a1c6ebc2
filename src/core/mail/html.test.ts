import { convert } from 'html-to-text';
import { expect, test } from 'vitest';
import { htmlOf } from './html';

const read = (html: string) =>
  convert(html, { wordwrap: false, selectors: [{ selector: 'a', options: { hideLinkHrefIfSameAsText: true } }] });

test.each([
  'One line',
  'Two\nlines',
  'A paragraph\n\nand another\nof two lines',
  'Angles <b>bold</b> & "quotes" \'single\' &amp; &lt;',
  '<script>alert(1)</script>',
  'See https://mossgate.example/a?b=1&c=2.',
  'Öffnet um 9 – 春',
])('shows the very words: %j', (words) => {
  expect(read(htmlOf(words))).toBe(words);
});

test('a link can be followed, without the full stop that ends the sentence, and nothing else is one', () => {
  expect(htmlOf('See https://mossgate.example/a?b=1&c="x".')).toContain(
    '<a href="https://mossgate.example/a?b=1&amp;c=">',
  );
  for (const words of ['javascript:alert(1)', 'data:text/html,x', 'ftp://mossgate.example'])
    expect(htmlOf(words)).not.toContain('<a ');
});
