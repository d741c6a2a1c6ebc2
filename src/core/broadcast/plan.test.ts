import fc from 'fast-check';
import { expect, test } from 'vitest';
import { LEFT_OUT_CODES, type LeftOutCode } from './leftOut';
import { addressKey, judge, type PlanChannel, type PlanFacts, type PlanIdentity, type PlanPerson } from './plan';
import { createTimetable } from './timetable';

const NOW = Date.parse('2026-12-01T08:00:00Z');
const DAY = 86_400_000;

const desk: PlanChannel = {
  id: 'desk',
  name: 'Harbour desk',
  kind: 'sms-http',
  address: '+442079460114',
  accountId: 'acc1',
  accountName: 'Brackwater',
  facts: {},
  requires: { registrationCountries: ['US'] } as unknown as PlanChannel['requires'],
  disabled: false,
  senderName: false,
  purpose: null,
  sendsTexts: true,
  answered: true,
  registeredIn: [],
  destinations: { countries: ['GB', 'SE'], costly: [] },
  prices: [{ to: 'GB', kind: 'any', micros: 30_000, currency: 'EUR' }],
  longestText: 1600,
};
const chat: PlanChannel = { ...desk, id: 'chat', kind: 'business-chat', accountId: 'acc2', replyWindowHours: 24 };

const facts: PlanFacts = {
  now: NOW,
  message: { purpose: 'notice', text: 'Lock closed, {{ first_name }}.', choices: [], anyLanguage: false },
  channels: [desk],
  due: createTimetable({ at: 'once' }, NOW),
  zone: 'Europe/London',
  taken: new Set(),
};
const phone = (value: string, more: Partial<PlanIdentity> = {}): PlanIdentity => ({
  kind: 'phone',
  scope: '',
  value,
  doubted: false,
  agreed: [],
  ...more,
});
const ada: PlanPerson = {
  identities: [phone('+447700900151')],
  declined: new Set(),
  record: { first_name: 'Ada' },
  attributes: { 'first name': 'Ada' },
  wroteTo: new Map(),
  gotLately: 0,
  heldOut: false,
};
const codeOf = (changed: Partial<PlanFacts>, person: Partial<PlanPerson> = {}): LeftOutCode | undefined => {
  const judged = judge({ ...facts, ...changed }, { ...ada, ...person });
  return judged.goes ? undefined : judged.why.code;
};

test('a message as it would leave: text, parts, price, zone', () => {
  expect(judge(facts, ada)).toEqual({
    goes: true,
    message: {
      channelId: 'desk',
      identity: { kind: 'phone', scope: '', value: '+447700900151' },
      country: 'GB',
      maybeLandline: false,
      text: 'Lock closed, Ada.',
      choices: null,
      encoding: 'GSM-7',
      parts: 1,
      price: { micros: 30_000, currency: 'EUR' },
      due: { at: NOW },
      zone: { zone: 'Europe/London', from: 'number' },
    },
  });
});

const GB_LANDLINE = '+442079460999';
const channel = (changed: Partial<PlanChannel>) => ({ channels: [{ ...desk, ...changed }] });
const marketing = { message: { ...facts.message, purpose: 'marketing' as const } };
const agreed = { identities: [phone('+447700900151', { agreed: [{ way: 'text', account: '' }] })] };
const template = { id: 'tpl', name: 'notice', accountId: 'acc1', variants: [], unserved: 'it is in review' };
const swedish = { language: 'sv', header: undefined, body: 'Stängt.', buttons: [], samples: {} };

test.each<[LeftOutCode, Partial<PlanFacts>, Partial<PlanPerson>]>([
  ['declined', {}, { declined: new Set(['text']) }],
  ['no-consent', marketing, {}],
  ['no-consent', marketing, { identities: [phone('+447700900151', { agreed: [{ way: 'chat', account: '' }] })] }],
  ['no-address', {}, { identities: [] }],
  ['address-invalid', {}, { identities: [phone('+4477')] }],
  ['address-doubted', {}, { identities: [phone('+447700900151', { doubted: true })] }],
  ['landline', {}, { identities: [phone(GB_LANDLINE)] }],
  ['number-costly', {}, { identities: [phone('+449098790001')] }],
  ['duplicate', { taken: new Set([addressKey(phone('+447700900151'))]) }, {}],
  ['held-out', {}, { heldOut: true }],
  ['value-missing', {}, { record: {} }],
  ['text-too-long', channel({ longestText: 10 }), {}],
  ['window-closed', channel({ replyWindowHours: 24 }), { wroteTo: new Map([['desk', NOW - DAY - 1]]) }],
  ['template-not-approved', { template }, {}],
  [
    'template-not-approved',
    { template: { ...template, unserved: undefined, variants: [swedish] } },
    { language: 'en' },
  ],
  ['trial-unverified', channel({ facts: { trial: true, verifiedPhones: [] } }), {}],
  ['country-off', channel({ facts: { countries: ['SE'] } }), {}],
  ['destination-not-allowed', channel({ destinations: { countries: ['SE'], costly: [] } }), {}],
  [
    'registration-missing',
    channel({ facts: { registrations: [] }, requires: { registrationCountries: ['GB'] } as never }),
    {},
  ],
  [
    'sender-name-refused',
    channel({ senderName: true, destinations: { countries: ['US'], costly: [] } }),
    { identities: [phone('+12015550123')] },
  ],
  [
    'sender-name-unregistered',
    channel({ senderName: true, destinations: { countries: ['AU'], costly: [] } }),
    { identities: [phone('+61491570006')] },
  ],
  ['purpose-forbids', channel({ purpose: 'tests' }), {}],
  ['purpose-forbids', { ...marketing, ...channel({ purpose: 'main-line' }) }, agreed],
  ['channel-cannot-send', channel({ disabled: true }), {}],
  ['channel-cannot-send', channel({ sendsTexts: false }), {}],
  ['cap-reached', { ...marketing, cap: { most: 2, days: 7 } }, { ...agreed, gotLately: 2 }],
  ['time-passed', { due: () => undefined }, {}],
  ['too-late', { validUntil: NOW }, {}],
])('%s', (code, changed, person) => {
  expect(codeOf(changed, person)).toBe(code);
});

test('where mobile and landline cannot be told apart nobody is left out for it; it is counted', () => {
  const judged = judge(
    { ...facts, ...channel({ destinations: { countries: ['US'], costly: [] } }) },
    { ...ada, identities: [phone('+12015550123')] },
  );
  expect(judged).toMatchObject({ goes: true, message: { maybeLandline: true } });
});

test('chat first, else a text, with the reason; the reason of the first that has an address where none goes', () => {
  const both = { ...facts, channels: [chat, desk] };
  expect(judge(both, { ...ada, wroteTo: new Map([['chat', NOW - 1]]) })).toMatchObject({
    message: { channelId: 'chat' },
  });
  expect(judge(both, ada)).toMatchObject({
    message: { channelId: 'desk', insteadOf: { channelId: 'chat', code: 'window-closed' } },
  });
  expect(judge(both, { ...ada, declined: new Set(['chat', 'text']) })).toEqual({
    goes: false,
    why: { code: 'declined', channelId: 'chat' },
  });
});

/**
 * What stands against a message over one channel, each reason by itself and none before another: written from the rules
 * alone, and not in the order in which the plan looks.
 */
function against(all: PlanFacts, person: PlanPerson, over: PlanChannel): Set<LeftOutCode> {
  const found = new Set<LeftOutCode>();
  const way = over.kind === 'business-chat' ? 'chat' : 'text';
  const id = person.identities.find(({ kind }) => kind === 'phone');
  if (person.heldOut) found.add('held-out');
  if (person.declined.has(way)) found.add('declined');
  if (!id) return found.add('no-address');
  const country = id.value.startsWith('+44') ? 'GB' : id.value.startsWith('+46') ? 'SE' : 'US';
  if (id.doubted) found.add('address-doubted');
  if (id.value === GB_LANDLINE) found.add('landline');
  if (all.taken.has(addressKey(id))) found.add('duplicate');
  const isMarketing = all.message.purpose === 'marketing';
  const has = id.agreed.filter((each) => each.way === way).map(({ account }) => account);
  if (isMarketing && !has.includes('') && !has.includes(over.accountId)) found.add('no-consent');
  if (isMarketing && all.cap && !(person.gotLately < all.cap.most)) found.add('cap-reached');
  const wroteLately = person.lastWroteAt !== undefined && NOW - person.lastWroteAt < 30 * DAY;
  if (!over.destinations.countries.includes(country) && !wroteLately) found.add('destination-not-allowed');
  if (over.facts.countries && !over.facts.countries.includes(country)) found.add('country-off');
  if (over.facts.trial && !over.facts.verifiedPhones?.includes(id.value)) found.add('trial-unverified');
  if (over.disabled || !over.sendsTexts) found.add('channel-cannot-send');
  if (over.purpose === 'tests') found.add('purpose-forbids');
  if (over.purpose === 'one-time-codes' && (isMarketing || !wroteLately)) found.add('purpose-forbids');
  if (isMarketing && over.purpose === 'main-line') found.add('purpose-forbids');
  if (over.replyWindowHours) {
    const last = person.wroteTo.get(over.id);
    if (last === undefined || NOW - last >= over.replyWindowHours * 3_600_000) found.add('window-closed');
  }
  if (!person.record.first_name) found.add('value-missing');
  if (all.validUntil !== undefined && all.validUntil <= NOW) found.add('too-late');
  return found;
}

const sometimes = <T>(value: T, otherwise: T) => fc.constantFrom(otherwise, otherwise, otherwise, value);
const anyChannel = fc.record({
  base: fc.constantFrom(desk, chat),
  disabled: sometimes(true, false),
  sendsTexts: sometimes(false, true),
  purpose: fc.constantFrom<PlanChannel['purpose'][]>(null, null, 'tests', 'one-time-codes', 'main-line', 'marketing'),
  trial: sometimes(true, false),
  off: sometimes(true, false),
  open: fc.constantFrom(['GB', 'SE', 'US'], ['GB', 'SE', 'US'], ['SE']),
});
const anyPerson = fc.record({
  value: fc.constantFrom('+447700900151', '+447700900152', '+46701740612', '+12015550123', GB_LANDLINE, undefined),
  doubted: sometimes(true, false),
  agreed: fc.subarray(['text ', 'chat ', 'chat acc2', 'chat acc9']),
  declined: fc.constantFrom<('text' | 'chat')[][]>([], [], [], ['text'], ['chat'], ['text', 'chat']),
  named: sometimes(false, true),
  wroteChat: fc.constantFrom(undefined, NOW - 1000, NOW - DAY, NOW - 2 * DAY),
  wroteAt: fc.constantFrom(undefined, NOW - DAY, NOW - 31 * DAY),
  got: fc.integer({ min: 0, max: 3 }),
  heldOut: sometimes(true, false),
});

test('nobody is both in and out, no reason is missing, and nobody who declined is ever written to', () => {
  const seen = new Set<LeftOutCode>();
  fc.assert(
    fc.property(
      fc.array(anyChannel, { minLength: 1, maxLength: 3 }),
      fc.array(anyPerson, { minLength: 1, maxLength: 12 }),
      fc.record({ marketing: fc.boolean(), cap: fc.boolean(), late: sometimes(true, false) }),
      (channels, people, how) => {
        const taken = new Set<string>();
        const all: PlanFacts = {
          ...facts,
          message: { ...facts.message, purpose: how.marketing ? 'marketing' : 'notice' },
          cap: how.cap ? { most: 2, days: 7 } : undefined,
          validUntil: how.late ? NOW : undefined,
          taken,
          channels: channels.map(({ base, trial, off, open, ...rest }, index) => ({
            ...base,
            ...rest,
            id: `${base.id}${index}`,
            facts: {
              ...(trial ? { trial, verifiedPhones: ['+447700900152'] } : {}),
              ...(off ? { countries: ['US'] } : {}),
            },
            destinations: { countries: open, costly: [] },
          })),
        };
        for (const each of people) {
          const person: PlanPerson = {
            ...ada,
            identities: each.value
              ? [
                  phone(each.value, {
                    doubted: each.doubted,
                    agreed: each.agreed.map((one) => ({
                      way: one.split(' ')[0] as 'text',
                      account: one.split(' ')[1] ?? '',
                    })),
                  }),
                ]
              : [],
            declined: new Set(each.declined),
            record: each.named ? { first_name: 'Ada' } : {},
            wroteTo: new Map(
              each.wroteChat === undefined ? [] : all.channels.map(({ id }) => [id, each.wroteChat as number]),
            ),
            lastWroteAt: each.wroteAt,
            gotLately: each.got,
            heldOut: each.heldOut,
          };
          const judged = judge(all, person);
          const reasons = all.channels.map((over) => against(all, person, over));
          if (judged.goes) {
            const index = all.channels.findIndex(({ id }) => id === judged.message.channelId);
            expect([...(reasons[index] ?? ['none'])]).toEqual([]);
            expect(reasons.slice(0, index).every((set) => set.size > 0)).toBe(true);
            expect(person.declined.has(all.channels[index]?.kind === 'business-chat' ? 'chat' : 'text')).toBe(false);
            taken.add(addressKey(judged.message.identity));
          } else {
            expect(reasons.every((set) => set.size > 0)).toBe(true);
            expect(LEFT_OUT_CODES).toContain(judged.why.code);
            expect(reasons.some((set) => set.has(judged.why.code))).toBe(true);
            seen.add(judged.why.code);
          }
        }
      },
    ),
    { numRuns: 1500 },
  );
  expect(seen.size).toBeGreaterThanOrEqual(13);
});
