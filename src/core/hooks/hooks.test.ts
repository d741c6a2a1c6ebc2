import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { PostedRecord } from '../text/fields';
import { examineHook, meantFor } from './examineHook';
import { type HookDefinition, type MappedTemplate, orderFrom, phoneFields } from './order';
import { readPost } from './post';

const HOOK: HookDefinition = {
  text: 'Berth {{ berth }} is yours, {{ guest.name }}.',
  phoneField: 'guest.mobile',
  country: 'GB',
  sender: { by: 'channel', channel: 'chn_1' },
};
const GOOD: PostedRecord = { berth: 4, guest: { name: 'Ada', mobile: '07700 900123' } };

describe('reading a post', () => {
  test.each([
    ['application/json', '{"a":1}', { a: 1 }],
    ['application/vnd.x+json; charset=utf-8', '\ufeff {"a":{"b":[1]}}', { a: { b: [1] } }],
    ['text/plain', '{"a":1}', { a: 1 }],
    ['application/json', '[{"a":1}]', { a: 1 }],
    ['application/x-www-form-urlencoded', 'a=1&b=x+y&a=2&c%5Bd%5D=%C3%A9', { a: ['1', '2'], b: 'x y', 'c[d]': 'é' }],
    [undefined, 'a=1', { a: '1' }],
    ['application/x-www-form-urlencoded', '{"a":1}', { a: 1 }],
  ])('%s %s', (type, body, record) => {
    expect(readPost(type, body)).toMatchObject({ ok: true, record });
  });

  test.each([
    ['application/json', '{"a":', 'not whole JSON'],
    ['application/json', '"text"', 'a single value'],
    ['application/json', '[{},{}]', 'a list of 2'],
    ['application/json', '', 'empty'],
    ['multipart/form-data; boundary=x', '--x', 'a form with files'],
    ['text/plain', 'hello', 'neither a form nor JSON'],
    ['application/x-www-form-urlencoded', 'a=1&'.repeat(1001), 'more than 1000 fields'],
    ['application/x-www-form-urlencoded', `${'n'.repeat(201)}=1`, 'longer than 200 characters'],
    ['application/json', `{"a":${'['.repeat(40)}${']'.repeat(40)}}`, 'more than 32 deep'],
    // Deeper than any stack, and still only refused.
    ['application/json', `{"a":${'['.repeat(100_000)}${']'.repeat(100_000)}}`, 'more than 32 deep'],
    ['application/json', JSON.stringify({ a: Array(10_001).fill(0) }), 'more than 10000 values'],
    ['application/json', JSON.stringify({ a: { ['.a'.repeat(101)]: 1 } }), 'longer than 200 characters'],
  ])('%s %j is refused with the reason', (type, body, reason) => {
    expect(readPost(type, body)).toEqual({ ok: false, reason: expect.stringContaining(reason) });
  });
});

describe('reading a post takes time in proportion to its length', () => {
  test('a field that comes a thousand times is one list, made once', () => {
    const post = readPost(
      'application/x-www-form-urlencoded',
      Array.from({ length: 1000 }, (_, i) => `a=${i}`).join('&'),
    );
    expect(post).toMatchObject({ ok: true, record: { a: Array.from({ length: 1000 }, (_, i) => String(i)) } });
  });

  test('names that objects have by themselves are fields like others', () => {
    const post = readPost(undefined, '__proto__=1&constructor=2&__proto__=3');
    expect(post.ok && Object.entries(post.record)).toEqual([
      ['__proto__', ['1', '3']],
      ['constructor', '2'],
    ]);
  });

  test('160 kB of one field are refused for their number', () => {
    expect(readPost('application/x-www-form-urlencoded', `${'a&'.repeat(80_000)}=`)).toMatchObject({ ok: false });
  });
});

describe('a message of a record', () => {
  test('number in E.164, text with the fields in it', () => {
    expect(orderFrom(HOOK, GOOD)).toEqual({
      ok: true,
      order: { to: '+447700900123', text: 'Berth 4 is yours, Ada.', from: undefined, media: undefined },
    });
  });

  const codes = (definition: Partial<HookDefinition>, record: PostedRecord) => {
    const result = orderFrom({ ...HOOK, ...definition }, record);
    return result.ok ? [] : result.findings.map((finding) => `${finding.field} ${finding.code}`);
  };

  test.each<[string, Partial<HookDefinition>, PostedRecord, string]>([
    ['a label instead of the field’s name', { phoneField: 'Guest Mobile' }, GOOD, 'phoneField phone-in-other-field'],
    [
      'a label where no field holds a number',
      { phoneField: 'Mobile No' },
      { ...GOOD, guest: { name: 'Ada', mobile: '' }, mobile_no: '' },
      'phoneField field-label',
    ],
    ['another letter case', { text: 'Berth {{ Berth }}' }, GOOD, 'text field-letter-case'],
    ['the number in another field', { phoneField: 'berth' }, GOOD, 'phoneField phone-in-other-field'],
    ['a national number without a country', { country: undefined }, GOOD, 'phoneField phone-national'],
    [
      'a record without a phone',
      {},
      { berth: 4, guest: { name: 'Ada', mobile: null } },
      'phoneField record-without-phone',
    ],
    ['a number that is none', {}, { berth: 4, guest: { name: 'Ada', mobile: '12' } }, 'phoneField phone-unreadable'],
    ['a group for a number', { phoneField: 'guest' }, GOOD, 'phoneField field-group'],
    ['an empty name', {}, { ...GOOD, guest: { name: ' ', mobile: '07700 900123' } }, 'text field-empty'],
    ['no owner', { sender: { by: 'field', field: 'owner' } }, { ...GOOD, owner: '' }, 'sender sender-empty'],
    ['a file that is none', { mediaField: 'file' }, { ...GOOD, file: 'plan' }, 'mediaField media-unreadable'],
  ])('%s', (_, definition, record, code) => {
    expect(codes(definition, record)).toEqual([code]);
  });

  test('the sender a record names, and its file; a record without a file goes without', () => {
    const definition: HookDefinition = { ...HOOK, sender: { by: 'field', field: 'keeper.number' }, mediaField: 'plan' };
    const record = {
      ...GOOD,
      keeper: { number: '+44 7700 900811' },
      plan: 'https://mossgate.example/plans/4.PDF?v=2',
    };
    expect(orderFrom(definition, record)).toMatchObject({
      ok: true,
      order: { from: '+44 7700 900811', media: { url: record.plan, type: 'application/pdf' } },
    });
    expect(orderFrom(definition, { ...record, plan: '' })).toMatchObject({ ok: true, order: { media: undefined } });
  });

  test('fields that hold a phone: by their sign or their name, never an order’s number', () => {
    const record = {
      order: '20261125001',
      work: '+44 20 7946 0114',
      contact: { 'Mobile phone': '07700 900123' },
      fax: 'none',
    };
    expect(phoneFields(record, 'GB')).toEqual(['contact.Mobile phone', 'work']);
  });

  test('any body with any field names makes a message or findings, never an exception or an open token', () => {
    const names = fc.oneof(
      fc.string({ maxLength: 6 }),
      fc.constantFrom('guest', 'berth', '__proto__', 'post', 'toString'),
    );
    const values = fc.oneof(
      fc.jsonValue({ maxDepth: 2 }),
      fc.constantFrom('+447700900123', '{{ name }}', { mobile: '07700 900123', name: 'A' }),
    );
    const bodies = fc.dictionary(names, values, { maxKeys: 5 });
    const forms = bodies.map((body) =>
      new URLSearchParams(Object.entries(body).map(([k, v]) => [k, String(v)])).toString(),
    );
    fc.assert(
      fc.property(
        fc.oneof(
          bodies.map((body) => JSON.stringify(body)),
          forms,
          fc.string({ unit: 'binary' }),
        ),
        (body) => {
          const post = readPost(undefined, body);
          if (!post.ok) return;
          const result = orderFrom(HOOK, post.record);
          if (result.ok) expect(result.order.text).not.toMatch(/\{\{|\[object/);
          else expect(result.findings.length).toBeGreaterThan(0);
        },
      ),
      { numRuns: 500 },
    );
  });
});

describe('over the last posts', () => {
  test('what all have is an error; what some have is said with how many', () => {
    const noName: PostedRecord = { berth: 4, guest: { name: '', mobile: '07700 900123' } };
    expect(examineHook(HOOK, [GOOD, noName, GOOD])).toMatchObject({
      good: 2,
      of: 3,
      findings: [
        { code: 'field-empty', severity: 'attention', problem: expect.stringContaining('In 1 of the last 3 posts') },
      ],
    });
    expect(examineHook(HOOK, [noName]).findings).toMatchObject([{ severity: 'error' }]);
  });

  test('a post meant for another hook is recognised by its fields', () => {
    const berths = { id: 'a', name: 'Berth given', fields: ['berth', 'guest.name', 'guest.mobile'] };
    const locks = { id: 'b', name: 'Lock passage', fields: ['lock', 'time', 'phone'] };
    const passage = { lock: 'North', time: '14:00', phone: '07700 900123', note: '' };
    expect(meantFor(passage, berths, [locks])).toBe(locks);
    expect(meantFor(passage, locks, [berths])).toBe(undefined);
    expect(meantFor({ berth: 4, guest: { name: 'Ada' } }, berths, [locks])).toBe(undefined);
    expect(meantFor({ quite: 'different' }, berths, [locks])).toBe(undefined);
    expect(meantFor(passage, { ...berths, fields: [] }, [locks])).toBe(undefined);
  });
});

describe('a template of the record and of whom it is about', () => {
  const template: MappedTemplate = {
    id: 'tpl_1',
    variants: [
      { language: 'en', body: '{{ name }}, berth {{ berth }}', buttons: [], samples: {} },
      { language: 'sv', body: '{{ name }}, plats {{ berth }}', buttons: [], samples: {} },
    ],
    mapping: {
      name: { from: 'attribute', attribute: 'first name', fallback: 'skipper' },
      berth: { from: 'field', field: 'berth' },
    },
  };
  const textFor = (people: HookDefinition['people']) => {
    const result = orderFrom({ ...HOOK, template, people }, GOOD);
    return result.ok ? result.order.text : result.findings.map(({ code }) => code);
  };

  test('attributes come from the contact with the record’s number, in the language they read', () => {
    expect(textFor({ '+447700900123': { 'first name': 'Ines', language: 'sv' } })).toBe('Ines, plats 4');
  });

  test('a stranger, or somebody without the attribute, gets the fallback', () => {
    expect(textFor({ '+447700900999': { 'first name': 'Ines' } })).toBe('skipper, berth 4');
    expect(textFor({ '+447700900123': { 'first name': ' ', language: '' } })).toBe('skipper, berth 4');
    expect(textFor(undefined)).toBe('skipper, berth 4');
  });

  test('without a fallback it is not sent', () => {
    const bare: MappedTemplate = {
      ...template,
      mapping: { ...template.mapping, name: { from: 'attribute', attribute: 'boat' } },
    };
    expect(orderFrom({ ...HOOK, template: bare, people: {} }, GOOD)).toMatchObject({
      ok: false,
      findings: [{ code: 'field-empty', variable: 'name' }],
    });
  });
});
