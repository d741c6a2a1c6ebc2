/** Contacts out of files and into them. */
import fc from 'fast-check';
import ICAL from 'ical.js';
import { describe, expect, it, test } from 'vitest';
import { csvHeader, csvRow, type ExportedContact, vcard } from './exporting';
import { guessColumns, type ImportPlan, planProblem, readLine } from './importing';

const PLAN: ImportPlan = {
  columns: { Name: 'name', Mobile: 'phone', Boat: { attribute: 'boat' }, Lang: 'language', Groups: 'tags' },
  country: 'GB',
  tags: ['Spring'],
  consent: null,
};

describe('columns', () => {
  test.each([
    [
      ['Full name', 'Mobile', 'Boat'],
      ['name', 'phone', { attribute: 'boat' }],
    ],
    [
      ['Vorname', 'Nachname', 'Handy', 'Sprache'],
      ['first name', 'last name', 'phone', 'language'],
    ],
    [
      ['First Name', 'Surname', 'Tel.', 'TZ', 'Tags', ''],
      ['first name', 'last name', 'phone', 'zone', 'tags', 'ignore'],
    ],
    // The second of a kind is an attribute, not a rival.
    [
      ['Mobile', 'Phone 2'],
      ['phone', { attribute: 'phone 2' }],
    ],
  ])('%j', (headers, uses) => expect(Object.values(guessColumns(headers, [], null))).toEqual(uses));

  it('are told by what is in them where the header says nothing', () => {
    const rows = [
      { A: 'Heron', B: '07700 900123' },
      { A: 'Tern', B: '07700 900124' },
    ];
    expect(guessColumns(['A', 'B'], rows, 'GB')).toEqual({ A: { attribute: 'a' }, B: 'phone' });
    expect(Object.values(guessColumns(['A', 'B'], rows, null))).not.toContain('phone');
  });
});

describe('a line', () => {
  it('is a contact with its number whole, its tags once and its attributes', () => {
    const line = {
      Name: ' Ines Calder ',
      Mobile: '07700 900123',
      Boat: 'Heron',
      Lang: 'en',
      Groups: 'Club; spring|Moorings',
    };
    expect(readLine(line, PLAN)).toEqual({
      ok: true,
      contact: {
        phone: '+447700900123',
        name: 'Ines Calder',
        language: 'en',
        zone: null,
        tags: ['spring', 'club', 'moorings'],
        attributes: { boat: 'Heron' },
      },
    });
  });

  test.each([
    [{ Mobile: '' }, 'There is no phone number.'],
    [{ Mobile: '07700' }, expect.stringMatching(/\S/)],
    [{ Mobile: 'O7700 900123' }, expect.stringMatching(/\S/)],
    [{ Mobile: '+447700900123', Lang: 'français' }, '“français” is no language tag such as en or sv.'],
  ])('%j is refused with its reason', (line, reason) => expect(readLine(line, PLAN)).toEqual({ ok: false, reason }));

  it('with a national number is refused where no country is said', () => {
    expect(readLine({ Mobile: '07700 900123' }, { ...PLAN, country: null }).ok).toBe(false);
  });

  it('is read or refused, whatever is in it, and never throws', () => {
    fc.assert(
      fc.property(
        fc.dictionary(fc.constantFrom('Name', 'Mobile', 'Boat', 'Lang', 'Groups', '__proto__'), fc.string()),
        (line) => {
          const read = readLine(line, PLAN);
          if (read.ok) expect(read.contact.phone).toMatch(/^\+\d{5,15}$/);
          else expect(read.reason).not.toBe('');
        },
      ),
    );
  });
});

describe('a plan that cannot be carried out says why', () => {
  test.each<[string, Partial<ImportPlan>, RegExp | undefined]>([
    ['whole', {}, undefined],
    ['no number', { columns: { Name: 'name' } }, /phone number/],
    ['two names', { columns: { A: 'name', B: 'name', C: 'phone' } }, /Two columns/],
    ['agreed to nothing', { consent: { ways: [], source: 'form' } }, /which messages these people opted in to/],
    ['agreed nowhere', { consent: { ways: ['text'], source: ' ' } }, /where these people agreed/],
  ])('%s', (_, more, problem) => {
    const said = planProblem({ ...PLAN, ...more });
    if (problem) expect(said).toMatch(problem);
    else expect(said).toBeUndefined();
  });
});

describe('into a file', () => {
  const contact = (more: Partial<ExportedContact> = {}): ExportedContact => ({
    id: 'con_1',
    name: 'Ines Calder',
    phones: ['+447700900123'],
    mails: ['ines@heron.example'],
    country: 'GB',
    language: 'en',
    zone: 'Europe/London',
    tags: ['club', 'a,b'],
    attributes: { boat: 'Heron' },
    consents: { text: 'given' },
    ...more,
  });

  it('has a cell for every header, and no formula', () => {
    const attributes = ['boat', 'berth'];
    expect(csvRow(contact(), attributes)).toHaveLength(csvHeader(attributes).length);
    fc.assert(
      fc.property(fc.string(), fc.constantFrom('=', '@', '+', '-', '\t'), (text, sign) => {
        const [name] = csvRow(contact({ name: `${sign}${text}` }), []);
        expect(name).toMatch(/^'|^\+\d{7,15}$/);
      }),
    );
    expect(csvRow(contact(), []).slice(1, 3)).toEqual(['+447700900123', 'ines@heron.example']);
    const mailOnly = vcard(contact({ name: null, phones: [] }));
    expect(mailOnly).toContain('EMAIL:ines@heron.example');
    expect(mailOnly).not.toContain('TEL');
  });

  it('is a card another reader reads the same out of, folded at 75 octets', () => {
    fc.assert(
      fc.property(
        fc
          .string({ unit: 'grapheme', minLength: 1, maxLength: 120 })
          .filter((text) => text.trim() === text && !/[\r\n\\\p{Cc}]/u.test(text)),
        (name) => {
          const card = vcard(contact({ name }));
          for (const line of card.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
          const read = new ICAL.Component(ICAL.parse(card) as never);
          expect(read.getFirstPropertyValue('fn')).toBe(name);
          expect(String(read.getFirstPropertyValue('tel'))).toBe('tel:+447700900123');
          expect(read.getFirstProperty('categories')?.getValues()).toEqual(['club', 'a,b']);
        },
      ),
    );
  });
});
