import { createHmac } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import type { InboundHttpRequest } from '../connector';
import { verifyRequest } from './signature';

const NOW = Date.UTC(2026, 10, 25, 9);
const SECONDS = String(NOW / 1000);
const credentials = { secret: 'tollgate' };
type Shape = Parameters<typeof verifyRequest>[0];
type Scheme = NonNullable<Shape['signature']>;

const request = (headers: Record<string, string>, body = '', url = 'https://windgap.example/in/x?a=1') =>
  ({ method: 'POST', url, headers, body: Buffer.from(body) }) as InboundHttpRequest;

const scheme = (change: Partial<Scheme>): Shape => ({
  signature: {
    header: 'x-signature',
    toleranceSeconds: 300,
    algorithm: 'sha256',
    encoding: 'hex',
    prefix: '',
    key: '{{ credentials.secret }}',
    signed: '{{ body }}',
    ...change,
  } as Scheme,
});

const judge = (shape: Shape, given: InboundHttpRequest) => verifyRequest(shape, credentials, given, NOW);

describe('HMAC over the body', () => {
  // RFC 4231 §4.3, test case 2.
  const published = '5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843';
  const body = 'what do ya want for nothing?';
  const jefe = scheme({ key: 'Jefe' });

  test('agrees with the published vector', () => {
    expect(judge(jefe, request({ 'x-signature': published }, body))).toBe('valid');
  });

  test.each([
    ['one bit of the signature', published.replace(/^5/, '4'), body],
    ['one letter of the body', published, `${body} `],
    ['a signature cut short', published.slice(0, -2), body],
    ['not hexadecimal', 'x'.repeat(64), body],
  ])('%s makes it wrong', (_name, signature, text) => {
    expect(judge(jefe, request({ 'x-signature': signature }, text))).toBe('wrong');
  });

  test('nothing given is missing, not wrong', () => {
    expect(judge(jefe, request({}, body))).toBe('missing');
  });

  test('a prefix is demanded', () => {
    const prefixed = scheme({ key: 'Jefe', prefix: 'h1=' });
    expect(judge(prefixed, request({ 'x-signature': `h1=${published}` }, body))).toBe('valid');
    expect(judge(prefixed, request({ 'x-signature': published }, body))).toBe('wrong');
  });
});

describe('with a time', () => {
  const signed = (time: string) => createHmac('sha256', 'tollgate').update(`${time}.hello`).digest('hex');
  const own = scheme({ timestampHeader: 'x-time', signed: '{{ timestamp }}.{{ body }}' });
  const joint = scheme({ parts: 't=(?P<timestamp>\\d+),s=(?P<signature>\\w+)', signed: '{{ timestamp }}.{{ body }}' });

  test.each([
    ['now', NOW / 1000, 'valid'],
    ['at the edge of the tolerance', NOW / 1000 - 300, 'valid'],
    ['a second before it', NOW / 1000 - 301, 'stale'],
    ['from the future', NOW / 1000 + 301, 'stale'],
  ])('%s', (_name, seconds, verdict) => {
    const time = String(seconds);
    expect(judge(own, request({ 'x-time': time, 'x-signature': signed(time) }, 'hello'))).toBe(verdict);
    expect(judge(joint, request({ 'x-signature': `t=${time},s=${signed(time)}` }, 'hello'))).toBe(verdict);
  });

  test('a time that is not a number never counts as recent', () => {
    expect(judge(own, request({ 'x-time': 'soon', 'x-signature': signed('soon') }, 'hello'))).toBe('stale');
  });

  test('an empty time is no time, however well it is signed', () => {
    for (const time of ['', ' '])
      expect(judge(own, request({ 'x-time': time, 'x-signature': signed(time) }, 'hello'))).toBe('missing');
    const open = scheme({ parts: 't=(?P<timestamp>\\d*),s=(?P<signature>\\w+)', signed: '{{ timestamp }}.{{ body }}' });
    expect(judge(open, request({ 'x-signature': `t=,s=${signed('')}` }, 'hello'))).toBe('missing');
  });

  test('the digest is all there is: nothing stands behind it', () => {
    const right = signed(SECONDS);
    const given = (signature: string) => judge(own, request({ 'x-time': SECONDS, 'x-signature': signature }, 'hello'));
    expect(given(right.toUpperCase())).toBe('valid');
    for (const behind of ['z', ' ', ',v2=forged', 'zz00']) expect(given(right + behind)).toBe('wrong');
    expect(given(`${right.slice(0, -1)}z`)).toBe('wrong');
  });

  test('another time than the signed one is wrong, and none at all is missing', () => {
    expect(judge(own, request({ 'x-time': String(NOW / 1000 - 1), 'x-signature': signed(SECONDS) }, 'hello'))).toBe(
      'wrong',
    );
    expect(judge(own, request({ 'x-signature': signed(SECONDS) }, 'hello'))).toBe('missing');
    expect(judge(joint, request({ 'x-signature': signed(SECONDS) }, 'hello'))).toBe('missing');
  });
});

test('over the URL and the sorted form, whatever order the fields came in', () => {
  const shape = scheme({ algorithm: 'sha1', encoding: 'base64', signed: '{{ url }}{{ sortedForm }}' });
  const url = 'https://windgap.example/in/x?a=1';
  const signature = createHmac('sha1', 'tollgate').update(`${url}Bodyhi thereFrom+447700900123`).digest('base64');
  for (const body of ['From=%2B447700900123&Body=hi+there', 'Body=hi%20there&From=%2B447700900123']) {
    expect(judge(shape, request({ 'x-signature': signature }, body, url))).toBe('valid');
  }
  expect(judge(shape, request({ 'x-signature': signature }, 'Body=hi+there', url))).toBe('wrong');
  expect(judge(shape, request({ 'x-signature': signature }, 'From=%2B447700900123&Body=hi+there', `${url}2`))).toBe(
    'wrong',
  );
});

test('a shared token in a header or in the query', () => {
  const inHeader: Shape = { token: { header: 'x-token', equals: '{{ credentials.secret }}' } } as Shape;
  const inQuery: Shape = { token: { query: 'key', equals: '{{ credentials.secret }}' } } as Shape;
  expect(judge(inHeader, request({ 'x-token': 'tollgate' }))).toBe('valid');
  expect(judge(inHeader, request({ 'x-token': 'tollgates' }))).toBe('wrong');
  expect(judge(inQuery, request({}, '', 'https://windgap.example/in/x?key=tollgate'))).toBe('valid');
  expect(judge(inQuery, request({}))).toBe('missing');
});

test('basic authentication, and no scheme at all', () => {
  const basic: Shape = { basic: { user: 'harbour', password: '{{ credentials.secret }}' } } as Shape;
  const header = (pair: string) => ({ authorization: `Basic ${Buffer.from(pair).toString('base64')}` });
  expect(judge(basic, request(header('harbour:tollgate')))).toBe('valid');
  expect(judge(basic, request(header('harbour:tollgat')))).toBe('wrong');
  expect(judge(basic, request({}))).toBe('missing');
  expect(judge({}, request({}))).toBe('not-used');
});
