import { describe, expect, test } from 'vitest';
import { decodeText } from '../text/alphabets';
import { baseThatFits, idAsAnswered, readReceipt } from './receipts';
import { explainStatus } from './refusals';
import { isSound, LONG_TEXT_WAYS, markOf, planSubmits, readHeader } from './submits';

/** The worked receipt of SMPP 3.4 Appendix B, with this century's dates. */
const RECEIPT =
  'id:4D2162 sub:001 dlvrd:001 submit date:2611250901 done date:2611250902 stat:DELIVRD err:000 text:Your order';

describe('receipts', () => {
  test('are read from the text of Appendix B', () => {
    expect(readReceipt({ text: RECEIPT }, {})).toEqual({
      id: '4D2162',
      state: 'delivered',
      cause: undefined,
      said: 'DELIVRD',
      at: Date.UTC(2026, 10, 25, 9, 2),
    });
  });

  test('TLVs win over the text, and carry a receipt alone', () => {
    expect(readReceipt({ text: RECEIPT, receiptedMessageId: 'ab', messageState: 5 }, {})).toMatchObject({
      id: 'ab',
      state: 'undelivered',
      cause: 'undelivered-unknown',
    });
    expect(readReceipt({ text: '', receiptedMessageId: 'ab', messageState: 2 }, {})?.state).toBe('delivered');
  });

  test('a carrier’s error code says the cause where the profile knows it', () => {
    const text = RECEIPT.replace('DELIVRD err:000', 'UNDELIV err:027');
    expect(readReceipt({ text }, { '027': 'handset-unreachable' })).toMatchObject({
      cause: 'handset-unreachable',
      said: 'UNDELIV (err 027)',
    });
    expect(readReceipt({ text }, {})?.cause).toBe('undelivered-unknown');
    expect(readReceipt({ text: text.replace('027', 'toString') }, {})?.cause).toBe('undelivered-unknown');
  });

  test.each(['Your order has been sent', 'id:7 stat:SHRUG', 'stat:DELIVRD'])('“%s” is no receipt', (text) => {
    expect(readReceipt({ text }, {})).toBeUndefined();
  });

  test('an id in the other base finds its submit', () => {
    expect(idAsAnswered('1234', 'decimal-in-receipts')).toBe('4d2');
    expect(idAsAnswered('4D2', 'hex-in-receipts')).toBe('1234');
    expect(idAsAnswered('00AB', 'same')).toBe('ab');
    expect(baseThatFits('1234', new Set(['4d2']), 'same')).toBe('decimal-in-receipts');
    expect(baseThatFits('4d2', new Set(['1234']), 'same')).toBe('hex-in-receipts');
    expect(baseThatFits('99', new Set(['4d2']), 'same')).toBeUndefined();
  });
});

describe('submits', () => {
  const link = { defaultAlphabet: 'gsm-7', longText: 'header' } as const;

  test('what the default alphabet holds goes in it; one other letter makes the text UCS-2', () => {
    expect(planSubmits('Hallo Ü', link, 1)).toMatchObject([{ dataCoding: 0, esmClass: 0 }]);
    expect(planSubmits('Szia Ő', link, 1)).toMatchObject([{ dataCoding: 8, esmClass: 0 }]);
  });

  test.each([
    [160, 1],
    [161, 2],
    [306, 2],
    [307, 3],
  ])('%d GSM-7 characters make %d parts (3GPP TS 23.040 §9.2.3.24.1)', (length, parts) => {
    expect(planSubmits('a'.repeat(length), link, 1)).toHaveLength(parts);
  });

  test.each([
    [70, 1],
    [71, 2],
    [134, 2],
    [135, 3],
  ])('%d UCS-2 characters make %d parts', (length, parts) => {
    expect(planSubmits('ő'.repeat(length), link, 1)).toHaveLength(parts);
  });

  const long = `Ölpreis ${'stabil, '.repeat(40)}Ende €`;
  test.each(LONG_TEXT_WAYS)('a long text by %s comes together again', (longText) => {
    const parts = planSubmits(long, { ...link, longText }, 0x1234);
    const whole = parts
      .map((part) => {
        if (part.payload) return decodeText(part.payload, 'gsm-7');
        const from = part.esmClass & 0x40 ? readHeader(part.shortMessage).textFrom : 0;
        expect(part.shortMessage.length).toBeLessThanOrEqual(160);
        return decodeText(part.shortMessage.subarray(from), 'gsm-7');
      })
      .join('');
    expect(whole).toBe(long);
  });

  test('headers count the parts under one 8-bit reference, sar fields under 16 bits', () => {
    const headers = planSubmits(long, link, 0x1234).map((part) => readHeader(part.shortMessage).part);
    expect(headers).toEqual(
      headers.map((_, index) => ({ reference: 0x34, total: headers.length, sequence: index + 1 })),
    );
    expect(planSubmits(long, { ...link, longText: 'sar' }, 0x1234)[0]?.sar?.reference).toBe(0x1234);
  });

  test('16-bit references are read, and impossible places are not believed', () => {
    expect(readHeader(Uint8Array.from([6, 8, 4, 0x12, 0x34, 2, 1, 65]))).toEqual({
      textFrom: 7,
      part: { reference: 0x1234, total: 2, sequence: 1 },
    });
    expect(readHeader(Uint8Array.from([5, 0, 3, 9, 2, 3, 65])).part).toBeUndefined();
    expect(() => readHeader(Uint8Array.from([200, 0, 3]))).toThrow('longer than the message');
    expect(
      [
        { reference: 1, total: 1, sequence: 1 },
        { reference: 1, total: 2, sequence: 0 },
      ].some(isSound),
    ).toBe(false);
  });

  test('marks are 16 bits, steady, and spread', () => {
    const marks = new Set(Array.from({ length: 2000 }, (_, index) => markOf(`msg_${index}`)));
    expect(markOf('msg_7')).toBe(markOf('msg_7'));
    expect(Math.max(...marks)).toBeLessThanOrEqual(0xffff);
    expect(marks.size).toBeGreaterThan(1900);
  });
});

test('refusals have the standard’s names; unknown ones keep their number', () => {
  expect(explainStatus(0x58)).toEqual({ name: 'ESME_RTHROTTLED', cause: 'throttled' });
  expect(explainStatus(0x0e).cause).toBe('credential-secret-wrong');
  expect(explainStatus(0x4ff)).toEqual({ name: 'status 0x000004ff', cause: 'request-refused' });
});
