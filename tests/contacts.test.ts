/** Contacts over the store: files in and out, each line with its reason, twice without a difference, and undone. */

import { parse } from 'csv-parse/sync';
import ICAL from 'ical.js';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readCard } from '../src/connectors/sheets/vcards';
import type { Group } from '../src/core/contacts/audience';
import { countAudience, readGroup, saveAudience } from '../src/operations/contacts/audiences';
import { recordConsents } from '../src/operations/contacts/consent/consents';
import { exportConsents, exportContacts } from '../src/operations/contacts/contactExport';
import { beginImport, cancelImport, getImport, planImport, runImport } from '../src/operations/contacts/contactImport';
import { addContact, browseContacts, changeContact, getContactPage } from '../src/operations/contacts/contactPages';
import { undoImport } from '../src/operations/contacts/importRollback';
import { SYSTEM } from '../src/operations/context/actor';
import { found } from '../src/operations/context/errors';
import { end, type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;

beforeAll(async () => {
  house = await startInstallation({ web: false });
});
afterAll(() => house.stop());

const state = (id: string, wanted: string) =>
  until(`it is ${wanted}`, async () => (await house.ctx.store.imports.one({ id }))?.state === wanted);

async function examined(name: string, content: string | Buffer, country = 'GB') {
  const { id } = await beginImport(house.ctx, SYSTEM, { name, content: Buffer.from(content), country });
  await state(id, 'preview');
  return { id, ...(await getImport(house.ctx, SYSTEM, id)) };
}

async function imported(id: string) {
  await runImport(house.ctx, SYSTEM, id);
  await state(id, 'done');
  const row = await house.ctx.store.imports.one({ id });
  return { created: row?.created, merged: row?.merged, unchanged: row?.unchanged, refused: row?.refused };
}

const contact = async (value: string) => {
  const identity = await house.ctx.store.identities.one({ kind: 'phone', value });
  return identity && getContactPage(house.ctx, SYSTEM, identity.contact_id);
};

const FILE = [
  'Full name,Mobile,Boat,Groups,Lang',
  'Ines Calder,07700 900123,Heron,Moorings; Club,en',
  'Tomas Lindqvist,+46 70 174 06 12,Tern,,sv',
  'Nobody,,Grebe,,',
  'Half,07700,Coot,,',
  'Wordy,O7700 900124,Swan,,',
  'Ines again,+447700900123,Heron,,',
  'Odile Marchand,+33 6 39 98 04 17,"Sarcelle, ""II""",,français',
].join('\r\n');

test('examined before anything is written: columns guessed, each refused line with its reason', async () => {
  const { ctx } = house;
  const { id, row, refused } = await examined('skippers.csv', FILE);
  expect(row.plan.columns).toEqual({
    'Full name': 'name',
    Mobile: 'phone',
    Boat: { attribute: 'boat' },
    Groups: 'tags',
    Lang: 'language',
  });
  expect([row.lines, row.created, row.merged, row.refused]).toEqual([7, 2, 0, 5]);
  expect(refused.map(({ line, reason }) => `${line}: ${reason}`)).toEqual([
    '3: There is no phone number.',
    expect.stringMatching(/^4: /),
    expect.stringContaining('5: "O" is a letter, not a digit.'),
    expect.stringContaining('6: +447700900123 stood in an earlier line already.'),
    expect.stringContaining('7: “français” is no language tag'),
  ]);
  expect(await ctx.store.contacts.count()).toBe(0);
  await expect(planImport(ctx, SYSTEM, id, { ...row.plan, consent: { ways: ['text'], source: ' ' } })).rejects.toThrow(
    /where these people agreed/,
  );
  await expect(planImport(ctx, SYSTEM, id, { ...row.plan, columns: { Mobile: 'ignore' } })).rejects.toThrow(
    /phone number/,
  );

  await planImport(ctx, SYSTEM, id, {
    ...row.plan,
    tags: ['spring'],
    consent: { ways: ['text'], source: 'Mooring forms, spring' },
  });
  await state(id, 'preview');
  expect(await imported(id)).toEqual({ created: 2, merged: 0, unchanged: 0, refused: 5 });
  const ines = await contact('+447700900123');
  expect(ines).toMatchObject({
    contact: {
      name: 'Ines Calder',
      country: 'GB',
      language: 'en',
      languageFrom: 'import',
      zone: 'Europe/London',
      zoneFrom: 'number',
    },
    attributes: { boat: 'Heron' },
    tags: ['club', 'moorings', 'spring'],
    consents: [{ way: 'text', state: 'given' }],
    ledger: [{ what: 'given', how: 'import', wording: 'Mooring forms, spring', by: 'Windgap', ref: id }],
  });
});

test('the same file again changes nothing; another fills in, and neither gives what somebody declined', async () => {
  const { ctx } = house;
  const before = await contact('+447700900123');
  const again = await examined('skippers.csv', FILE);
  await planImport(ctx, SYSTEM, again.id, {
    ...again.row.plan,
    tags: ['spring'],
    consent: { ways: ['text'], source: 'Mooring forms, spring' },
  });
  await state(again.id, 'preview');
  expect(await imported(again.id)).toEqual({ created: 0, merged: 0, unchanged: 2, refused: 5 });
  expect(await contact('+447700900123')).toEqual(before);

  const tomas = await contact('+46701740612');
  await ctx.store.write((unit) =>
    recordConsents(unit, [
      {
        contact_id: tomas?.contact.id ?? '',
        way: 'text',
        what: 'withdrawn',
        at: ctx.now(),
        how: 'word',
        wording: 'STOPP',
        by: '+46701740612',
        ref: null,
      },
    ]),
  );
  const more = await examined(
    'more.csv',
    'mobile;boat;nights\n07700 900123;Heron II;12\n+46701740612;Tern;\n07700 900199;Teal;3\n',
  );
  await planImport(ctx, SYSTEM, more.id, { ...more.row.plan, consent: { ways: ['text', 'chat'], source: 'Form' } });
  await state(more.id, 'preview');
  expect(await imported(more.id)).toEqual({ created: 1, merged: 2, unchanged: 0, refused: 0 });
  expect((await contact('+447700900123'))?.attributes).toEqual({ boat: 'Heron II', nights: '12' });
  expect((await contact('+46701740612'))?.consents.map(({ way, state: now }) => `${way} ${now}`).sort()).toEqual([
    'chat given',
    'text withdrawn',
  ]);

  expect(await undoImport(ctx, SYSTEM, more.id)).toEqual({ removed: 1, kept: 0 });
  expect(await contact('+447700900199')).toBeUndefined();
  expect((await contact('+447700900123'))?.attributes).toEqual({ boat: 'Heron' });
  const undone = await contact('+46701740612');
  expect(undone?.consents.map(({ way, state: now }) => `${way} ${now}`)).toEqual(['text withdrawn']);
  expect(undone?.ledger.map(({ what }) => what)).toEqual(['retracted', 'given', 'withdrawn', 'given']);
});

test('a plan that is changed while it is examined is examined from the beginning; one that was not examined is not imported by', async () => {
  const { ctx } = house;
  const file = ['phone', ...Array.from({ length: 6000 }, (_, n) => `+4478${String(10_000_000 + n)}`)].join('\n');
  const { id } = await beginImport(ctx, SYSTEM, { name: 'mixed.csv', content: Buffer.from(file), country: 'GB' });
  const row = async () => found(await ctx.store.imports.one({ id }), 'import');
  for (const tag of ['one', 'two', 'three']) {
    await until('some lines are examined', async () => (await row()).done > 0);
    await planImport(ctx, SYSTEM, id, { ...(await row()).plan, tags: [tag] });
  }
  await state(id, 'preview');
  const examinedRow = await row();
  expect(examinedRow).toMatchObject({ done: 6000, created: 6000, plan: { tags: ['three'] } });
  expect(await ctx.store.importLines.count({ import_id: id })).toBe(6000);
  const shown = { ...examinedRow.plan, consent: { ways: ['text' as const], source: 'Form' } };
  await expect(runImport(ctx, SYSTEM, id, shown)).rejects.toThrow(/not examined yet/);
  expect((await row()).state).toBe('preview');
  await cancelImport(ctx, SYSTEM, id);
});

test('ended in between, and gone on with after a restart', async () => {
  const { ctx } = house;
  const file = ['phone', ...Array.from({ length: 20_000 }, (_, n) => `+4479${String(10_000_000 + n)}`)].join('\n');
  const { id, row } = await examined('many.csv', file);
  expect(row.created).toBe(20_000);
  await runImport(ctx, SYSTEM, id);
  await until('it is under way', async () => ((await ctx.store.imports.one({ id }))?.done ?? 0) > 500);
  await end(house.engine);
  const stopped = await ctx.store.imports.one({ id });
  expect(stopped?.state).toBe('running');
  expect(stopped?.done).toBeLessThan(20_000);
  await house.startEngine();
  await until(
    'it goes on',
    async () => ((await ctx.store.imports.one({ id }))?.done ?? 0) > (stopped?.done ?? 0) + 1000,
  );
  await cancelImport(ctx, SYSTEM, id);
  // What is under way is ended with the engine.
  await end(house.engine);
  await house.startEngine();
  const ended = await ctx.store.imports.one({ id });
  expect(ended?.state).toBe('cancelled');
  expect(ended?.done).toBeLessThan(20_000);
  const made = await ctx.store.importLines.count({ import_id: id, outcome: 'created' });
  expect(made).toBe(ended?.created);
  const before = await ctx.store.contacts.count();
  expect(await undoImport(ctx, SYSTEM, id)).toEqual({ removed: made, kept: 0 });
  expect(await ctx.store.contacts.count()).toBe(before - made);
});

test.each([
  ['pictures.png', 'x', /no file of contacts/],
  ['empty.csv', '', /no contact in the file/],
  ['names.csv', 'phone\n', /no contact in the file/],
  ['binary.csv', 'a\u0000b', /no CSV/],
  ['fake.xlsx', 'phone\n1', /no XLSX/],
])('%s is refused with what it is', async (name, content, reason) => {
  await expect(beginImport(house.ctx, SYSTEM, { name, content: Buffer.from(content) })).rejects.toThrow(reason);
});

describe('vCards', () => {
  const card = (...lines: string[]) => ['BEGIN:VCARD', 'VERSION:4.0', ...lines, 'END:VCARD', ''].join('\r\n');
  test.each([
    [
      card('FN:Ada Fenn', 'TEL;TYPE=home:+44 20 7946 0001', 'TEL;VALUE=uri;TYPE=cell:tel:+447700900150'),
      { name: 'Ada Fenn', phone: '+447700900150' },
    ],
    [
      card('N:Fenn;Ada;;;', 'TEL:+447700900150', 'ORG:Mossgate;Locks', 'CATEGORIES:club,moorings'),
      { name: 'Ada Fenn', organisation: 'Mossgate, Locks', tags: 'club,moorings' },
    ],
    [card('FN:Zoë \\, of the\\nlock', 'NOTE:a long li', ' ne', 'LANG:fr'), { note: 'a long line', language: 'fr' }],
  ])('is read', (text, record) => {
    expect(readCard(text)).toMatchObject({ ok: true, record });
  });

  test('a file of them, with one that is broken', async () => {
    const { row, refused, id } = await examined(
      'book.vcf',
      card('FN:Ada Fenn', 'TEL:+447700900150') +
        card('FN:None') +
        card('FN:Broken', 'TEL+447') +
        card('FN:Bo', 'TEL:07700 900151'),
    );
    expect([row.created, row.refused]).toEqual([2, 2]);
    expect(refused.map(({ reason }) => reason)).toEqual([
      'There is no phone number.',
      expect.stringContaining('card cannot be read'),
    ]);
    await imported(id);
    expect((await contact('+447700900151'))?.contact.name).toBe('Bo');
  });
});

async function exported(format: 'csv' | 'vcf' | 'jsonl', audience?: Group) {
  let text = '';
  for await (const piece of exportContacts(house.ctx, SYSTEM, { format, audience })) text += piece;
  return text;
}

test('what is exported is read again by other programs, and is no formula in a spreadsheet', async () => {
  const { ctx } = house;
  const { id } = await addContact(ctx, SYSTEM, { name: '=HYPERLINK("x")', address: '+447700900177' });
  await changeContact(ctx, SYSTEM, id, {
    name: '=HYPERLINK("x")',
    language: 'sv',
    zone: 'Europe/Stockholm',
    tags: ['a, b', 'C'],
    attributes: { boat: '+cmd', nights: '1 200' },
  });
  const who: Group = { match: 'all', of: [{ on: 'tag', is: 'has', tag: 'c' }] };
  const [row] = parse(await exported('csv', who), { bom: true, columns: true }) as Record<string, string>[];
  expect(row).toMatchObject({
    name: '\'=HYPERLINK("x")',
    phone: '+447700900177',
    language: 'sv',
    'time zone': 'Europe/Stockholm',
    boat: "'+cmd",
    nights: '1 200',
  });
  const [json] = (await exported('jsonl', who))
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  expect(json).toMatchObject({ name: '=HYPERLINK("x")', phones: ['+447700900177'], tags: ['a, b', 'c'] });

  const cards = await exported('vcf');
  expect(cards.split('\r\n').every((line) => Buffer.byteLength(line) <= 75)).toBe(true);
  const component = new ICAL.Component(ICAL.parse((await exported('vcf', who)).trim()) as never);
  expect(component.getFirstPropertyValue('fn')).toBe('=HYPERLINK("x")');
  expect(component.getFirstProperty('categories')?.getValues()).toEqual(['a, b', 'c']);
  // All of it comes in again and changes nothing.
  const back = await examined('contacts.vcf', cards);
  expect([back.row.created, back.row.refused]).toEqual([0, 0]);
});

test('evidence of one person, line by line', async () => {
  const tomas = await contact('+46701740612');
  const lines = (await exportConsents(house.ctx, SYSTEM, tomas?.contact.id ?? ''))
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, string>);
  expect(lines.map(({ what, how }) => `${what} ${how}`)).toEqual([
    'given import',
    'withdrawn word',
    'given import',
    'retracted import',
  ]);
  expect(lines[0]?.at).toMatch(/^\d{4}-\d\d-\d\dT/);
});

describe('audiences', () => {
  const count = (conditions: unknown) => countAudience(house.ctx, SYSTEM, readGroup(conditions));
  const all = (...of: object[]) => ({ match: 'all', of });
  const any = (...of: object[]) => ({ match: 'any', of });

  test.each([
    ['a tag', () => all({ on: 'tag', is: 'has', tag: 'moorings' }), ['Ines Calder']],
    ['declined', () => all({ on: 'consent', way: 'text', is: 'withdrawn' }), ['Tomas Lindqvist']],
    [
      'above a number, written with a space',
      () => all({ on: 'attribute', name: 'nights', is: 'above', value: '1100' }),
      ['=HYPERLINK("x")'],
    ],
    [
      'one of two countries and a boat',
      () =>
        all(
          { on: 'country', is: 'one of', values: ['GB', 'SE'] },
          { on: 'attribute', name: 'boat', is: 'contains', value: 'er' },
        ),
      ['Ines Calder', 'Tomas Lindqvist'],
    ],
    [
      'groups in groups',
      () =>
        any(
          all({ on: 'language', is: 'one of', values: ['sv'] }, { on: 'consent', way: 'text', is: 'unknown' }),
          all({ on: 'tag', is: 'has', tag: 'club' }),
        ),
      ['=HYPERLINK("x")', 'Ines Calder'],
    ],
    ['nobody wrote', () => all({ on: 'wrote', is: 'within', days: 3 }), []],
  ])('%s', async (_, conditions, names) => {
    const group = readGroup(conditions());
    const { lines } = await browseContacts(house.ctx, SYSTEM, { audience: group, limit: 50 });
    expect(lines.map(({ name }) => name).sort()).toEqual([...names].sort());
    expect(await count(group)).toBe(names.length);
  });

  test('what one side has the other lacks, whatever the condition', async () => {
    const everybody = await count(all());
    const pairs: [object, object][] = [
      [
        { on: 'tag', is: 'has', tag: 'club' },
        { on: 'tag', is: 'lacks', tag: 'club' },
      ],
      [
        { on: 'attribute', name: 'boat', is: 'set' },
        { on: 'attribute', name: 'boat', is: 'unset' },
      ],
      [
        { on: 'country', is: 'one of', values: ['SE'] },
        { on: 'country', is: 'none of', values: ['SE'] },
      ],
      [
        { on: 'wrote', is: 'within', days: 9 },
        { on: 'wrote', is: 'not within', days: 9 },
      ],
      [
        { on: 'window', is: 'open', hours: 24 },
        { on: 'window', is: 'closed', hours: 24 },
      ],
    ];
    for (const [one, other] of pairs) expect((await count(all(one))) + (await count(all(other)))).toBe(everybody);
  });

  test('kept by name, and nothing that is no condition', async () => {
    const { ctx } = house;
    const first = await saveAudience(ctx, SYSTEM, {
      name: 'Moorings',
      conditions: all({ on: 'tag', is: 'has', tag: 'moorings' }),
    });
    expect(await saveAudience(ctx, SYSTEM, { name: 'Moorings', conditions: all() })).toEqual(first);
    for (const wrong of [
      { match: 'none', of: [] },
      all({ on: 'tag', is: 'has' }),
      all({ on: 'name', is: "x' OR 1" }),
      { match: 'all', of: [all(all(all(all())))] },
    ])
      await expect(saveAudience(ctx, SYSTEM, { name: 'x', conditions: wrong })).rejects.toThrow(/cannot be read/);
    expect(await count(all({ on: 'attribute', name: "boat' OR '1'='1", is: 'set' }))).toBe(0);
  });

  test('looked for by part of a number however it is written, and by part of a name', async () => {
    const found = async (search: string) =>
      (await browseContacts(house.ctx, SYSTEM, { search, limit: 50 })).lines.map(({ name }) => name);
    expect(await found('07700 900 123')).toEqual(['Ines Calder']);
    expect(await found('0174-06')).toEqual(['Tomas Lindqvist']);
    expect(await found('calder')).toEqual(['Ines Calder']);
    expect(await found('%')).toHaveLength((await browseContacts(house.ctx, SYSTEM, { limit: 50 })).lines.length);
  });
});
