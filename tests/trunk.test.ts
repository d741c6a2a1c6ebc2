/** The SMPP trunk over a real link: texts in every shape both ways, receipts, and what carriers refuse. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { checkAccount, connectProvider } from '../src/operations/accounts/accounts';
import { addTrunkNumbers, examineNumbers } from '../src/operations/accounts/trunkNumbers';
import { SYSTEM } from '../src/operations/context/actor';
import { getTrail } from '../src/operations/log/trail';
import { createSender } from '../src/operations/outbound/sendMessage';
import { getTrunk, setTrunkSettings } from '../src/operations/trunks/trunkSettings';
import { INES, TOMAS } from './harness/mossgate';
import { connectTrunk, type Trunk, trunkCredentials, untilBound } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { passTime } from './harness/rest';
import { until } from './harness/until';

let installation: Installation;
let trunk: Trunk;

beforeAll(async () => {
  installation = await startInstallation({ web: false });
  trunk = await connectTrunk(installation);
  await untilBound(installation, trunk.accountId);
});
afterAll(() => installation.stop());

const LONG = 'Passage through Heron Staircase is booked. '.repeat(9).trim();
const LONG_UCS2 = 'Slussen öppnar kl. 8 🛶 välkomna! '.repeat(6).trim();

async function send(text: string, to = INES) {
  const answer = await createSender(installation.ctx)(SYSTEM, { to, text, from: trunk.channel.id });
  return answer.message.id;
}

function message(id: string) {
  return installation.ctx.store.messages.one({ id });
}

async function settled(id: string) {
  return until('its receipt is in', async () => {
    const row = await message(id);
    return row && ['delivered', 'failed'].includes(row.state) ? row : undefined;
  });
}

async function shown(text: string, number = INES) {
  return (await installation.bench.received(number)).filter((entry) => entry.text === text).length;
}

async function proof(hop: string) {
  return installation.ctx.store.proofs.one({ subject_id: trunk.channel.id, hop });
}

describe('texts out', () => {
  test.each(['header', 'sar', 'payload'])('short and long, GSM-7 and UCS-2, by %s', async (longText) => {
    await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { longText });
    await untilBound(installation, trunk.accountId);
    for (const text of [
      `Short {by} ${longText} €5`,
      `${LONG} ${longText}`,
      `Kort 🛶 ${longText}`,
      `${LONG_UCS2} ${longText}`,
    ]) {
      expect((await settled(await send(text))).state).toBe('delivered');
      expect(await shown(text)).toBe(1);
    }
  });

  test('a text in parts is delivered when every part is, and its trail shows the submit and the answer', async () => {
    await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { longText: 'header' });
    await untilBound(installation, trunk.accountId);
    const id = await send(`${LONG} once more`);
    await settled(id);
    const parts = await installation.ctx.store.messageParts.all({ message_id: id });
    expect(parts.length).toBe(3);
    expect(parts.every((part) => part.state === 'delivered')).toBe(true);
    const trail = await getTrail(installation.ctx, SYSTEM, id);
    const shownEvidence = Object.values(trail.evidence);
    expect(shownEvidence.some((entry) => entry.request.line.startsWith('submit_sm smpp://'))).toBe(true);
    expect(shownEvidence.some((entry) => entry.request.line.startsWith('deliver_sm'))).toBe(true);
    expect(JSON.stringify(trail)).not.toContain(trunkCredentials(installation).password);
  });

  test('a phone nobody has: undelivered with the carrier’s error as cause', async () => {
    const row = await settled(await send('Is anybody there?', '+447700900999'));
    expect(row).toMatchObject({ state: 'failed', cause: 'number-not-in-service' });
  });

  test('a sender the login does not own is refused as such, and breaks the outbound hop', async () => {
    await addTrunkNumbers(installation.ctx, SYSTEM, trunk.accountId, { text: '+447700900777', country: 'GB' });
    const { openChannel } = await import('../src/operations/channels/channels');
    const number = await installation.ctx.store.numbers.one({ address: '+447700900777' });
    const { id } = await openChannel(installation.ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Mistyped' });
    const answer = await createSender(installation.ctx)(SYSTEM, { to: INES, text: 'Hello', from: id });
    expect(await settled(answer.message.id)).toMatchObject({ state: 'failed', cause: 'sender-not-owned' });
    expect(await installation.ctx.store.proofs.one({ subject_id: id, hop: 'outbound' })).toMatchObject({
      state: 'broken',
    });
  });

  test('a carrier that throttles: the text waits and goes when it is let through', async () => {
    await installation.bench.faults({ ostrel: { throttles: true } });
    const id = await send('Not so fast');
    await until('it was asked to wait', async () =>
      (await installation.ctx.store.events.all({ message_id: id })).some((event) => event.cause === 'throttled'),
    );
    await installation.bench.faults({ ostrel: { throttles: false } });
    expect((await settled(id)).state).toBe('delivered');
    expect(await shown('Not so fast')).toBe(1);
  });
});

test('texts that meet a link being renewed go out over the next one, each once, and none is of unknown outcome', async () => {
  const ids: string[] = [];
  for (let round = 0; round < 6; round += 1) {
    for (let n = 0; n < 8; n += 1) ids.push(await send(`Renewed ${round}.${n}`));
    await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { window: 5 + (round % 2) });
  }
  for (const id of ids) expect((await settled(id)).state).toBe('delivered');
  for (let round = 0; round < 6; round += 1)
    for (let n = 0; n < 8; n += 1) expect(await shown(`Renewed ${round}.${n}`)).toBe(1);
  const lost = await installation.ctx.store.events.all({ message_id: ids, kind: 'uncertain' });
  expect(lost).toEqual([]);
});

describe('texts in', () => {
  test('short, long and in UCS-2, each stored before it is answered and joined to one message', async () => {
    for (const text of ['LOCK Tollgate 09:00', `${LONG} from a handset`, LONG_UCS2]) {
      await installation.bench.type(TOMAS, trunk.channel.address, text);
      await until('it is a message', () => installation.ctx.store.messages.one({ direction: 'in', text }));
    }
    expect(await installation.ctx.store.messages.count({ direction: 'in' })).toBe(3);
    expect(await installation.ctx.store.inbound.count({ signature: 'bind', state: 'stored' })).toBe(0);
  });

  test('four hops are proven by that traffic', async () => {
    for (const hop of ['credential', 'outbound', 'receipt', 'inbound'])
      await until(`${hop} is proven`, async () => (await proof(hop))?.state === 'proven');
  });

  test('a text for a number that is no channel here is kept and named', async () => {
    await installation.bench.type(INES, '+447700900891', 'Who has this number?');
    const stray = await until('it is set aside', () =>
      installation.ctx.store.inbound.one({ cause: 'number-not-a-channel' }),
    );
    expect(stray.headers.destination_addr).toBe('+447700900891');
    const view = await getTrunk(installation.ctx, SYSTEM, trunk.accountId);
    expect(view?.strays).toMatchObject([{ to: '+447700900891' }]);
  });
});

describe('the carrier’s habits', () => {
  test('ids of receipts in another base are named, and what came is matched once the setting is fixed', async () => {
    const remote = installation.world.ostrel[0];
    await installation.bench.change(`ostrel/logins/${remote?.systemId}`, {
      ids: { answers: 'hex', receipts: 'decimal' },
      receipts: 'text',
    });
    // The mark that comes back in a TLV is left out as well, so only the id can tell.
    const id = await send('In which base?');
    await until('the receipt hop is broken', async () => (await proof('receipt'))?.cause === 'receipt-id-base');
    expect((await message(id))?.state).toBe('sent');
    const { matched } = await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, {
      receiptIds: 'decimal-in-receipts',
    });
    expect(matched).toBe(1);
    expect((await message(id))?.state).toBe('delivered');
    await untilBound(installation, trunk.accountId);
    await settled(await send('Now it is known'));
    await installation.bench.change(`ostrel/logins/${remote?.systemId}`, { ids: { answers: 'hex', receipts: 'hex' } });
    await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { receiptIds: 'same' });
    await untilBound(installation, trunk.accountId);
  });

  test('another default alphabet is named by the first text that shows it', async () => {
    const remote = installation.world.ostrel[0];
    await installation.bench.change(`ostrel/logins/${remote?.systemId}`, { alphabet: 'latin-1' });
    await installation.bench.type(TOMAS, trunk.channel.address, 'Hallå från båten');
    await until('outbound is broken', async () => (await proof('outbound'))?.cause === 'trunk-alphabet');
    await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { defaultAlphabet: 'latin-1' });
    await untilBound(installation, trunk.accountId);
    await installation.bench.type(TOMAS, trunk.channel.address, 'Hallå igen från båten');
    await until('it is read rightly', () => installation.ctx.store.messages.one({ text: 'Hallå igen från båten' }));
    await settled(await send('Plats C är ledig, £5'));
    expect(await shown('Plats C är ledig, £5')).toBe(1);
    await installation.bench.change(`ostrel/logins/${remote?.systemId}`, { alphabet: 'gsm-7' });
    await setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { defaultAlphabet: 'gsm-7' });
    await untilBound(installation, trunk.accountId);
  });

  test('a pace or window above the carrier’s limit is refused at the field', async () => {
    const set = (given: object) => setTrunkSettings(installation.ctx, SYSTEM, trunk.accountId, { ...given });
    await expect(set({ pace: 101 })).rejects.toMatchObject({
      findings: [{ field: 'pace', finding: { code: 'pace-above-limit' } }],
    });
    await expect(set({ window: 51 })).rejects.toMatchObject({ findings: [{ field: 'window' }] });
    await expect(set({ pace: 0 })).rejects.toMatchObject({ findings: [{ field: 'pace' }] });
  });
});

describe('binding', () => {
  async function refusal(change: Record<string, string>) {
    const credentials = { ...trunkCredentials(installation), ...change };
    const error = await connectProvider(installation.ctx, SYSTEM, {
      connector: 'ostrel',
      name: 'X',
      credentials,
    }).catch((caught) => caught);
    return (error as { findings: { field: string; finding: { code: string } }[] }).findings?.map(
      ({ field, finding }) => [field, finding.code],
    );
  }

  test('a wrong password, an unknown system id and a closed port are told apart at their fields', async () => {
    expect(await refusal({ password: 'abcdefgh' })).toEqual([['password', 'credential-secret-wrong']]);
    expect(await refusal({ systemId: 'nobody' })).toEqual([['systemId', 'credential-id-unknown']]);
    expect(await refusal({ port: '19' })).toEqual([['host', 'provider-unreachable']]);
  });

  test('a login that may not be a transceiver is bound as transmitter and receiver by itself', async () => {
    const second = installation.world.ostrel[1];
    const credentials = {
      ...trunkCredentials(installation),
      systemId: second?.systemId ?? '',
      password: second?.password ?? '',
    };
    const { id } = await connectProvider(installation.ctx, SYSTEM, {
      connector: 'ostrel',
      name: 'Second',
      credentials,
    });
    expect(await installation.ctx.store.accounts.one({ id })).toMatchObject({
      settings: { bind: 'transmitter and receiver' },
    });
    await untilBound(installation, id);
  });

  test('our own bind is not taken for somebody else’s when the engine has not written lately', async () => {
    await installation.bench.moveClock(3_600_000);
    expect(await checkAccount(installation.ctx, SYSTEM, trunk.accountId)).toMatchObject({ state: 'accepted' });
  });

  test('a login that the carrier lets in another way than its trunk is set to is not well, whenever it is asked', async () => {
    const { ctx, bench } = installation;
    const was = installation.world.ostrel[0]?.binds;
    await bench.change('ostrel/logins/mossgate', { binds: 'separate' });
    await bench.post('/ostrel/cut');
    await until('the trunk is refused', async () => {
      const trunkState = await ctx.store.trunkStates.one({ account_id: trunk.accountId });
      return trunkState?.cause === 'trunk-bind-wrong';
    });
    expect(await checkAccount(ctx, SYSTEM, trunk.accountId)).toEqual({ state: 'refused', cause: 'trunk-bind-wrong' });
    await bench.change('ostrel/logins/mossgate', { binds: was });
    await passTime(installation, untilBound(installation, trunk.accountId), 10_000);
  });

  test('numbers pasted in any form are read line by line, each with what is wrong', async () => {
    const text = [
      '07700 900896',
      '+44 (0)7700 900897',
      '07700 90089',
      'lock office',
      '+447700900896',
      INES,
      '62234',
    ].join('\n');
    const lines = await examineNumbers(installation.ctx, SYSTEM, trunk.accountId, { text, country: 'GB' });
    expect(lines.map((line) => line.finding?.code ?? line.address?.value)).toEqual([
      '+447700900896',
      '+447700900897',
      'address-not-in-plan',
      'address-no-digits',
      'number-repeated',
      'number-personal',
      '62234',
    ]);
  });
});
