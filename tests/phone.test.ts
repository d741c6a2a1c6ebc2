/** Calls over the wire: who gets a text, who does not and why, and that nobody gets two. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  addPhoneSystem,
  listPhoneSystems,
  type PhoneSystemInput,
  switchPhoneSystem,
} from '../src/operations/apps/phone/phoneSystems';
import { SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
let mossgate: Mossgate;
let url = '';
let id = '';

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
  ({ id, url } = await addPhoneSystem(installation.ctx, SYSTEM, mossgate.appId, input()));
});
afterAll(() => installation.stop());

function input(more: Partial<PhoneSystemInput> = {}): PhoneSystemInput {
  return {
    name: 'Harbour office',
    events: ['missed', 'voicemail-box'],
    answer: 'Sorry we missed you. Text us here.',
    alert: '{{ call.caller }} {{ call.what }}.',
    alertPhones: '+46 70 174 06 12',
    alertMails: '',
    country: 'GB',
    channel: mossgate.channel.id,
    onceHours: 6,
    ...more,
  };
}

async function call(event: string, caller: string, callId = crypto.randomUUID()) {
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ event, caller, called: '+442079460114', call: callId }),
  });
  return { ...((await answer.json()) as { state?: string; status: string; detail?: string }), code: answer.status };
}

const texts = async (phone: string) => (await installation.bench.received(phone)).map(({ text }) => text);

test('a missed call: the caller gets one text and staff are told, once, however often it is posted or made', async () => {
  expect(await call('missed', '07700 900123', 'c1')).toMatchObject({ code: 202, state: 'answered' });
  await until('the caller has it', async () => (await texts(INES)).includes('Sorry we missed you. Text us here.'));
  await until('staff are told', async () =>
    (await texts(TOMAS)).includes('+447700900123 called and was not answered.'),
  );
  expect(await call('missed', '07700 900123', 'c1')).toMatchObject({ state: 'quiet', status: 'It was told before.' });
  expect(await call('voicemail-box', '+447700900123', 'c2')).toMatchObject({
    state: 'alerted',
    status: expect.stringContaining('within the last 6 hours'),
  });
  await until('staff know no more than is known', async () =>
    (await texts(TOMAS)).some((text) => text.includes('whether a message was left is not known')),
  );
  expect((await texts(INES)).filter((text) => text.startsWith('Sorry'))).toHaveLength(1);
  await until('the mark is proven', async () => {
    const [view] = await listPhoneSystems(installation.ctx, SYSTEM, mossgate.appId);
    return view?.proofs[0]?.state === 'proven';
  });
});

test.each([
  ['a hidden number', 'anonymous', 'hidden'],
  ['a short code', '84433', 'short code'],
  ['our own number', '+442079460114', 'our own numbers'],
  ['a fixed line', '020 7946 0188', 'fixed line'],
])('%s is not answered', async (_, caller, why) => {
  expect(await call('missed', caller)).toMatchObject({
    code: 202,
    state: 'alerted',
    status: expect.stringContaining(why),
  });
});

test('an event nothing is done about, one that is not known, a form instead of JSON, and off', async () => {
  expect(await call('incoming', '+33639980417')).toMatchObject({
    state: 'quiet',
    status: expect.stringContaining('incoming'),
  });
  expect(await call('ringing', '+33639980417')).toMatchObject({
    code: 422,
    detail: expect.stringContaining('incoming, missed, voicemail-box'),
  });
  const form = await fetch(url, {
    method: 'POST',
    body: new URLSearchParams({ Event: 'missed', caller: '1', called: '2' }),
  });
  expect([form.status, ((await form.json()) as { detail: string }).detail]).toEqual([
    422,
    expect.stringContaining('capital and small letters count'),
  ]);
  expect((await fetch(`${url}x`, { method: 'POST', body: '{}' })).status).toBe(404);
  await switchPhoneSystem(installation.ctx, SYSTEM, id, false);
  expect(await call('missed', '+33639980417')).toMatchObject({ code: 410 });
  expect(await texts('+33639980417')).toEqual([]);
});

test('what cannot be right is refused when it is set up: two parts, nobody to alert, a token that nothing fills', async () => {
  const { ctx } = installation;
  const add = (more: Partial<PhoneSystemInput>) => addPhoneSystem(ctx, SYSTEM, mossgate.appId, input(more));
  await expect(add({ answer: `We’ll call back. ${'x'.repeat(80)}` })).rejects.toThrow('needs 2 parts');
  await expect(add({ alertPhones: '', alertMails: '' })).rejects.toThrow('Nobody would get the alert');
  await expect(add({ answer: 'Hello {{ caller }}' })).rejects.toThrow('caller');
  await expect(add({ events: [] })).rejects.toThrow('No event');
});

test('the time in a text is that of the place, not of the machine', async () => {
  const { ctx } = installation;
  const { id: other, url: address } = await addPhoneSystem(
    ctx,
    SYSTEM,
    mossgate.appId,
    input({
      name: 'Far office',
      alert: '',
      alertPhones: '',
      answer: 'Missed at {{ call.time }}.',
      zone: 'Asia/Kolkata',
    }),
  );
  await expect(
    addPhoneSystem(ctx, SYSTEM, mossgate.appId, input({ name: 'Nowhere', zone: 'Mars/Olympus' })),
  ).rejects.toThrow(/time zone/);
  await fetch(address, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ event: 'missed', caller: '+447700900166', called: '+442079460114', callId: 'far-1' }),
  });
  const [call] = await until('it is told', async () => ctx.store.phoneCalls.all({ system_id: other }));
  const there = new Intl.DateTimeFormat('en-GB', { timeZone: 'Asia/Kolkata', hour: '2-digit', minute: '2-digit' });
  const message = await until('it is answered', async () =>
    (await ctx.store.messages.all({ recipient: '+447700900166' })).find(({ text }) => text.startsWith('Missed at')),
  );
  expect(message.text).toBe(`Missed at ${there.format(call?.received_at)}.`);
});
