/** An alert from the fault to a mail, a text and an event: told once, to others where nobody takes it, and over once. A storm is one. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { checkAccount } from '../src/operations/accounts/accounts';
import { listAlerts, toldOfAlerts } from '../src/operations/alerts/list';
import {
  addWindow,
  endWindow,
  listRules,
  listWindows,
  type RuleInput,
  removeRule,
  saveRule,
  takeAlert,
  testRule,
} from '../src/operations/alerts/rules';
import { subscribe } from '../src/operations/apps/webhooks';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { sendNotices } from './harness/mail';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { connectTrunk, untilBound } from './harness/ostrel';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const MINUTE = 60_000;
const ASK_EVERY = 500;
const OFFICE = 'keeper@mossgate.example';

let house: Installation;
let mossgate: Mossgate;
let app: Server;
const events: { type: string; data: { subject: string; ended: string | null } }[] = [];

beforeAll(async () => {
  house = await startInstallation();
  const { ctx } = house;
  mossgate = await connectMossgate(house);
  await createFirstOwner(ctx, { name: 'Maren', email: 'maren@mossgate.example', password: 'towpath at low water' });
  await sendNotices(house, OFFICE);
  app = createServer(async (request, response) => {
    const chunks: Buffer[] = [];
    for await (const chunk of request) chunks.push(chunk as Buffer);
    events.push(JSON.parse(Buffer.concat(chunks).toString('utf8')));
    response.writeHead(204).end();
  });
  await new Promise<void>((resolve) => app.listen(0, '127.0.0.1', resolve));
  await subscribe(ctx, SYSTEM, {
    appId: mossgate.appId,
    url: `http://127.0.0.1:${(app.address() as AddressInfo).port}/`,
    events: ['windgap.alert.began', 'windgap.alert.escalated', 'windgap.alert.ended'],
  });
  for (const { id } of await listRules(ctx, SYSTEM)) await removeRule(ctx, SYSTEM, id);
  // Texts of alerts leave over a channel that was shown to send, and about which there is no alert.
  const trunk = await connectTrunk(house);
  await untilBound(house, trunk.accountId);
  const proof = await createSender(ctx)(SYSTEM, { to: TOMAS, from: trunk.channel.id, text: 'It sends' });
  await until('the trunk is proven', () => ctx.store.messages.one({ id: proof.message.id, state: 'delivered' }));
});
afterAll(async () => {
  app.close();
  await house.stop();
});
beforeEach(async () => {
  for (const { id } of await listRules(house.ctx, SYSTEM)) await removeRule(house.ctx, SYSTEM, id);
});

const bench = () => house.bench;
const rule = (change: Partial<RuleInput> = {}): RuleInput => ({
  name: 'Broken',
  from: 'error',
  team: '',
  mailTo: OFFICE,
  phones: '',
  apps: [mossgate.appId],
  afterMinutes: '2',
  quietFrom: '',
  quietUntil: '',
  zone: '',
  quietButErrors: true,
  escalateAfter: '15',
  escalateMailTo: '',
  escalatePhones: INES,
  enabled: true,
  ...change,
});
const mails = async () =>
  (await bench().read<{ to: string; subject: string; text: string }[]>('/fennick/mails')).filter(({ to }) =>
    to.includes(OFFICE),
  );
const credit = async (credit: number) => {
  await bench().account((house.world.accounts[0] as { id: string }).id, { credit });
  await checkAccount(house.ctx, SYSTEM, mossgate.accountId);
};
/** The account is asked again meanwhile: a check that the engine had begun before may end after ours, with the credit of then. */
const ofCredit = async (ended: boolean) => {
  await checkAccount(house.ctx, SYSTEM, mossgate.accountId);
  return (await listAlerts(house.ctx, SYSTEM, ended)).find(({ problem }) => /credit/i.test(problem));
};
const subjects = async () => (await mails()).map(({ subject }) => subject);
const ofCreditMailed = async () => (await subjects()).filter((subject) => /credit/i.test(subject)).length;

test('told by mail and event, escalated by text where nobody takes it, and over for all who heard of it', async () => {
  const { ctx } = house;
  await saveRule(ctx, SYSTEM, rule());
  await credit(0);
  const alert = await until('there is an alert', () => ofCredit(false), ASK_EVERY);
  expect((await toldOfAlerts(ctx, SYSTEM, [alert.id])).length).toBe(0);
  await bench().moveClock(3 * MINUTE);
  const begun = await until('it is mailed', async () =>
    (await mails()).find(({ subject }) => /^Broken: .*credit/i.test(subject)),
  );
  expect(begun.text).toContain('/watch/alerts');
  await until('the app is told', () => Promise.resolve(events.find(({ type }) => type === 'windgap.alert.began')));
  await bench().moveClock(16 * MINUTE);
  await until('it is escalated', async () =>
    (await bench().received(INES)).some(({ text }) => text.startsWith('Nobody has taken it: ')),
  );
  await credit(1_000_000_000);
  const ended = await until('it has ended', () => ofCredit(true), ASK_EVERY);
  await until('the end is mailed', async () => (await subjects()).some((subject) => subject.startsWith('Over: ')));
  await until('the app is told', () => Promise.resolve(events.find(({ type }) => type === 'windgap.alert.ended')));
  await until('the phone is told', async () =>
    (await bench().received(INES)).some(({ text }) => text.startsWith('Over: ')),
  );
  expect((await toldOfAlerts(ctx, SYSTEM, [ended.id])).map(({ what, way }) => `${what} ${way}`).sort()).toEqual(
    [
      `began app ${mossgate.appId}`,
      `began mail ${OFFICE}`,
      `ended app ${mossgate.appId}`,
      `ended mail ${OFFICE}`,
      `ended text ${INES}`,
      `escalated text ${INES}`,
    ].sort(),
  );
  expect((await subjects()).filter((subject) => /credit/i.test(subject)).length).toBe(2);
});

test('taken by somebody it is told to nobody else; work on it tells nobody at all', async () => {
  const { ctx } = house;
  await bench().moveClock(31 * MINUTE);
  await saveRule(ctx, SYSTEM, rule({ name: 'Taken', apps: [] }));
  await addWindow(ctx, SYSTEM, { hours: '1', subject: mossgate.accountId, reason: 'A new contract' });
  const before = await ofCreditMailed();
  await credit(0);
  const alert = await until('there is an alert', () => ofCredit(false), ASK_EVERY);
  await bench().moveClock(20 * MINUTE);
  const [window] = await listWindows(ctx, SYSTEM);
  expect(window).toMatchObject({ reason: 'A new contract' });
  expect(await ofCreditMailed()).toBe(before);
  await takeAlert(ctx, SYSTEM, alert.id);
  await expect(takeAlert(ctx, SYSTEM, alert.id)).rejects.toThrow(/already/);
  await endWindow(ctx, SYSTEM, window?.id ?? '');
  await until('it is mailed', async () => (await ofCreditMailed()) > before);
  const texts = (await bench().received(INES)).length;
  await bench().moveClock(30 * MINUTE);
  await credit(1_000_000_000);
  await until(
    'the end is mailed',
    async () => {
      await ofCredit(true);
      return (await ofCreditMailed()) > before + 1;
    },
    ASK_EVERY,
  );
  expect((await bench().received(INES)).length).toBe(texts);
});

test('a rule that is wrong says where, and a test of it arrives', async () => {
  const { ctx } = house;
  const wrong = (change: Partial<RuleInput>) => saveRule(ctx, SYSTEM, rule(change));
  await expect(wrong({ mailTo: 'nobody in particular' })).rejects.toMatchObject({ findings: [{ field: 'mailTo' }] });
  await expect(wrong({ phones: '12' })).rejects.toMatchObject({ findings: [{ field: 'phones' }] });
  await expect(wrong({ mailTo: '', apps: [] })).rejects.toThrow();
  await expect(wrong({ quietFrom: '25:00', quietUntil: '07:00' })).rejects.toMatchObject({
    findings: [{ field: 'quietFrom' }],
  });
  await saveRule(ctx, SYSTEM, rule({ name: 'Tested' }));
  const [saved] = await listRules(ctx, SYSTEM);
  expect(await testRule(ctx, SYSTEM, saved?.id ?? '')).toEqual([]);
  await until('the test is mailed', async () => (await subjects()).some((subject) => /a test/.test(subject)));
});

test('ten thousand failures are one alert, and one end', async () => {
  const { ctx } = house;
  await bench().moveClock(31 * MINUTE);
  await saveRule(
    ctx,
    SYSTEM,
    rule({ name: 'Storm', afterMinutes: '0', escalateAfter: '', escalatePhones: '', apps: [] }),
  );
  const before = (await mails()).length;
  const channel = mossgate.channel.id;
  const { recordFacts } = await import('../src/operations/proofs');
  for (let n = 0; n < 10; n++)
    await ctx.store.write((unit) =>
      recordFacts(
        unit,
        Array.from({ length: 1000 }, (_, place) => ({
          subject: channel,
          fact: {
            kind: 'fault',
            cause: 'sender-not-owned',
            began: ctx.now(),
            at: ctx.now(),
            ref: `msg_${n}_${place}`,
          } as never,
        })),
        ctx.now(),
      ),
    );
  const told = async () => (await subjects()).slice(before).filter((subject) => !/credit/i.test(subject));
  await until('it is told', async () => (await told()).length > 0);
  await bench().type(TOMAS, mossgate.channel.address, 'LOCK Tollgate 10:00');
  await until('its end is told', async () => (await told()).some((subject) => subject.startsWith('Over: ')));
  expect((await told()).length).toBe(2);
});
