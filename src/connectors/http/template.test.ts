import fc from 'fast-check';
import { Liquid } from 'liquidjs';
import { expect, test } from 'vitest';
import { renderTemplate } from './template';

test('plain templates give what Liquid gives', () => {
  const liquid = new Liquid({ ownPropertyOnly: true, strictVariables: true });
  const name = fc.constantFrom(
    '{{ a }}',
    '{{a}}',
    '{{ b.c }}',
    '{{ b.c | upcase }}',
    '{% if a %}yes{% endif %}',
    '{{ n }}',
  );
  const words = fc.string({ unit: fc.constantFrom('x', ' ', '.', '/', '-', '\n', '}', '%'), maxLength: 6 });
  fc.assert(
    fc.property(fc.array(fc.oneof(name, words), { maxLength: 5 }), fc.string(), fc.string(), (parts, a, c) => {
      const template = parts.join('');
      const scope = { a, b: { c }, n: 7 };
      expect(renderTemplate(template, scope)).toBe(liquid.parseAndRenderSync(template, scope));
    }),
  );
});

test('an unknown name is an error, also one every object inherits', () => {
  expect(() => renderTemplate('{{ nobody }}', {})).toThrow(/undefined variable/);
  expect(() => renderTemplate('{{ a.constructor }}', { a: {} })).toThrow();
  expect(() => renderTemplate('{{ a.b }}', { a: 'text' })).toThrow();
});

test('a template cannot run away', () => {
  expect(() => renderTemplate('{% for i in (1..100000000) %}x{% endfor %}', {})).toThrow();
});
