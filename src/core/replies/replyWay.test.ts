import fc from 'fast-check';
import { expect, test } from 'vitest';
import { decideReply, type ReplyWay } from './replyWay';

const way = (channelId: string, more: Partial<ReplyWay> = {}): ReplyWay => ({
  channelId,
  name: channelId.toUpperCase(),
  to: `at ${channelId}`,
  agreed: false,
  ...more,
});

test.each([
  ['they wrote on last', [way('a', { wroteAt: 1 }), way('b', { wroteAt: 2 })], 'b'],
  ['whatever was agreed to', [way('a', { agreed: true }), way('b', { wroteAt: 2 })], 'b'],
  ['before, where the last is closed', [way('a', { wroteAt: 1 }), way('b', { wroteAt: 2, refused: 'Closed.' })], 'a'],
  ['they were told to be answered over', [way('a', { wroteAt: 2, answeredOver: 'b' }), way('b')], 'b'],
  [
    'they came from, where that is not known',
    [way('a', { wroteAt: 2, answeredOver: 'b' }), way('b', { to: undefined })],
    'a',
  ],
  ['they agreed to, where they never wrote', [way('a'), way('b', { agreed: true })], 'b'],
  ['of several they agreed to is asked for', [way('a', { agreed: true }), way('b', { agreed: true })], undefined],
  ['that is the only one', [way('a'), way('b', { refused: 'Closed.' })], 'a'],
  ['nobody knows', [way('a'), way('b')], undefined],
  ['none', [way('a', { refused: 'They declined.' })], undefined],
  ['none at all', [], undefined],
])('the channel %s', (_, ways, chosen) => {
  expect(decideReply(ways).channelId).toBe(chosen);
});

test('it says why, and what stood against the one before', () => {
  expect(
    decideReply([way('a', { wroteAt: 1 }), way('b', { wroteAt: 2, refused: 'Their window is closed.' })]).reason,
  ).toBe('Their window is closed. They wrote before over A.');
  expect(decideReply([way('a', { refused: 'They declined.' })]).reason).toBe('They declined.');
});

const ways = fc.uniqueArray(
  fc.record({
    channelId: fc.constantFrom('a', 'b', 'c', 'd'),
    name: fc.constantFrom('A', 'B'),
    to: fc.option(fc.constant('x'), { nil: undefined }),
    wroteAt: fc.option(fc.nat(100), { nil: undefined }),
    refused: fc.option(fc.constant('No.'), { nil: undefined }),
    agreed: fc.boolean(),
    answeredOver: fc.option(fc.constantFrom('a', 'b', 'zz'), { nil: undefined }),
  }),
  { selector: ({ channelId }) => channelId },
);

test('it chooses only what is open, whatever the order, and what was sent by us plays no part', () => {
  fc.assert(
    fc.property(ways, fc.nat(), (all, turn) => {
      const { channelId, reason } = decideReply(all);
      expect(reason.length).toBeGreaterThan(0);
      const chosen = all.find((each) => each.channelId === channelId);
      if (channelId !== undefined) expect([chosen?.to, chosen?.refused]).toEqual(['x', undefined]);
      const times = all.map(({ wroteAt }) => wroteAt).filter((at) => at !== undefined);
      // Ties are broken by the order they come in, and nothing else.
      if (new Set(times).size !== times.length || all.filter(({ agreed }) => agreed).length > 1) return;
      const turned = all.map((_, index) => all[(index + turn) % all.length] as ReplyWay);
      expect(decideReply(turned).channelId).toBe(channelId);
    }),
  );
});
