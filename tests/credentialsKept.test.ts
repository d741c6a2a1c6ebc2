/** Kept credentials go where they were given for and nowhere else, and nobody reads them back from what is shown. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { checkAccount, getAccount, replaceCredentials, setAccountDisabled } from '../src/operations/accounts/accounts';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { saveProfile, type TrialInput, tryProfile } from '../src/operations/profiles/connectorProfiles';
import { connectMossgate, credentialsOf, INES, type Mossgate } from './harness/mossgate';
import { brackwaterProfile, type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const ID = 'harbour-http';
let house: Installation;
let mossgate: Mossgate;
/** Whoever hopes to be sent a secret. */
let elsewhere: Server;
let address: string;
const heard: string[] = [];

const written = (change: (text: string) => string = (text) => text.replace('pace: 25', 'pace: 20')) =>
  brackwaterProfile(ID, change);
const leadingTo = (base: string) =>
  written((text) => text.replace('base: "{{ credentials.apiAddress }}"', `base: "${base}"`));
const save = (text: string) => saveProfile(house.ctx, SYSTEM, text, ID);
const trial = (given: Partial<TrialInput>) =>
  tryProfile(house.ctx, SYSTEM, {
    text: written(),
    part: 'account',
    accountId: mossgate.accountId,
    credentials: {},
    values: {},
    ...given,
  });

beforeAll(async () => {
  house = await startInstallation();
  await saveProfile(house.ctx, SYSTEM, written());
  mossgate = await connectMossgate(house, ID);
  elsewhere = createServer((request, response) => {
    heard.push(JSON.stringify([request.url, request.headers]));
    response.setHeader('content-type', 'application/json').end('{"account":{"id":"1","name":"Elsewhere"}}');
  });
  await new Promise<void>((resolve) => elsewhere.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(elsewhere.address() as AddressInfo).port}/v2`;
});
afterAll(async () => {
  elsewhere.close();
  await house.stop();
});

test('a trial uses kept credentials with the profile as it is saved only, and is on record', async () => {
  expect(await trial({})).toMatchObject({ ok: true });
  for (const text of [leadingTo(address), `${written()}\n`])
    await expect(trial({ text })).rejects.toThrow(/as it is saved only/);
  // Those of another profile's account are no way around.
  await saveProfile(house.ctx, SYSTEM, leadingTo(address).replace(`id: ${ID}`, 'id: other-http'));
  await expect(trial({ text: leadingTo(address).replace(`id: ${ID}`, 'id: other-http') })).rejects.toThrow(
    /saved only/,
  );
  expect(heard).toEqual([]);
  expect(await house.ctx.store.audit.all({ action: 'profile.tried' })).toMatchObject([
    { subject_id: ID, summary: expect.stringContaining('Main account') },
  ]);
});

test('a saved profile that leads elsewhere gets no credentials until they are entered again', async () => {
  const { ctx } = house;
  await save(leadingTo(address));
  const view = await getAccount(ctx, SYSTEM, mossgate.accountId);
  expect(view.account.disabledAt).not.toBeNull();
  expect(view.findings.map(({ code }) => code)).toContain('credentials-elsewhere');
  await expect(setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false)).rejects.toThrow(/Replace the credentials/);
  await expect(checkAccount(ctx, SYSTEM, mossgate.accountId)).rejects.toThrow(/Replace the credentials/);
  expect(heard).toEqual([]);

  // Put back, it is as it was.
  await save(written());
  await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false);
  const { message } = await createSender(ctx)(SYSTEM, { to: INES, text: 'As before', from: mossgate.channel.id });
  await until('it is delivered', async () => (await ctx.store.messages.one({ id: message.id }))?.state === 'delivered');

  await save(leadingTo(address));
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, credentialsOf(house));
  // Asked for the account, and then for its numbers; the engine may have asked again since.
  expect(heard.length).toBeGreaterThanOrEqual(2);
  await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false);
  await save(written());
  expect((await getAccount(ctx, SYSTEM, mossgate.accountId)).account.disabledAt).not.toBeNull();
});

test('a secret goes where it was given for in the profile, too, and does not become readable by being called none', async () => {
  const { ctx } = house;
  await save(written());
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, credentialsOf(house));
  await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false);
  const { secret } = credentialsOf(house);
  const changes = [
    // Into the words of a text, on their way to whoever wrote the profile.
    (text: string) => text.replaceAll('"{{ message.text }}"', '"{{ message.text }} {{ credentials.secret }}"'),
    // Under another name.
    (text: string) => text.replaceAll('"{{ message.text }}"', '"{% assign all = credentials %}{{ message.text }}"'),
    (text: string) => text.replace('    secret: true\n', ''),
  ];
  for (const [n, change] of changes.entries()) {
    const changed = written(change);
    expect(changed, String(n)).not.toBe(written());
    await save(changed);
    const view = await getAccount(ctx, SYSTEM, mossgate.accountId);
    expect(view.account.disabledAt, String(n)).not.toBeNull();
    expect(JSON.stringify(view), String(n)).not.toContain(secret);
    await expect(setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false)).rejects.toThrow(/uses them elsewhere/);
    await save(written());
    await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false);
  }
});

test('what follows the base is no way to another host', async () => {
  heard.splice(0);
  const { port } = elsewhere.address() as AddressInfo;
  const text = written((profile) =>
    profile.replace(
      'request: { method: GET, path: /account }',
      `request: { method: GET, path: "@127.0.0.1:${port}/v2" }`,
    ),
  );
  const credentials = { ...credentialsOf(house), apiAddress: 'http://windgap.invalid' };
  expect(await trial({ text, accountId: undefined, credentials })).toMatchObject({ ok: false });
  expect(heard).toEqual([]);
});

test('a secret that a template cuts and joins is in nothing that is shown', async () => {
  const { secret } = credentialsOf(house);
  const text = written((profile) =>
    profile.replace(
      'path: /account }',
      `path: /account, headers: { x-one: "{{ credentials.secret | slice: 0, 9 }}", x-two: "{{ credentials.secret | slice: 9, 40 }}" }, query: { all: "{{ credentials.secret }}", big: "{{ credentials.secret | upcase }}" } }`,
    ),
  );
  const { exchanges } = await trial({
    text,
    accountId: undefined,
    credentials: { ...credentialsOf(house), apiAddress: address },
  });
  // It went out whole, and was shown not even in parts.
  expect(heard.at(-1)).toContain(secret.slice(9));
  const shown = JSON.stringify(exchanges);
  for (const part of [secret.slice(0, 9), secret.slice(9), secret.toUpperCase()]) expect(shown).not.toContain(part);
  expect(shown).toContain('••••••');
});
