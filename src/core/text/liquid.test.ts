import { Liquid } from 'liquidjs';
import { expect, test } from 'vitest';
import { liquid, templateProblem } from './liquid';
import { mergeText } from './merge';

const OWN_FILE = 'package.json';

test.each([
  `{% include "${OWN_FILE}" %}`,
  `{% render "${OWN_FILE}" %}`,
  `{% layout "${OWN_FILE}" %}`,
  `{% include file %}`,
  `{% block a %}{% endblock %}`,
  `{% liquid include "${OWN_FILE}" %}`,
  `{%- include "${OWN_FILE}" -%}`,
  `{% if true %}{% render "${OWN_FILE}" %}{% endif %}`,
  '{% tablerow x in (1..3) %}{% endtablerow %}',
  '{% increment n %}',
])('%s is refused when it is read, and no file comes out', (template) => {
  expect(templateProblem(template)).toMatch(/tag .* not found/);
  const merged = mergeText(template, { file: OWN_FILE });
  expect(merged).toMatchObject({ text: '', findings: [{ code: 'merge-broken' }] });
});

test('the file loader itself finds nothing, should a way to it be found', () => {
  expect(new Liquid().parseFileSync(OWN_FILE)).not.toHaveLength(0);
  expect(() => liquid.parseFileSync(OWN_FILE)).toThrow(/ENOENT/);
  expect(() => liquid.renderFileSync('/etc/hostname')).toThrow(/ENOENT/);
});

test.each(['raw', 'where_exp: "a", "true"', 'find_exp: "a", "true"', 'strip_html', 'sample', 'inspect'])(
  'the filter %s is not known',
  (filter) => {
    expect(mergeText(`{{ name | ${filter} }}`, { name: 'Ada' }).findings).toMatchObject([{ code: 'merge-broken' }]);
  },
);

test('a text that grows without end is a finding', () => {
  const loop = '{% for a in (1..70) %}{% for b in (1..70) %}Heron {% endfor %}{% endfor %}';
  expect(mergeText(loop, {})).toMatchObject({ text: '', findings: [{ code: 'merge-too-long' }] });
});

test('an empty value is found whatever is done to it', () => {
  expect(mergeText('Dear {{ name | strip }}', { name: ' ' }).findings).toMatchObject([{ code: 'field-empty' }]);
});
