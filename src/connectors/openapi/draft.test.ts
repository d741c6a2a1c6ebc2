/** Drafts from documents that are wrong, hostile or say little: nothing is read but the document, and nothing is claimed that nobody said. */
import { createHmac } from 'node:crypto';
import { expect, test } from 'vitest';
import { draftProfile } from './draft';

const draft = (document: string, given: Partial<Parameters<typeof draftProfile>[0]> = {}) =>
  draftProfile({ document, samples: [], answers: {}, secret: '', ...given });

const opening = 'openapi: 3.0.3\ninfo: { title: Fernhill, version: "1" }\n';

test('what is no OpenAPI document is said to be none, and of an older version', async () => {
  expect((await draft('hello')).mistakes[0]?.problem).toContain('no OpenAPI document');
  expect((await draft('swagger: "2.0"\ninfo: {}')).mistakes[0]?.problem).toContain('version 2.0');
  expect((await draft('openapi: 3.1.0\n  bad: [')).mistakes).toHaveLength(1);
  expect(await draft(' ')).toMatchObject({ text: '', mistakes: [] });
});

test('a reference to a file or another host is told and not followed', async () => {
  const document = `${opening}paths:\n  /me:\n    get: { responses: { "200": { $ref: "file:///etc/passwd" } } }\n`;
  const { mistakes, text } = await draft(document);
  expect(mistakes[0]?.problem).toContain('another file');
  expect(text).not.toContain('root:');
});

test('schemas that contain themselves, many ways at once, come to an end', async () => {
  const branches = Array.from(
    { length: 12 },
    (_, index) => `    p${index}: { $ref: "#/components/schemas/Tree" }`,
  ).join('\n');
  const document = `${opening}paths:
  /send:
    post:
      requestBody: { content: { application/json: { schema: { $ref: "#/components/schemas/Tree" } } } }
      responses: { "200": { description: ok, content: { application/json: { schema: { $ref: "#/components/schemas/Tree" } } } } }
components:
  schemas:
    Tree:
      allOf: [{ $ref: "#/components/schemas/Tree" }, { $ref: "#/components/schemas/Loop" }]
      properties:
${branches.replace(/^ {4}/gm, '        ')}
        to: { type: string }
        text: { type: string }
    Loop: { $ref: "#/components/schemas/Loop" }
`;
  const { questions } = await draft(document);
  expect(questions.find(({ key }) => key === 'call.send')?.value).toBe('POST /send');
});

test('what unfolds into far more than was written is refused', async () => {
  const bomb = [
    'a: &a [x, x, x, x, x, x, x, x]',
    ...'bcdefgh'
      .split('')
      .map((name, index) => `${name}: &${name} [${Array(8).fill(`*${'abcdefg'[index]}`).join(', ')}]`),
  ];
  const { mistakes } = await draft(`${opening}x-bomb:\n${bomb.map((line) => `  ${line}`).join('\n')}\npaths: {}\n`);
  expect(mistakes).toHaveLength(1);
});

const LITTLE = `${opening}paths:
  /sms:
    post:
      requestBody: { content: { application/json: { schema: { type: object, properties: { to: { type: string }, text: { type: string } } } } } }
      responses: { "200": { description: ok, content: { application/json: { schema: { type: object, properties: { id: { type: integer } } } } } } }
`;

test('what nobody said is listed as not known, and no state or code is guessed', async () => {
  const { unknown, text, questions } = await draft(LITTLE, {
    samples: [{ of: 'post', text: '{"type":"sms.state","id":"1","state":"Q7"}' }],
  });
  const said = unknown.join('\n');
  for (const part of ['prove who asks', 'proves the credentials', 'lists the numbers', 'Q7', 'nothing is checked'])
    expect(said).toContain(part);
  expect(questions.find(({ key }) => key === 'state.Q7')).toMatchObject({ value: '', proposed: true });
  expect(text).toContain('states: {}');
});

test('a sample that differs from the document is believed, and the difference told', async () => {
  const { mistakes, text } = await draft(LITTLE, {
    samples: [
      { of: 'POST /sms', text: 'HTTP/1.1 200 OK\nContent-Type: application/json\n\n{"id":"m-1","error":null}' },
      { of: 'POST /sms', text: '{"oops' },
    ],
  });
  expect(mistakes.map(({ problem }) => problem).join('\n')).toMatch(
    /Sample 2 is neither.*\n.*text at \$\.id, the document says number/,
  );
  expect(text).toContain('providerMessageId: m-1');
});

test.each([
  ['sha512', 'base64', '{{ timestamp }}.{{ body }}', 'v1='],
  ['sha1', 'hex', '{{ url }}{{ sortedForm }}', ''],
] as const)('how a sample was sealed is found by trying: %s, %s', async (algorithm, encoding, signed, prefix) => {
  const url = 'https://door.example/in/x';
  const time = '1764572400';
  const body = 'type=sms&id=1&from=447700900305&to=447700900831&text=Hi';
  const sorted = [...new URLSearchParams(body)]
    .sort()
    .map(([name, value]) => name + value)
    .join('');
  const over = signed.includes('url') ? url + sorted : `${time}.${body}`;
  const seal = prefix + createHmac(algorithm, 's3cret').update(over).digest(encoding);
  const text = `POST ${url}\nX-Time: ${time}\nX-Stamp: ${seal}\n\n${body}`;
  const tried = await draft(LITTLE, { samples: [{ of: 'post', text }], secret: 's3cret' });
  expect(tried.text).toContain(`algorithm: ${algorithm}`);
  expect(tried.text).toContain(`encoding: ${encoding}`);
  expect(Object.fromEntries(tried.questions.map(({ key, value }) => [key, value]))).toMatchObject({
    proof: 'seal x-stamp',
    'seal.signed': signed,
    'in.from': '$.from',
    'in.to': '$.to',
  });
  expect(tried.text).not.toContain('s3cret');
  const other = await draft(LITTLE, { samples: [{ of: 'post', text }], secret: 'another' });
  expect(other.unknown.join()).toContain('no usual way fits');
});
