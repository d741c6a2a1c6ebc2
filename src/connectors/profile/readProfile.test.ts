import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { examineProfile, readProfile } from './readProfile';

const FOLDER = join(import.meta.dirname, '../profiles');
const read = (name: string) => readFileSync(join(FOLDER, name), 'utf8');
const BRACKWATER = read('brackwater.yaml');

/** The findings of a shipped profile after one change, each with the text it points at. */
function changed(from: string | RegExp, to: string) {
  const text = BRACKWATER.replace(from, to);
  expect(text).not.toBe(BRACKWATER);
  const reading = examineProfile(text);
  return reading.ok
    ? []
    : reading.findings.map(({ problem, place }) => ({ problem, at: text.slice(place?.from, place?.to) }));
}

test.each(readdirSync(FOLDER).filter((name) => name.endsWith('.yaml')))('%s is right as it is shipped', (name) => {
  expect(examineProfile(read(name))).toMatchObject({ ok: true });
});

describe('findings point at the place', () => {
  test('a word that is not in the schema', () => {
    const [finding] = changed('  timeoutSeconds: 8', '  timeoutSecond: 8');
    expect(finding?.problem).toContain('http.timeoutSecond');
    expect(finding?.at).toBe('8');
  });

  test('a value of the wrong kind', () => {
    const [finding] = changed('timeoutSeconds: 8', 'timeoutSeconds: soon');
    expect(finding).toMatchObject({ at: 'soon' });
    expect(finding?.problem).toMatch(/^http\.timeoutSeconds: /);
  });

  test('a cause that is not in the catalogue', () => {
    const [finding] = changed('cause: credit-gone', 'cause: purse-empty');
    expect(finding?.problem).toMatch(/^errors\.rules\.\d+\.cause: /);
    expect(finding?.at).toBe('purse-empty');
  });

  test('a filter that does not exist, braces that do not close, and a path that is none', () => {
    expect(changed('{{ message.text }}', '{{ message.text | shout }}')).toMatchObject([
      { problem: expect.stringContaining('shout'), at: '"{{ message.text | shout }}"' },
    ]);
    expect(changed('{{ message.text }}', '{{ message.text')[0]?.problem).toContain('not closed');
    expect(changed('$.account.credit.amount', '$.account[')[0]?.problem).toContain('RFC 9535');
  });

  test('a template that uses a credential nobody is asked for', () => {
    const [finding] = changed('password: "{{ credentials.secret }}"', 'password: "{{ credentials.password }}"');
    expect(finding).toMatchObject({ at: '"{{ credentials.password }}"' });
    expect(finding?.problem).toContain('http.basic.password');
  });

  test('YAML that cannot be read says so instead of guessing', () => {
    const [finding] = changed('http:\n', 'http: [\n');
    expect(finding?.problem).toBeTruthy();
  });

  test('an empty text is a finding, not an exception', () => {
    expect(examineProfile('').ok).toBe(false);
    expect(examineProfile('- a\n- b').ok).toBe(false);
  });
});

test('reading one that is wrong names it and every finding', () => {
  const text = BRACKWATER.replace('id: brackwater', 'id: Brack Water').replace(
    'timeoutSeconds: 8',
    'timeoutSeconds: 0',
  );
  expect(() => readProfile(text, 'here.yaml')).toThrow(/here\.yaml[\s\S]*id[\s\S]*timeoutSeconds/);
});

describe('a text that costs more than its size', () => {
  test.each([
    ['search', '$.account[?search(@.name, "(a+)+$")].id'],
    ['match', '$.account[?match(@.name, "(a+)+$")].id'],
    ['a look through everything for each of everything', '$..a..b'],
  ])('%s is not offered in paths', (_, path) => {
    const [finding] = changed('    id: $.account.id', `    id: '${path}'`);
    expect(finding?.problem).toMatch(/are not offered/);
  });

  test('six thousand unknown words are told of in fifty findings, and at once', () => {
    const began = performance.now();
    const words = Array.from({ length: 6000 }, (_, n) => `w${n}: 1`).join('\n');
    const found = changed('http:\n', `${words}\nhttp:\n`);
    expect(found).toHaveLength(50);
    expect(Math.max(...found.map(({ problem }) => problem.length))).toBeLessThan(500);
    // Each of them once cost a look through all the others.
    expect(performance.now() - began).toBeLessThan(20_000);
  });

  test('more than a profile can be, and aliases that unfold', () => {
    expect(examineProfile(`${BRACKWATER}\n# ${'x'.repeat(250_000)}`)).toMatchObject({ ok: false });
    const levels = Array.from({ length: 9 }, (_, n) => `a${n + 1}: &a${n + 1} [*a${n}, *a${n}, *a${n}, *a${n}]`).join(
      '\n',
    );
    const reading = examineProfile(`a0: &a0 [lol]\n${levels}\n`);
    expect(reading).toMatchObject({ ok: false });
    expect(JSON.stringify(reading)).toMatch(/alias/i);
  });
});
