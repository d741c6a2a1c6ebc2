import { describe, expect, test } from 'vitest';
import { profileJsonSchema } from '../../connectors/profile/schema';
import { type JsonSchema, suggestAt } from './suggest';

const schema = profileJsonSchema() as JsonSchema;
const at = (marked: string) => {
  const offset = marked.indexOf('|');
  return suggestAt(schema, marked.replace('|', ''), offset);
};
const names = (marked: string) => at(marked).options.map(({ text }) => text.replace(': ', ''));

describe('what may stand at a place in a profile', () => {
  test('names at the top, of the kind that is written', () => {
    expect(names('kind: sms-http\n|')).toEqual(expect.arrayContaining(['http', 'numbers', 'send', 'inbound']));
    expect(names('kind: sms-http\n|')).not.toContain('trunk');
    expect(names('kind: sms-trunk\n|')).toContain('trunk');
    expect(names('|')).toEqual(expect.arrayContaining(['kind', 'mail', 'trunk']));
  });

  test('names inside a part and inside an element of a list', () => {
    expect(names('kind: sms-http\nnumbers:\n  request: { method: GET, path: /x }\n  |')).toEqual(
      expect.arrayContaining(['each', 'read', 'search', 'claim', 'release']),
    );
    expect(names('kind: sms-http\nerrors:\n  rules:\n    - |')).toEqual(['status', 'code', 'cause']);
    expect(names('kind: sms-http\ncredentials:\n  - name: id\n    |')).toContain('label');
  });

  test('words where a value is one of a few, and where the word begins', () => {
    const { from, options } = at('kind: sms-http\nerrors:\n  rules:\n    - cause: cred|');
    expect(options.map(({ text }) => text)).toContain('credit-gone');
    expect(from).toBe('kind: sms-http\nerrors:\n  rules:\n    - cause: '.length);
    expect(names('kind: sms-http\nsend:\n  honoursReference: |')).toEqual(['true', 'false']);
    expect(names('kind: |')).toEqual(
      expect.arrayContaining(['sms-http', 'business-chat', 'sms-trunk', 'email-gateway']),
    );
  });

  test('nothing in the middle of a sentence, whatever the text', () => {
    expect(at('summary: words and |').options).toEqual([]);
    for (const text of ['', ':', '- - -', '   |', 'a:\n\t- b: |'])
      expect(() => suggestAt(schema, text, text.length)).not.toThrow();
  });
});
