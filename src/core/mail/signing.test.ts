import { expect, test } from 'vitest';
import { judgeRecord, recordFor, recordName } from './signing';

const KEY = 'MIIBIjANBgkqhkiG9w0BAQEFAAOCAQ8A';

test('where it stands, and what it says', () => {
  expect(recordName('wg1', 'mossgate.example')).toBe('wg1._domainkey.mossgate.example');
  expect(judgeRecord([recordFor(KEY)], KEY)).toEqual({ is: 'published' });
});

test.each([
  ['in any order, with what is not for us', [`p=${KEY}; t=y; n=ours; k=rsa`]],
  ['with blanks in the key', [`v=DKIM1; p=${KEY.slice(0, 10)} ${KEY.slice(10)}`]],
  ['beside records of others', ['some-site-verification=abc', recordFor(KEY)]],
  ['for sha256 among others', [`v=DKIM1; h=sha1:sha256; s=email; p=${KEY}`]],
])('published: %s', (_, records) => {
  expect(judgeRecord(records, KEY)).toEqual({ is: 'published' });
});

test.each([
  ['no record at all', [], 'missing', undefined],
  ['something else', ['some-site-verification=abc'], 'differs', /no key/],
  ['withdrawn', ['v=DKIM1; p='], 'differs', /withdrawn/],
  ['another', [recordFor('MIIBother')], 'differs', /another key/],
  ['cut off at 255 characters', [recordFor(KEY.slice(0, 20))], 'differs', /cut off/],
  ['two of them', [recordFor(KEY), recordFor('MIIBother')], 'differs', /2 records/],
  ['of another kind', [`v=DKIM1; k=ed25519; p=${KEY}`], 'differs', /ed25519/],
  ['for sha1 alone', [`v=DKIM1; h=sha1; p=${KEY}`], 'differs', /sha256/],
  ['for another service', [`v=DKIM1; s=tlsrpt; p=${KEY}`], 'differs', /not for mail/],
] as const)('not: %s', (_, records, is, said) => {
  expect(judgeRecord(records, KEY)).toMatchObject({ is, ...(said ? { said: expect.stringMatching(said) } : {}) });
});
