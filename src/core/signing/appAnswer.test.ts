import { expect, test } from 'vitest';
import { causeOfAppAnswer, wordsOfAnswer } from './appAnswer';

const NOW = Date.UTC(2026, 4, 4, 12);
const judge = (status: number, headers: Record<string, string> = {}, body = '') =>
  causeOfAppAnswer({ status, headers, body }, NOW);

test.each([
  [200, undefined],
  [204, undefined],
  [302, 'app-redirects'],
  [308, 'app-redirects'],
  [400, 'app-refused'],
  [401, 'app-refused'],
  [403, 'app-refused'],
  [408, 'app-error'],
  [422, 'app-refused'],
  [404, 'app-address-unknown'],
  [410, 'app-gone'],
  [429, 'app-error'],
  [500, 'app-error'],
])('%d', (status, expected) => {
  expect(judge(status)).toBe(expected);
});

test('a page that asks to sign in has not taken an event, whatever its status', () => {
  const html = { 'content-type': 'text/html; charset=utf-8' };
  expect(judge(200, html, '<!DOCTYPE html>\n<html lang="en"><title>Sign in</title>')).toBe('app-answers-page');
  expect(judge(200, html, '  <form method="post">')).toBe('app-answers-page');
  expect(judge(200, html, 'OK')).toBeUndefined();
  expect(judge(200, html, '')).toBeUndefined();
  expect(judge(200, { 'content-type': 'application/json' }, '{"note":"<html>"}')).toBeUndefined();
});

test('a refusal by an app whose clock is more than five minutes off is put down to the clock', () => {
  const clock = (ms: number) => ({ date: new Date(NOW + ms).toUTCString() });
  expect(judge(401, clock(6 * 60_000))).toBe('app-clock-off');
  expect(judge(400, clock(-20 * 60_000))).toBe('app-clock-off');
  expect(judge(401, clock(4 * 60_000), 'invalid signature')).toBe('app-signature-refused');
  expect(judge(500, clock(60 * 60_000))).toBe('app-error');
  expect(judge(401, { date: 'yesterday' })).toBe('app-refused');
});

test('a refusal is put down to the signature only where the app names it, and to the path only where it is the path', () => {
  expect(judge(401, {}, 'No matching signature found')).toBe('app-signature-refused');
  expect(judge(403, {}, '<h1>Blocked by policy 12</h1>')).toBe('app-refused');
  expect(judge(401, {}, '{"error":"your address is not on the list"}')).toBe('app-refused');
  const json = { 'content-type': 'application/json' };
  expect(judge(404, json, '{"error":"no booking of this name"}')).toBe('app-refused');
  expect(judge(404, json, '{"error":"Not Found"}')).toBe('app-address-unknown');
});

test('what it said is shown in its own words, without markup', () => {
  const body = '<html><style>p{}</style><h1>Access denied</h1>\n<p>Rule 12</p></html>';
  expect(wordsOfAnswer({ status: 403, headers: { server: 'gate/2' }, body })).toBe(
    '403 (gate/2): “Access denied Rule 12”',
  );
  expect(wordsOfAnswer({ status: 503, headers: {}, body: '' })).toBe('503');
});
