/** Texts by mail: the carrier looked up once, sent over SMTP, answers and returned mail coming back. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { connectProvider } from '../src/operations/accounts/accounts';
import { SYSTEM } from '../src/operations/context/actor';
import { inboundUrl } from '../src/operations/context/channelAddresses';
import { saveGateway } from '../src/operations/outbound/carrierLookUp';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { ChannelRow } from '../src/store/schema/rows';
import { connectMail, mailCredentials } from './harness/mail';
import { INES, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
let channel: ChannelRow;

const credentials = () => mailCredentials(installation);

beforeAll(async () => {
  installation = await startInstallation();
  channel = await connectMail(installation);
});
afterAll(() => installation.stop());

const send = async (to: string, text: string) =>
  (await createSender(installation.ctx)(SYSTEM, { to, text, from: channel.id })).message.id;
const message = (id: string) => installation.ctx.store.messages.one({ id });
const untilState = (id: string, state: string) =>
  until(`it is ${state}`, async () => {
    const row = await message(id);
    return row?.state === state ? row : undefined;
  });

describe('a text as mail', () => {
  test('the carrier is looked up once and kept on the contact with its age', async () => {
    const first = await send(INES, 'Your berth is B7 – välkommen €5');
    await untilState(first, 'sent');
    const shown = await until('it is on the phone', async () =>
      (await installation.bench.received(INES)).find((entry) => entry.way === 'mail'),
    );
    expect(shown.text).toBe('Your berth is B7 – välkommen €5');
    const contact = await installation.ctx.store.contacts.one({ id: (await message(first))?.contact_id ?? '' });
    expect(contact).toMatchObject({ carrier: 'Otterline' });
    await untilState(await send(INES, 'Replay'), 'sent');
    expect(await installation.ctx.store.exchanges.count({ purpose: 'look-up' })).toBe(1);
  });

  test('a carrier without a gateway is named, and works once it is in the table', async () => {
    const row = await untilState(await send(TOMAS, 'Hej'), 'failed');
    expect(row.cause).toBe('gateway-unknown');
    await saveGateway(installation.ctx, SYSTEM, {
      carrier: 'Nordbro',
      country: 'SE',
      domain: 'sms.nordbro.example',
      localPart: 'national',
    });
    await untilState(await send(TOMAS, 'Hej igen'), 'sent');
    await until('it is on the phone', async () =>
      (await installation.bench.received(TOMAS)).some((entry) => entry.text === 'Hej igen'),
    );
  });

  test('a phone whose carrier nobody knows: said with the look-up’s answer', async () => {
    expect(await untilState(await send('+447700900999', 'Hello?'), 'failed')).toMatchObject({
      cause: 'carrier-unknown',
    });
  });

  test('returned mail makes the message failed, and says why', async () => {
    await installation.bench.faults({ fennick: { bouncesEverything: true } });
    const row = await untilState(await send(INES, 'Comes back'), 'failed');
    expect(row.cause).toBe('mail-bounced');
    await installation.bench.faults({ fennick: { bouncesEverything: false } });
  });

  test('an answer comes in and proves both ways; another word with it is refused', async () => {
    await installation.bench.type(INES, channel.address, 'Thank you, B7 it is', 'mail');
    const answer = await until('it has arrived', () => installation.ctx.store.messages.one({ direction: 'in' }));
    expect(answer).toMatchObject({ sender: INES, text: 'Thank you, B7 it is' });
    // The answer also shows that our text reached the phone; there is no other evidence on this way.
    const proofs = await installation.ctx.store.proofs.all({ subject_id: channel.id });
    expect(Object.fromEntries(proofs.map((proof) => [proof.hop, proof.state]))).toEqual({
      credential: 'proven',
      outbound: 'proven',
      receipt: 'not-applicable',
      inbound: 'proven',
    });
    const body = JSON.stringify({ mail: [{ id: 'x', from: 'a@b.example', to: channel.address, text: 'spam' }] });
    const refused = await fetch(inboundUrl(installation.ctx, channel), {
      method: 'POST',
      headers: { 'fennick-word': 'guessed-word' },
      body,
    });
    expect(refused.status).toBe(401);
  });
});

test('a wrong password and a server nobody answers at are told apart', async () => {
  const refusal = async (change: object) => {
    const error = await connectProvider(installation.ctx, SYSTEM, {
      connector: 'fennick',
      name: 'Second',
      credentials: { ...credentials(), ...change },
    }).catch((caught) => caught);
    return (error as { findings: { field: string; finding: { code: string } }[] }).findings.map(
      ({ field, finding }) => [field, finding.code],
    );
  };
  expect(await refusal({ password: 'wrong-password' })).toEqual([['form', 'credential-refused']]);
  expect(await refusal({ port: '19' })).toEqual([['host', 'provider-unreachable']]);
});
