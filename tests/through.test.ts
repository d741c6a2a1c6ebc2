/** The whole way there and back over real wires, and what each outside party saw of it. */
import { CloudEvent } from 'cloudevents';
import { Webhook } from 'standardwebhooks';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { getTrail } from '../src/operations/log/trail';
import { callApi, connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
});
afterAll(() => installation.stop());

describe('a text, its answer by the app, and the answer’s receipt', () => {
  test('a lock request is answered on the handset and every hop is on one trail', async () => {
    const { ctx, bench } = installation;
    await bench.type(INES, mossgate.channel.address, 'LOCK Heron Staircase 14:20');
    const answer = await until('the answer is on the handset', async () =>
      (await bench.received(INES)).find((entry) => entry.text.startsWith('Passage booked: Heron Staircase')),
    );
    expect(answer).toMatchObject({ peer: mossgate.channel.address, encoding: 'GSM-7', parts: 1 });

    const message = await until('the receipt is in', () =>
      ctx.store.messages.one({ direction: 'out', state: 'delivered' }),
    );
    const trail = await until('the app was told of the delivery', async () => {
      const found = await getTrail(ctx, SYSTEM, message.id);
      return found.legs.every((leg) => leg.hops.every((hop) => hop.state === 'proven')) &&
        found.legs[1] &&
        found.legs[1].hops.length >= 7
        ? found
        : undefined;
    });
    expect(trail.legs.map((leg) => leg.hops.map((hop) => hop.place))).toEqual([
      ['Handset', 'Main account', 'Inbound URL', 'Harbour desk', 'Route', 'Lockbook'],
      ['Lockbook', 'Outbox', 'Main account', 'Network', 'Handset', 'Lockbook', 'Lockbook'],
    ]);
    for (const hop of trail.legs.flatMap((leg) => leg.hops)) expect(hop.at, hop.place).toBeGreaterThan(0);
    const shown = trail.legs.flatMap((leg) =>
      leg.hops.flatMap((hop) => hop.evidence.map((ref) => trail.evidence[ref.id])),
    );
    expect(shown.length).toBeGreaterThanOrEqual(6);
    expect(JSON.stringify(shown)).not.toContain(mossgate.secret);
    expect(JSON.stringify(shown)).not.toContain(mossgate.channel.inbound_token);
  });

  test('the four marks of the channel and both of the app are filled by that traffic', async () => {
    const { ctx } = installation;
    await until('every hop is proven', async () =>
      (await ctx.store.proofs.all()).every((proof) => proof.state === 'proven'),
    );
    expect(await ctx.store.proofs.count()).toBe(6);
  });
});

describe('a file with a text', () => {
  const file = { url: 'https://mossgate.example/plans/fallowfield.png', type: 'image/png' };
  const send = (body: object) => callApi(installation, mossgate.apiKey, 'POST', '/messages', { to: INES, ...body });

  test('goes to the handset, and what was sent says so', async () => {
    const answer = await send({ text: 'The plan of the lock', media: file });
    expect(answer).toMatchObject({ status: 202, body: { media: file } });
    const got = await until('it is on the handset', async () =>
      (await installation.bench.received(INES)).find((entry) => entry.text === 'The plan of the lock'),
    );
    expect(got.file).toEqual({ address: file.url, type: file.type });
    const { body } = await callApi(installation, mossgate.apiKey, 'GET', '/messages?direction=outbound&limit=1');
    expect(body.messages).toMatchObject([{ text: 'The plan of the lock', media: file }]);
    const alone = await send({ text: '', media: { ...file, type: 'application/pdf' } });
    expect(alone.status).toBe(202);
  });

  test('that nobody would carry is refused with what would be, before anything is sent', async () => {
    const odd = await send({ text: 'x', media: { ...file, type: 'application/zip' } });
    expect(odd.status).toBe(422);
    expect(JSON.stringify(odd.body)).toContain('does not carry application/zip');
    expect(JSON.stringify(odd.body)).toContain('image/png');
    expect((await send({ text: 'x', media: { url: 'ftp://mossgate.example/a.png', type: 'image/png' } })).status).toBe(
      422,
    );
    expect((await send({ text: '' })).status).toBe(422);
  });

  test('from a handset is kept, told to the app and shown', async () => {
    await installation.bench.type(TOMAS, mossgate.channel.address, 'The gate sticks', 'text', true);
    const message = await until('it is in', () => installation.ctx.store.messages.one({ text: 'The gate sticks' }));
    // Fetched, and handed on at our own address: nobody depends on the provider’s link.
    expect(message.media).toEqual({
      url: expect.stringMatching(new RegExp(`^${installation.origin}/media/fil_`)),
      type: 'image/png',
    });
    const file = await fetch(message.media?.url ?? '');
    expect([file.status, file.headers.get('content-type')]).toEqual([200, 'image/png']);
    const told = await until('the app has it', async () =>
      (await installation.bench.lockbook()).events.find((event) => event.message?.text === 'The gate sticks'),
    );
    expect(told.message?.media).toEqual(message.media);
  });
});

describe('the webhook', () => {
  test('is verified by the public library and read by the public events package; a changed body by neither', async () => {
    const { ctx } = installation;
    const delivery = await until('a delivery', () => ctx.store.deliveries.one({ state: 'delivered' }));
    const exchange = await ctx.store.exchanges.one({ subject_id: delivery.id });
    const secret = (await installation.bench.lockbook()).settings.secret;
    const headers = exchange?.request.headers ?? {};
    const { body } = delivery;
    const trail = await getTrail(ctx, SYSTEM, delivery.message_id ?? '');
    expect(trail.evidence[exchange?.id ?? '']?.request.body).toBe(body);

    const verified = new Webhook(secret).verify(body, headers) as Record<string, unknown>;
    const event = new CloudEvent(verified as never);
    expect(event).toMatchObject({ specversion: '1.0', type: 'windgap.message.received', subject: delivery.message_id });
    expect(event.validate()).toBe(true);

    const tampered = body.replace('LOCK Heron', 'LOCK Otter');
    expect(tampered).not.toBe(body);
    expect(() => new Webhook(secret).verify(tampered, headers)).toThrow();
    const { type: _, ...headless } = verified;
    expect(() => new CloudEvent(headless as never)).toThrow();
  });

  test('Lockbook verified every event it got and saw none twice', async () => {
    const { events } = await installation.bench.lockbook();
    expect(events.length).toBeGreaterThanOrEqual(3);
    for (const event of events) expect(event).toMatchObject({ verified: true });
    expect(new Set(events.map((event) => event.id)).size).toBe(events.length);
  });
});

describe('sending through the API', () => {
  test('a national number is read in the channel’s country; the state is followed to delivered', async () => {
    const sent = await callApi(installation, mossgate.apiKey, 'POST', '/messages', {
      to: '(07700) 900-123',
      text: 'Stoppage at Tollgate lifted.',
    });
    expect(sent.status).toBe(202);
    expect(sent.body).toMatchObject({ to: INES, state: 'queued', direction: 'outbound' });
    await until(
      'it is delivered',
      async () =>
        (await callApi(installation, mossgate.apiKey, 'GET', `/messages/${sent.body.id}`)).body.state === 'delivered',
    );
  });

  test('an idempotency key gives the first answer again and sends once; with another body it is refused', async () => {
    const key = { 'idempotency-key': 'order-77' };
    const body = { to: TOMAS, text: 'Plats B7 är ledig.' };
    const first = await callApi(installation, mossgate.apiKey, 'POST', '/messages', body, key);
    const again = await callApi(installation, mossgate.apiKey, 'POST', '/messages', body, key);
    expect(again.body.id).toBe(first.body.id);
    expect(again.headers.get('windgap-replayed')).toBe('true');
    const other = await callApi(
      installation,
      mossgate.apiKey,
      'POST',
      '/messages',
      { ...body, text: 'Another text' },
      key,
    );
    expect([other.status, other.body.type]).toEqual([422, 'https://windgap.invalid/problems/idempotency-key-reused']);
    await until('it arrived', async () => (await installation.bench.received(TOMAS)).length === 1);
  });

  test.each([
    [{ to: '07700 900123 or so', text: 'x' }, 'to', 'address-letters'],
    [{ to: '+44 7700 900', text: 'x' }, 'to', 'address-not-in-plan'],
    [{ to: INES, text: ' ' }, 'text', 'invalid'],
    [{ text: 'x' }, 'to', 'invalid'],
    [{ to: INES, text: 'x', from: '+447700900999' }, 'from', 'invalid'],
    [{ to: INES, text: 'x', colour: 'red' }, 'colour', 'unrecognized_keys'],
  ])('%j is refused at the field', async (body, field, code) => {
    const answer = await callApi(installation, mossgate.apiKey, 'POST', '/messages', body);
    expect(answer.status).toBe(422);
    expect(answer.headers.get('content-type')).toBe('application/problem+json');
    expect(answer.body.errors).toMatchObject([{ field, code }]);
  });

  test('without a valid key nothing is done and nothing is told', async () => {
    const answer = await callApi(installation, 'wgk_wrong', 'GET', '/messages');
    expect([answer.status, answer.headers.get('www-authenticate')]).toEqual([401, 'Bearer']);
  });

  test('pages follow each other without repeats', async () => {
    const seen: string[] = [];
    let cursor = '';
    do {
      const page = await callApi(
        installation,
        mossgate.apiKey,
        'GET',
        `/messages?limit=2${cursor && `&cursor=${cursor}`}`,
      );
      seen.push(...(page.body.messages as { id: string }[]).map((message) => message.id));
      cursor = (page.body.next as string | null) ?? '';
    } while (cursor);
    expect(seen.length).toBe(await installation.ctx.store.messages.count());
    expect(seen).toEqual([...new Set(seen)].sort().reverse());
  });
});

test('the OpenAPI document is valid by an independent validator and says what the handlers take', async () => {
  const document = (await (await fetch(`${installation.origin}/api/v1/openapi.json`)).json()) as Record<
    string,
    unknown
  >;
  const { Validator } = await import('@seriousme/openapi-schema-validator');
  const result = await new Validator().validate(document);
  expect(result.errors).toBeUndefined();
  expect(result.valid).toBe(true);
  expect(document.openapi).toBe('3.1.0');
});
