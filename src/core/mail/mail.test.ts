import fc from 'fast-check';
import { expect, test } from 'vitest';
import { readDeliveryReport } from './deliveryReport';
import { machineMade } from './machineMade';
import { replySubject, subjectIn } from './subject';
import { withoutQuote } from './withoutQuote';

test.each<[string, string, boolean]>([
  ['auto-submitted', 'auto-replied', true],
  ['auto-submitted', 'auto-generated; owner-email="a@b.example"', true],
  ['auto-submitted', 'no', false],
  ['auto-submitted', ' No ', false],
  ['return-path', '<>', true],
  ['return-path', '<ines@heron.example>', false],
  ['list-id', 'Boats <boats.heron.example>', true],
  ['precedence', 'bulk', true],
  ['precedence', 'first-class', false],
  ['subject', 'Out of office', false],
])('%s: %s', (name, value, machine) => {
  expect(machineMade(new Map([[name, value]])) !== undefined).toBe(machine);
});

// The example of RFC 3464, Appendix E, section 1, and its multi-recipient one, shortened.
const REPORT = `Reporting-MTA: dns; cs.utk.example

Original-Recipient: rfc822;louisl@larry.slip.umd.example
Final-Recipient: rfc822;louisl@larry.slip.umd.example
Action: failed
Status: 4.0.0
Diagnostic-Code: smtp; 426 connection timed out
Last-Attempt-Date: Thu, 7 Jul 1994 17:15:49 -0400

Final-Recipient: rfc822; Arathib@vnet.ibm.example
Action: delayed
Status: 4.2.2 (mailbox full)
Diagnostic-Code: smtp; 452 the mailbox
  is full

Final-Recipient: rfc822; nobody@heron.example
Action: pondering
`;

test('groups of recipients, with folded lines, notes in brackets and actions nobody knows', () => {
  const read = [
    {
      recipient: 'louisl@larry.slip.umd.example',
      action: 'failed',
      status: '4.0.0',
      diagnostic: '426 connection timed out',
    },
    {
      recipient: 'arathib@vnet.ibm.example',
      action: 'delayed',
      status: '4.2.2',
      diagnostic: '452 the mailbox is full',
    },
  ];
  expect(readDeliveryReport(REPORT)).toEqual(read);
  expect(readDeliveryReport(REPORT.replaceAll('\n', '\r\n'))).toEqual(read);
});

test('an answer says “Re:” once, and no subject breaks its line', () => {
  expect(replySubject('Lock passage')).toBe('Re: Lock passage');
  expect(replySubject('AW: RE: re: Lock passage')).toBe('Re: Lock passage');
  expect(subjectIn('  \r\n ')).toBeUndefined();
  fc.assert(
    fc.property(fc.string(), (text) => {
      expect(replySubject(replySubject(text))).toBe(replySubject(text));
      expect(subjectIn(text) ?? '').not.toMatch(/[\r\n]/);
      expect(Array.isArray(readDeliveryReport(text))).toBe(true);
    }),
  );
});

test.each([
  ['Thank you!\n\nOn Wednesday the desk wrote:\n> It opens at 9\n> tomorrow\n', 'Thank you!'],
  ['Thank you!\r\n> It opens at 9', 'Thank you!'],
  ['> When?\nAt nine.\n> Where?\nAt the lock.', '> When?\nAt nine.\n> Where?\nAt the lock.'],
  ['> so it goes', '> so it goes'],
  ['We need:\n', 'We need:'],
])('%j is “%s”', (text, words) => {
  expect(withoutQuote(text)).toBe(words);
});
