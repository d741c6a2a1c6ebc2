import { createHmac } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { systemClock } from '../../clock/clock';
import type { ParsedInbound } from '../connector';
import { networkOf } from '../outside/network';
import { connectorFromProfile } from '../profile/connectorFromProfile';
import { readProfile } from '../profile/readProfile';
import { OutboundError, type OutboundHttp, type OutboundRequest, type OutboundResponse } from './outbound';

const YAML = readFileSync(join(__dirname, '../profiles/brackwater.yaml'), 'utf8');
const CREDENTIALS = {
  apiAddress: 'https://sms.example/v2',
  accountId: 'BWA0123456789',
  secret: `bws_${'s'.repeat(28)}`,
};
const TEXT = {
  reference: 'msg_1',
  sender: '+442079460114',
  recipient: '+447700900123',
  text: 'Say "hi"\n{{ name }}',
  receiptUrl: 'https://w.example/in/x/receipts',
  numberId: 'n-harbour',
};

/** A connector whose outside answers what it is told to, and remembers what it was asked. */
function connectorAnswering(answer: Partial<OutboundResponse> | Error, yaml = YAML) {
  const asked: OutboundRequest[] = [];
  const http: OutboundHttp = async (request) => {
    asked.push(request);
    if (answer instanceof Error) throw answer;
    return { status: 200, headers: {}, body: '{}', ...answer };
  };
  const connector = connectorFromProfile(readProfile(yaml, 'test'), {
    http,
    network: networkOf({ allowPrivate: true }),
    clock: { ...systemClock, now: () => 1_700_000_000_000 },
  });
  const send = (): ReturnType<NonNullable<typeof connector.send>> => {
    if (!connector.send) throw new Error('It sends');
    return connector.send(CREDENTIALS, TEXT);
  };
  return { asked, connector, send };
}

describe('requests', () => {
  test('are built from the templates, with credentials where the profile puts them and nowhere else', async () => {
    const { asked, send } = connectorAnswering({
      body: JSON.stringify({ text: { id: 'bwt_1', price: { amount: 0.038, currency: 'GBP' } } }),
    });
    const outcome = await send();
    expect(outcome).toMatchObject({
      ok: true,
      value: { providerMessageId: 'bwt_1', price: { micros: 38_000, currency: 'GBP' } },
    });
    expect(asked[0]).toMatchObject({ method: 'POST', url: 'https://sms.example/v2/texts' });
    // What people write is data, also when it looks like a template.
    expect(JSON.parse(asked[0]?.body ?? '')).toMatchObject({ text: TEXT.text, to: TEXT.recipient, reference: 'msg_1' });
    expect(asked[0]?.headers.authorization).toBe(
      `Basic ${Buffer.from(`${CREDENTIALS.accountId}:${CREDENTIALS.secret}`).toString('base64')}`,
    );
    expect(JSON.stringify(outcome.exchange)).not.toContain(CREDENTIALS.secret);
    expect(outcome.exchange?.request.headers.authorization).toBe('••••••');
  });

  test('a secret that comes back in an answer is masked in what is kept', async () => {
    const { connector } = connectorAnswering({ body: JSON.stringify({ account: { id: CREDENTIALS.secret } }) });
    expect(JSON.stringify((await connector.checkAccount(CREDENTIALS, {})).exchange)).not.toContain(CREDENTIALS.secret);
  });
});

describe('refusals become causes', () => {
  test.each([
    [401, 'account-unknown', 'credential-id-unknown'],
    [401, 'secret-wrong', 'credential-secret-wrong'],
    [401, 'something-new', 'credential-refused'],
    [402, 'credit-short', 'credit-gone'],
    [403, 'sender-unknown', 'sender-not-owned'],
    [400, 'number-malformed', 'address-malformed'],
    [429, 'too-fast', 'throttled'],
    [409, 'odd', 'request-refused'],
    [503, 'asleep', 'provider-error'],
  ])('%i %s: %s', async (status, code, cause) => {
    const { send } = connectorAnswering({
      status,
      body: JSON.stringify({ problem: { code, text: 'its words' } }),
    });
    const outcome = await send();
    const listed = !['odd', 'asleep'].includes(code);
    expect(outcome).toMatchObject({
      ok: false,
      failure: { cause, said: listed ? 'its words' : `its words (${code})` },
    });
    expect(!outcome.ok && outcome.failure.outcomeUnknown).toBeFalsy();
  });

  test.each([
    [402, 'limit-for-destination', 'request-refused'],
    [403, 'blocked-by-policy', 'request-refused'],
    [404, 'text-unknown', 'request-refused'],
  ])('%i %s is nobody’s neighbour', async (status, code, cause) => {
    const { send } = connectorAnswering({ status, body: JSON.stringify({ problem: { code, text: 'Its own words' } }) });
    expect(await send()).toMatchObject({ failure: { cause, said: `Its own words (${code})` } });
  });

  test.each([
    [401, {}, '<title>Sign in to the guest network</title>'],
    [403, { server: 'gate/2' }, '<h1>Blocked</h1>'],
    [407, {}, ''],
    [302, { location: 'http://portal.example/' }, ''],
    [404, {}, '{"error":"no upstream"}'],
  ])('%i that does not speak as the provider does came from somebody else', async (status, headers, body) => {
    const outcome = await connectorAnswering({ status, headers, body }).send();
    expect(outcome).toMatchObject({ failure: { cause: 'answered-by-other' } });
    expect(!outcome.ok && outcome.failure.outcomeUnknown).toBeFalsy();
  });

  test('a secret that comes back in a refusal is masked in what it is said to have said', async () => {
    const { send } = connectorAnswering({ status: 403, body: `<p>${CREDENTIALS.secret}</p>` });
    const outcome = await send();
    expect(!outcome.ok && outcome.failure.said).toMatch(/^403: “•+”$/);
  });

  test('Retry-After is passed on in milliseconds', async () => {
    const { send } = connectorAnswering({ status: 429, headers: { 'retry-after': '7' } });
    expect(await send()).toMatchObject({ failure: { retryAfter: 7000 } });
  });

  test('a yes that cannot be read, and a cut or late answer, leave the outcome unknown; no connection does not', async () => {
    const unknown = async (answer: Partial<OutboundResponse> | Error) => {
      const outcome = await connectorAnswering(answer).send();
      return outcome.ok ? 'accepted' : Boolean(outcome.failure.outcomeUnknown);
    };
    expect(await unknown({ status: 201, body: 'thanks!' })).toBe(true);
    expect(await unknown({ status: 201, body: '{"ok":true}' })).toBe(true);
    expect(await unknown(new OutboundError('timeout', 'late', true))).toBe(true);
    expect(await unknown(new OutboundError('unreachable', 'ECONNRESET', true))).toBe(true);
    expect(await unknown(new OutboundError('unreachable', 'ECONNREFUSED', false))).toBe(false);
  });
});

describe('what providers post', () => {
  const { connector } = connectorAnswering({});
  const posted = (content: unknown) => ({
    method: 'POST',
    url: 'https://w.example/in/x',
    headers: {},
    body: Buffer.from(typeof content === 'string' ? content : JSON.stringify(content)),
  });
  const post = (content: unknown) => connector.parse(posted(content), {});

  test('one or many, texts and receipts, in their order', () => {
    const parsed = post({
      events: [
        {
          kind: 'text-in',
          id: 'a',
          from: '+447700900123',
          to: '+442079460114',
          text: 'Hi',
          at: '2026-11-24T10:00:00Z',
        },
        { kind: 'report', id: 'b', reference: 'msg_1', state: 'lost', code: 'handset-off' },
        { kind: 'report', id: 'c', state: 'arrived' },
      ],
    });
    expect(parsed).toMatchObject({
      ok: true,
      items: [
        { kind: 'text', providerMessageId: 'a', at: Date.UTC(2026, 10, 24, 10) },
        {
          kind: 'receipt',
          state: 'undelivered',
          cause: 'handset-unreachable',
          said: 'lost (handset-off)',
          reference: 'msg_1',
        },
        { kind: 'receipt', state: 'delivered', cause: undefined },
      ],
    });
  });

  test.each([
    ['not JSON', 'the body is not JSON'],
    [{ events: [] }, "nothing at $.events[?@.kind=='text-in'] or $.events[?@.kind=='report']"],
    [{ events: [{ kind: 'text-in', id: 'x', from: '+1' }] }, 'nothing at $.to'],
  ])('%j is refused with its reason', (content, reason) => {
    expect(post(content)).toEqual({ ok: false, reason });
  });

  test('an event of a kind nobody listed is kept and named, alone and beside others; one that says no kind as well', () => {
    const fax = { kind: 'fax', pages: 2 };
    expect(post({ events: [fax] })).toEqual({
      ok: true,
      items: [],
      unread: [{ what: 'event', reason: 'an event of the kind "fax", which is not in the profile', unlisted: 'fax' }],
    });
    const text = { kind: 'text-in', id: 'x', from: '+447700900123', to: '+442079460114', text: 'Hi', at: 1 };
    expect(post({ events: [text, fax, { pages: 1 }] })).toMatchObject({
      items: [{ kind: 'text' }],
      unread: [{ unlisted: 'fax' }, { reason: 'an event that says no kind' }],
    });
  });

  test('an unknown failure code is a failure all the same; names every object has are no states', () => {
    expect(post({ events: [{ kind: 'report', id: 'x', state: 'lost', code: 'gremlins' }] })).toMatchObject({
      items: [{ cause: 'undelivered-unknown' }],
    });
    expect(post({ events: [{ kind: 'report', id: 'x', state: 'constructor' }] })).toMatchObject({
      items: [],
      unread: [{ unlisted: 'constructor' }],
    });
  });

  test('an unlisted word refuses none of its neighbours, and is told by itself', () => {
    const text = { kind: 'text-in', id: 'a', from: '+447700900123', to: '+442079460114', text: 'Hi' };
    const odd = { kind: 'report', id: 'b', state: 'evaporated' };
    const unread = [
      { what: 'receipt', reason: 'the state "evaporated" is not in the profile', unlisted: 'evaporated' },
    ];
    expect(post({ events: [text, odd, { kind: 'report', id: 'c', state: 'arrived' }] })).toMatchObject({
      ok: true,
      items: [{ kind: 'text' }, { kind: 'receipt', providerMessageId: 'c' }],
      unread,
    });
    expect(post({ events: [odd] })).toEqual({ ok: true, items: [], unread });
    const listed = YAML.replace(
      'states: { passed-on: sent, arrived',
      'states: { evaporated: nothing, passed-on: sent, arrived',
    );
    expect(connectorAnswering({}, listed).connector.parse(posted({ events: [odd] }), {})).toEqual({
      ok: true,
      items: [],
    });
  });

  test('no body whatever makes it throw', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (body) => {
        expect(post(body)).toHaveProperty('ok');
      }),
    );
  });
});

describe('an error inside an answer of 200', () => {
  const refused = (body: object, yaml = YAML) => connectorAnswering({ body: JSON.stringify(body) }, yaml).send();
  const known = (line: string) => YAML.replace('errors:\n', `errors:\n  ${line}\n`);

  test('is the refusal its code means, or one nobody listed in its words; never unknown', async () => {
    const code = { problem: { code: 'credit-short', text: 'Empty' } };
    expect(await refused(code)).toMatchObject({ ok: false, failure: { cause: 'credit-gone', said: 'Empty' } });
    const odd = await refused({ problem: { code: 'moon', text: 'Wrong moon' } });
    expect(odd).toMatchObject({ ok: false, failure: { cause: 'request-refused', said: 'Wrong moon (moon)' } });
    expect(odd.ok || odd.failure.outcomeUnknown).toBeFalsy();
  });

  test('is seen where the profile says that refusals, or acceptances, show', async () => {
    const sent = { text: { id: 'bwt_1' } };
    const where = known('refusedWhere: $.fault');
    expect(await refused({ ...sent, fault: 'no' }, where)).toMatchObject({ ok: false });
    for (const fault of [null, false, 0, ''])
      expect(await refused({ ...sent, fault }, where)).toMatchObject({ ok: true });
    const word = known('acceptedWhere: { at: $.ok, is: ["1"] }');
    expect(await refused({ ...sent, ok: 0 }, word)).toMatchObject({ ok: false });
    expect(await refused({ ...sent, ok: 1 }, word)).toMatchObject({ ok: true });
  });

  test('accepts no credentials, nor does an answer in which nothing stands that is looked for', async () => {
    const check = (body: object) =>
      connectorAnswering({ body: JSON.stringify(body) }).connector.checkAccount(CREDENTIALS, {});
    expect(await check({ problem: { code: 'secret-wrong' } })).toMatchObject({
      failure: { cause: 'credential-secret-wrong' },
    });
    expect(await check({ welcome: 'to the guest network' })).toMatchObject({ failure: { cause: 'answer-unread' } });
    expect(await check({ account: { id: 'BWA1', regions: [] } })).toMatchObject({ ok: true, value: { countries: [] } });
    expect((await check({ account: { id: 'BWA1' } })) as object).not.toHaveProperty('value.countries');
  });
});

test('a clock that is said in an answer is compared, but not one that somebody kept', async () => {
  const ahead = async (headers: Record<string, string>) => {
    const { connector } = connectorAnswering({ headers, body: '{"account":{"id":"x"}}' });
    const outcome = await connector.checkAccount(CREDENTIALS, {});
    return outcome.ok && outcome.value.clockAhead;
  };
  const date = new Date(1_700_000_000_000 + 840_000).toUTCString();
  expect(await ahead({ date })).toBe(840_000);
  expect(await ahead({ date, age: '900' })).toBeUndefined();
  expect(await ahead({ date: new Date(1_700_000_000_000 + 4000).toUTCString() })).toBe(0);
});

test('a secret however short is masked where it stands alone, and no letter of another word is', async () => {
  const { maskText } = await import('./mask');
  expect(maskText('token=k3&kind=k3x {"t":"k3"} ak3', ['k3'])).toBe('token=••••••&kind=k3x {"t":"••••••"} ak3');
  expect(maskText('a.b and a+b', ['a.b'])).toBe('•••••• and a+b');
});

describe('signatures', () => {
  const { connector } = connectorAnswering({});
  const now = 1_700_000_000_000;
  const sign = (body: string, time: string, secret = CREDENTIALS.secret) => ({
    'x-brackwater-time': time,
    'x-brackwater-signature': `h1=${createHmac('sha256', secret).update(`${time}.${body}`).digest('hex')}`,
  });
  const verdict = (headers: Record<string, string>, body = '{}') =>
    connector.verify(
      CREDENTIALS,
      { method: 'POST', url: 'https://w.example/in/x', headers, body: Buffer.from(body) },
      now,
    );

  test('valid, wrong, missing and stale are told apart', () => {
    expect(verdict(sign('{}', '1700000000'))).toBe('valid');
    expect(verdict(sign('{}', '1700000299'))).toBe('valid');
    expect(verdict(sign('{}', '1699999699'))).toBe('stale');
    expect(verdict(sign('{}', 'yesterday'))).toBe('stale');
    expect(verdict(sign('{}', '1700000000', 'another'))).toBe('wrong');
    expect(verdict(sign('{}', '1700000000'), '{ }')).toBe('wrong');
    expect(verdict({})).toBe('missing');
    const right = sign('{}', '1700000000');
    expect(verdict({ ...right, 'x-brackwater-signature': right['x-brackwater-signature'].slice(3) })).toBe('wrong');
    expect(verdict({ ...right, 'x-brackwater-signature': 'h1=' })).toBe('wrong');
  });

  test('a body that looks like a template is signed as it is', () => {
    const body = '{"events":["{{ timestamp }}"]}';
    expect(verdict(sign(body, '1700000000'), body)).toBe('valid');
  });
});

describe('a profile that is not right', () => {
  test.each([
    [(text: string) => text.replace('$.account.id', 'account.id'), /starts with \$/],
    [(text: string) => text.replace('cause: credit-gone', 'cause: broke'), /Invalid option/],
    [(text: string) => text.replace('limits:', 'limit:'), /limit/],
    [(text: string) => text.replace('^BWA[0-9A-Z]{10}$', '^BWA['), /Not a pattern/],
  ])('is refused with the place', (change, message) => {
    expect(() => readProfile(change(YAML), 'mine.yaml')).toThrow(message);
    expect(() => readProfile(change(YAML), 'mine.yaml')).toThrow('mine.yaml');
  });
});

test('a file by anything but a web address is left out, and its text is taken', () => {
  const { connector } = connectorAnswering({});
  const read = (address: string) => {
    const event = { kind: 'text-in', id: 'bwt_1', from: TEXT.recipient, to: TEXT.sender, at: '2026-05-04T10:00:00Z' };
    const body = Buffer.from(
      JSON.stringify({ events: [{ ...event, text: '', file: { address, type: 'image/png' } }] }),
    );
    const parsed = connector.parse(
      { method: 'POST', url: 'https://w.example/in/x', headers: {}, body },
      {},
    ) as ParsedInbound;
    return parsed.ok ? parsed.items[0] : undefined;
  };
  expect(read('https://files.example/a.png')).toMatchObject({ media: { url: 'https://files.example/a.png' } });
  for (const address of ['javascript:alert(1)', 'data:text/html,x', 'file:///etc/passwd', '//files.example/a.png'])
    expect(read(address), address).toMatchObject({ text: '[a file without a web address]', media: undefined });
});
