/** Sends that are queued in one unit: what is wrong with one of them is that one's alone. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { addContact } from '../src/operations/contacts/contactPages';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { Sender } from '../src/operations/outbound/sendRequests';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';

let house: Installation;
let mossgate: Mossgate;
let send: Sender;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  mossgate = await connectMossgate(house);
  send = createSender(house.ctx);
  const { id } = await addContact(house.ctx, SYSTEM, { name: 'Tomas', address: TOMAS, country: '' });
  await enterConsent(house.ctx, SYSTEM, {
    contactId: id,
    way: 'text',
    what: 'withdrawn',
    wording: 'asked at the desk',
  });
});
afterAll(() => house.stop());

const to = (number: string, text: string, key?: string) =>
  send(SYSTEM, { to: number, text, from: mossgate.channel.address }, key).then(
    ({ message, replayed }) => ({ id: message.id, replayed }),
    (error) => error.findings?.[0]?.finding.code ?? error.kind ?? String(error),
  );
const all = (answers: unknown[]) => answers.filter((each) => typeof each === 'object').length;

test('two sends with one key to somebody who declined are refused both, and their neighbours go', async () => {
  const [one, other, ...innocent] = await Promise.all([
    to(TOMAS, 'The lock opens at nine.', 'twice'),
    to(TOMAS, 'The lock opens at nine.', 'twice'),
    ...Array.from({ length: 18 }, (_, n) => to(INES, `The lock opens at ${n}.`, `own-${n}`)),
  ]);
  expect([one, other]).toEqual(['opted-out', 'opted-out']);
  expect(all(innocent)).toBe(18);
});

test('a key whose first send was refused is free for the next with it in the same moment', async () => {
  const [refused, sent, again, changed] = await Promise.all([
    to(TOMAS, 'A', 'shared'),
    to(INES, 'B', 'shared'),
    to(INES, 'B', 'shared'),
    to(INES, 'C', 'shared'),
  ]);
  expect(refused).toBe('opted-out');
  expect(sent).toMatchObject({ replayed: false });
  expect(again).toEqual({ id: (sent as { id: string }).id, replayed: true });
  expect(changed).toBe('key-reused');
  expect(await house.ctx.store.messages.count({ text: 'B' })).toBe(1);
});
