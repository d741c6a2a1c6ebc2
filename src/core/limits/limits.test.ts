import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { attempt, MOST_ATTEMPTS, withHiddenCode } from './codes';
import { type AllowedDestinations, destinationOf, notAllowed } from './destination';
import {
  type Amounts,
  brokenLimit,
  type Count,
  codesUnread,
  countKey,
  isRise,
  possibleRises,
  USUAL_AMOUNTS,
} from './limits';
import { microsOf, type PriceLine, priceOf, readPrices } from './prices';

const NONE = Object.fromEntries(Object.keys(USUAL_AMOUNTS).map((name) => [name, null])) as Amounts;

describe('where a text goes', () => {
  test('ranges that cost many times a text are told apart, in countries and beyond them', () => {
    expect(destinationOf('+449098790123')).toMatchObject({ kind: 'premium', country: 'GB' });
    for (const [number, kind] of [
      ['+881600000000', 'satellite'],
      ['+870300000000', 'satellite'],
      ['+883510000000000', 'satellite'],
      ['+979100000000', 'premium'],
    ])
      expect(destinationOf(number as string)).toMatchObject({ kind });
    expect(destinationOf('+447700900123')).toEqual({
      value: '+447700900123',
      range: '+44770090',
      kind: 'mobile',
      country: 'GB',
    });
    expect(destinationOf('vis_01')).toBeUndefined();
  });

  test('a country is allowed or not; whoever wrote first is answered anywhere, but never on a costly number', () => {
    const allowed: AllowedDestinations = { countries: ['GB'], costly: [] };
    const to = (number: string) => destinationOf(number) as NonNullable<ReturnType<typeof destinationOf>>;
    expect(notAllowed(to('+447700900123'), allowed, false)).toBeUndefined();
    expect(notAllowed(to('+46701740612'), allowed, false)).toBe('country');
    expect(notAllowed(to('+46701740612'), allowed, true)).toBeUndefined();
    expect(notAllowed(to('+449098790123'), allowed, true)).toBe('costly');
    expect(notAllowed(to('+449098790123'), { ...allowed, costly: ['premium'] }, false)).toBeUndefined();
    expect(notAllowed(to('+881600000000'), { countries: ['GB'], costly: ['premium'] }, true)).toBe('costly');
  });
});

describe('limits', () => {
  const count = (by: Count['by'], subject: string, amount = 1): Count => ({ by, subject, amount });

  test('the first that would be passed is named; at the limit itself nothing is stopped', () => {
    const amounts = { ...NONE, 'recipient-hour': 3 };
    const used = (hour: number) => new Map([['recipient +1', { hour, day: hour }]]);
    expect(brokenLimit([count('recipient', '+1')], used(2), amounts)).toBeUndefined();
    expect(brokenLimit([count('recipient', '+1')], used(3), amounts)).toEqual({
      limit: 'recipient-hour',
      subject: '+1',
      most: 3,
    });
    expect(brokenLimit([count('recipient', '+1', 4)], used(0), amounts)?.limit).toBe('recipient-hour');
    expect(brokenLimit([count('recipient', '+1')], used(3), amounts, () => true)).toBeUndefined();
    expect(brokenLimit([count('recipient', '+2')], used(3), amounts)).toBeUndefined();
  });

  test('however orders come, no more leaves than is allowed', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 20 }),
        fc.array(fc.tuple(fc.constantFrom('+1', '+2', '+3'), fc.integer({ min: 1, max: 6 })), { maxLength: 60 }),
        (most, orders) => {
          const used = new Map<string, { hour: number; day: number }>();
          for (const [to, parts] of orders) {
            const counts = [count('recipient', to, parts), count('all', 'all', parts)];
            if (brokenLimit(counts, used, { ...NONE, 'recipient-hour': most, day: 2 * most })) continue;
            for (const each of counts) {
              const before = used.get(countKey(each)) ?? { hour: 0, day: 0 };
              used.set(countKey(each), { hour: before.hour + each.amount, day: before.day + each.amount });
            }
          }
          for (const to of ['+1', '+2', '+3']) expect(used.get(`recipient ${to}`)?.hour ?? 0).toBeLessThanOrEqual(most);
          expect(used.get('all all')?.day ?? 0).toBeLessThanOrEqual(2 * most);
        },
      ),
    );
  });

  test('a rise is far above what is set and far above every hour before', () => {
    const amounts = { ...NONE, 'rise-range': 50 };
    const used = new Map([['range +44770090', { hour: 60, day: 60 }]]);
    expect(possibleRises([count('range', '+44770090')], used, amounts)).toMatchObject([{ hour: 61, most: 50 }]);
    expect(possibleRises([count('range', '+1')], used, amounts)).toEqual([]);
    expect(isRise(61, 0)).toBe(true);
    expect(isRise(61, 15)).toBe(true);
    expect(isRise(61, 16)).toBe(false);
  });
});

describe('prices', () => {
  const line = (to: string, micros: number, kind: PriceLine['kind'] = 'any'): PriceLine => ({
    to,
    kind,
    micros,
    currency: 'GBP',
  });
  const gb = destinationOf('+447700900123') as NonNullable<ReturnType<typeof destinationOf>>;

  test('the nearest line counts, for each part', () => {
    const lines = [line('*', 1), line('GB', 2), line('GB', 3, 'mobile'), line('GB', 9, 'premium'), line('+44770', 5)];
    expect(priceOf(lines, gb, 3)).toMatchObject({ micros: 15, currency: 'GBP' });
    expect(priceOf(lines.slice(0, 4), gb, 2)?.micros).toBe(6);
    expect(priceOf(lines.slice(0, 2), gb, 1)?.micros).toBe(2);
    expect(priceOf([line('SE', 7)], gb, 1)).toBeUndefined();
  });

  test('a table is read by its headings, and what is wrong with a line is said with its number', () => {
    const rows = [
      ['Destination', 'Kind', 'Price', 'Currency'],
      ['gb', '', '0.038', 'gbp'],
      ['4477', 'mobile', '0,05', 'GBP'],
      [''],
    ];
    expect(readPrices(rows)).toEqual({
      ok: true,
      lines: [line('GB', 38_000), { ...line('+4477', 50_000), kind: 'mobile' }],
    });
    expect(readPrices([['a', 'b']])).toMatchObject({ ok: false, row: 1 });
    expect(
      readPrices([
        ['to', 'price', 'currency'],
        ['GB', 'free', 'GBP'],
      ]),
    ).toMatchObject({ ok: false, row: 2 });
    expect(
      readPrices([
        ['to', 'price', 'currency'],
        ['Atlantis', '1', 'GBP'],
      ]),
    ).toMatchObject({ ok: false, row: 2 });
  });

  test('money is read without the error of a binary fraction', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 999_999_999 }), (micros) => {
        const written = `${Math.floor(micros / 1e6)}.${String(micros % 1e6).padStart(6, '0')}`;
        expect(microsOf(written)).toBe(micros);
      }),
    );
    for (const no of ['', '-1', '1e3', '.5', '1.1234567', '0x10']) expect(microsOf(no)).toBeUndefined();
  });
});

describe('codes', () => {
  test('a code has one place, and stands nowhere before it is sent', () => {
    expect(withHiddenCode('Your code is {code}.')).toBe('Your code is ******.');
    for (const wrong of ['No place', '{code} and {code}', '****** {code}'])
      expect(withHiddenCode(wrong)).toBeUndefined();
  });

  test('only a right code in time confirms, and guessing ends', () => {
    const open = { attempts: 0, expiresAt: 100 };
    expect(attempt(open, { right: true, now: 99 }).state).toBe('confirmed');
    expect(attempt(open, { right: true, now: 100 }).state).toBe('expired');
    let standing: { attempts: number; state: string } = { attempts: 0, state: 'open' };
    let tries = 0;
    while (standing.state === 'open') {
      standing = attempt({ ...open, attempts: standing.attempts }, { right: false, now: 1 });
      tries += 1;
    }
    expect([tries, standing.state]).toEqual([MOST_ATTEMPTS, 'used-up']);
  });

  test('people type in what they asked for; where nobody does, nobody reads', () => {
    expect(codesUnread('range', 8, 0)).toBe(true);
    expect(codesUnread('range', 7, 0)).toBe(false);
    expect(codesUnread('range', 20, 2)).toBe(false);
    expect(codesUnread('country', 20, 3)).toBe(true);
    expect(codesUnread('country', 20, 4)).toBe(false);
  });
});
