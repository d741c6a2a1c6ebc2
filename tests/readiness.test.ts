/** Readiness over real wires: silent while all is well with traffic, and telling what is wrong before a message is lost. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { checkAccount, connectProvider } from '../src/operations/accounts/accounts';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { examineNow, getReadiness, muteFinding, unmuteFinding } from '../src/operations/readiness/readiness';
import { accountPart } from '../src/operations/readiness/readinessChecks';
import { connectMossgate, credentialsOf, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, begins, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
const viewer: Actor = { kind: 'user', id: 'usr_x', name: 'Viewer', role: 'viewer' };

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
});
afterAll(() => house.stop());

const look = () => examineNow(house.ctx);
const told = async () =>
  (await look()).open
    .filter(({ severity }) => severity !== 'notice')
    .map(({ code, subject }) => `${code} ${subject.name}`);
const notices = async () =>
  (await look()).open.filter(({ severity }) => severity === 'notice').map(({ about }) => about);

test('what nothing has exercised yet is said without alarm', async () => {
  expect(await told()).toEqual([]);
  expect(await notices()).toEqual(expect.arrayContaining(['outbound', 'receipt', 'inbound', 'call-out']));
});

test('with traffic both ways there is nothing to say', async () => {
  const { bench } = house;
  await bench.type(INES, mossgate.channel.address, 'LOCK Tollgate 09:00');
  await until('the answer is back', async () => (await bench.received(INES)).length > 0);
  await until('every hop is proven', async () => (await notices()).length === 0);
  expect(await told()).toEqual([]);
  expect((await look()).muted).toEqual([]);
});

test('a spent credit, a route that is never reached and a secret that no longer fits are told before and after', async () => {
  const { ctx, bench } = house;
  await bench.account((house.world.accounts[0] as { id: string }).id, { credit: 0 });
  await checkAccount(ctx, SYSTEM, mossgate.accountId);
  await publishRoutes(ctx, [route('everything', all(), []), route('locks', all(begins('lock')), [])]);
  await bench.faults({ brackwater: { signsWithAnotherSecret: true } });
  await bench.type(INES, mossgate.channel.address, 'LOCK again').catch(() => undefined);
  await until('it breaks', async () => (await told()).some((each) => each.startsWith('signature')));

  const { open } = await look();
  const worst = open.filter(({ severity }) => severity === 'error');
  expect(worst.map(({ code }) => code)).toEqual(expect.arrayContaining(['route-shadowed']));
  const broken = open.find(({ about, severity }) => about === 'inbound' && severity === 'error');
  expect(broken).toMatchObject({ subject: { kind: 'channel', name: 'Harbour desk' }, since: expect.any(Number) });
  expect(broken?.changes.map(({ subject }) => subject)).toContain(mossgate.channel.id);
  expect(await told()).toContain('route-shadowed locks');
  // Traffic is counted once a second at most, so the last count may be of before the first text.
  await until('what it carries is counted', async () =>
    (await look()).open.some(({ key, perDay }) => key === broken?.key && perDay > 0),
  );
});

test('muted with a reason it stands apart, until somebody wants to hear it again', async () => {
  const { ctx } = house;
  const [finding] = (await look()).open.filter(({ code }) => code === 'route-shadowed');
  const key = finding?.key ?? '';
  await expect(muteFinding(ctx, SYSTEM, { key, reason: ' ', days: 7 })).rejects.toThrow(/reason is missing/);
  await expect(muteFinding(ctx, SYSTEM, { key, reason: 'x', days: 400 })).rejects.toThrow(/days/);
  await expect(muteFinding(ctx, viewer, { key, reason: 'x', days: 7 })).rejects.toThrow(/administrator/);
  await muteFinding(ctx, SYSTEM, { key, reason: 'Locks come next week', days: 7 });
  expect(await told()).not.toContain('route-shadowed locks');
  expect((await look()).muted).toMatchObject([{ key, mute: { reason: 'Locks come next week' } }]);
  await unmuteFinding(ctx, SYSTEM, key);
  expect(await told()).toContain('route-shadowed locks');
});

test('fixed, it is silent again', async () => {
  const { ctx, bench } = house;
  await bench.faults({ brackwater: { signsWithAnotherSecret: false } });
  await bench.account((house.world.accounts[0] as { id: string }).id, { credit: 90_000_000 });
  await checkAccount(ctx, SYSTEM, mossgate.accountId);
  const send = createSender(ctx);
  await bench.type(INES, mossgate.channel.address, 'LOCK once more');
  await send(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'All well' });
  await until('the hop is proven again', async () => !(await told()).some((each) => each.endsWith('Harbour desk')));
  // The routes published above tell no app any more, and that is said.
  expect(await told()).toEqual(['route-shadowed locks', 'app-not-routed Lockbook']);
});

test('the engine keeps what it found for the page, with what began and what ended', async () => {
  const { ctx } = house;
  const shown = async () => (await getReadiness(ctx, viewer)).open.map(({ code }) => code);
  await until('the page shows what an examination finds', async () => (await shown()).includes('route-shadowed'));
  const account = (house.world.accounts[0] as { id: string }).id;
  await house.bench.account(account, { trial: true });
  await checkAccount(ctx, SYSTEM, mossgate.accountId);
  await until('the trial is shown', async () => (await shown()).includes('account-on-trial'));
  await house.bench.account(account, { trial: false });
  await checkAccount(ctx, SYSTEM, mossgate.accountId);
  await until('it is shown as ended', async () =>
    (await getReadiness(ctx, viewer)).ended.some(({ code, closedAt }) => code === 'account-on-trial' && closedAt),
  );
  expect(await shown()).not.toContain('account-on-trial');
});

test('after a change only the part it touches is examined again', async () => {
  const { ctx } = house;
  const other = await connectProvider(ctx, SYSTEM, {
    connector: 'brackwater',
    name: 'Second account',
    credentials: credentialsOf(house, 1),
  });
  const examined = async () => new Map((await ctx.store.readinessParts.all()).map(({ part, at }) => [part, at]));
  await until('the new account is examined', async () => (await examined()).has(accountPart(other.id)));
  const before = await examined();
  await checkAccount(ctx, SYSTEM, other.id);
  await until(
    'it is examined again',
    async () => (await examined()).get(accountPart(other.id)) !== before.get(accountPart(other.id)),
  );
  const after = await examined();
  const again = [...after].filter(([part, at]) => before.get(part) !== at).map(([part]) => part);
  expect(again).toEqual([accountPart(other.id)]);
});
