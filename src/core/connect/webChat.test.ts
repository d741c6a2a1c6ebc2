import { expect, test } from 'vitest';
import { inkOn, WEB_CHAT_START, webChatSettings } from './webChat';

const settings = { ...WEB_CHAT_START, origins: ['https://Mossgate.example'] };
const problems = (change: object) =>
  webChatSettings.safeParse({ ...settings, ...change }).error?.issues.map((issue) => issue.path.join('.')) ?? [];

test('origins are levelled to what browsers send, and a path is refused', () => {
  expect(webChatSettings.parse(settings).origins).toEqual(['https://mossgate.example']);
  expect(problems({ origins: ['https://mossgate.example/shop'] })).toEqual(['origins.0']);
  expect(problems({ origins: ['*'] })).toEqual(['origins.0']);
  expect(problems({ origins: [] })).toEqual(['origins']);
});

test('answering later needs a text channel and the visitor’s number', () => {
  expect(problems({ answers: 'later' })).toEqual(['replyChannelId', 'askPhone']);
  expect(problems({ answers: 'later', replyChannelId: 'chn_1', askPhone: true })).toEqual([]);
});

test('a picture is data and an image; nothing is fetched from elsewhere', () => {
  expect(problems({ picture: 'https://elsewhere.example/face.png' })).toEqual(['picture']);
  expect(problems({ picture: 'data:image/svg+xml;base64,AAAA' })).toEqual(['picture']);
  expect(problems({ picture: 'data:image/png;base64,AAAA' })).toEqual([]);
});

test('the ink on a colour keeps a contrast of 4.5 (WCAG 2.2, 1.4.3)', () => {
  expect(inkOn('#000000')).toBe('#ffffff');
  expect(inkOn('#ffffff')).toBe('#101418');
  // The lightest grey on which white still has 4.5 to 1, and the next.
  expect(inkOn('#767676')).toBe('#ffffff');
  expect(inkOn('#777777')).toBe('#101418');
});
