/** Parts of long texts: joined whatever their order, and never with those of another text. */
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { joinParts, type ReceivedText } from '../src/operations/inbound/storeTexts';
import type { ChannelRow, InboundRequestRow } from '../src/store/schema/rows';
import { type Installation, startInstallation } from './harness/processes';

const MINUTE = 60_000;
let house: Installation;
let at = 1_000 * 24 * 60 * MINUTE;
let requests = 0;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
});
afterAll(() => house.stop());
beforeEach(() => house.ctx.store.write((unit) => unit.execute('DELETE FROM inbound_parts')));

interface Piece {
  reference: number;
  total: number;
  sequence: number;
  text: string;
}

/** What whole texts a part brings. */
async function comes({ text, ...part }: Piece): Promise<string[]> {
  requests += 1;
  const received = {
    request: { id: `inb_${requests}`, received_at: at } as InboundRequestRow,
    channel: { id: 'chn_1' } as ChannelRow,
    connector: {} as ReceivedText['connector'],
    item: { kind: 'text', text, part } as unknown as ReceivedText['item'],
    from: '+447700900123',
  };
  return (await house.ctx.store.write((unit) => joinParts(unit, [received], at))).map(({ item }) => item.text);
}
const pieces = (reference: number, ...texts: string[]) =>
  texts.map((text, index): Piece => ({ reference, total: texts.length, sequence: index + 1, text }));
const later = (minutes: number) => {
  at += minutes * MINUTE;
};

test('a part that comes again after its text was whole does not become half of the next text under its reference', async () => {
  const [old1, old2] = pieces(5, 'OLD one, ', 'OLD two') as [Piece, Piece];
  const [new1, new2] = pieces(5, 'NEW one, ', 'NEW two') as [Piece, Piece];
  expect([...(await comes(old1)), ...(await comes(old2))]).toEqual(['OLD one, OLD two']);
  later(1);
  expect(await comes(old2)).toEqual([]);
  later(60);
  expect([...(await comes(new1)), ...(await comes(new2))]).toEqual(['NEW one, NEW two']);
});

test('a text of which a part never came is not completed by the next one under its reference', async () => {
  const [old1] = pieces(5, 'OLD one, ', 'OLD two') as [Piece, Piece];
  const [new1, new2] = pieces(5, 'NEW one, ', 'NEW two') as [Piece, Piece];
  await comes(old1);
  later(60);
  expect([...(await comes(new1)), ...(await comes(new2))]).toEqual(['NEW one, NEW two']);
  await comes(old1);
  later(25 * 60);
  expect(await comes(new2)).toEqual([]);
});

test('the same text twice under one reference is two texts, also where only their beginning is the same', async () => {
  const alarm = pieces(0, 'Alarm at the upper lock: ', 'the water is high');
  const other = pieces(0, 'Alarm at the upper lock: ', 'the gate is open');
  for (const each of [alarm, alarm, other, alarm]) {
    const got = [...(await comes(each[0] as Piece)), ...(await comes(each[1] as Piece))];
    expect(got).toEqual([each.map(({ text }) => text).join('')]);
    later(2);
  }
});

test('whatever the order and however often each part comes before the last, the text is whole once', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 2, max: 5 }),
      fc.integer({ min: 0, max: 255 }),
      fc.array(fc.nat(4), { maxLength: 8 }),
      async (total, reference, extra) => {
        later(24 * 60 + 1);
        const parts = pieces(reference, ...Array.from({ length: total }, (_, n) => `${reference} ${n} of ${total}. `));
        // Everything but one part, in any order and with repeats; then the one that is missing.
        const early = [...extra.map((n) => n % (total - 1)), ...Array.from({ length: total - 1 }, (_, n) => n)];
        const got: string[] = [];
        for (const index of [...early, total - 1]) got.push(...(await comes(parts[index] as Piece)));
        expect(got).toEqual([parts.map(({ text }) => text).join('')]);
      },
    ),
    { numRuns: 25 },
  );
});
