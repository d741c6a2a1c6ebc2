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
