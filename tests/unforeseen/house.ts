/** An installation with something that can be made to misbehave between any two of its machines. */

import { replaceCredentials } from '../../src/operations/accounts/accounts';
import { changeSubscription } from '../../src/operations/apps/webhooks/subscriptions';
import { SYSTEM } from '../../src/operations/context/actor';
import type { Scope } from '../../src/operations/diagnosis/complaintEvidence';
import { type Answer, type DiagnosisView, diagnoseComplaint } from '../../src/operations/diagnosis/diagnose';
import { probe } from '../../src/operations/diagnosis/probe';
import { createSender } from '../../src/operations/outbound/sendMessage';
import { record } from '../calibration/record';
import { connectMossgate, credentialsOf, INES, type Mossgate } from '../harness/mossgate';
import { type Installation, startInstallation } from '../harness/processes';
import { passTime, settle } from '../harness/rest';
import { until } from '../harness/until';
import { judge, type Outcome, type Unforeseen } from './case';
import { type Middle, standBetween } from './middle';

export const ODILE = '+33639980417';
export const PERRIN = '+447700900217';

export interface House {
  installation: Installation;
  mossgate: Mossgate;
  /** Between Windgap and the provider's API, the provider and our door, Windgap and the app, the app and our API. */
  api: Middle;
  door: Middle;
  hook: Middle;
  call: Middle;
  send(to?: string, text?: string): Promise<string | undefined>;
  write(text?: string, from?: string): Promise<void>;
  /** The app asks to send, through whatever stands before our API. */
  order(body?: object, headers?: Record<string, string>, path?: string): Promise<number>;
  provider(settings: object): Promise<unknown>;
  faults(settings: Record<string, boolean | number>): Promise<void>;
  words(): string;
}

export async function openHouse(): Promise<House> {
  const [api, door, hook, call] = await Promise.all([standBetween(), standBetween(), standBetween(), standBetween()]);
  const installation = await startInstallation({ env: { WINDGAP_PUBLIC_URL: door.url } });
  const { world, ctx, bench, origin } = installation;
  api.leadTo(`http://127.0.0.1:${world.ports.brackwater}`);
  hook.leadTo(`http://127.0.0.1:${world.ports.lockbook}`);
  door.leadTo(origin);
  call.leadTo(origin);
  const mossgate = await connectMossgate(installation);
  await bench.addHandset(PERRIN, 'Perrin Achterberg');
  await replaceCredentials(ctx, SYSTEM, mossgate.accountId, {
    ...credentialsOf(installation),
    apiAddress: `${api.url}/v2`,
  });
  await changeSubscription(ctx, SYSTEM, mossgate.subscriptionId, { url: `${hook.url}/hooks/windgap` });
  const remote = world.accounts[0]?.id ?? '';
  const sender = createSender(ctx);
  let count = 0;
  const words = () => `Stoppage notice ${++count}`;
  return {
    installation,
    mossgate,
    api,
    door,
    hook,
    call,
    words,
    async send(to = INES, text = words()) {
      const sent = await sender(SYSTEM, { to, from: mossgate.channel.id, text }).catch(() => undefined);
      await settle(installation);
      return sent?.message.id;
    },
    async write(text = `Is the lock open ${++count}`, from = INES) {
      await bench.type(from, mossgate.channel.address, text).catch(() => undefined);
      await settle(installation);
    },
    async order(body = { to: INES, text: words() }, headers = {}, path = '/api/v1/messages') {
      const answer = await fetch(call.url + path, {
        method: 'POST',
        headers: { authorization: `Bearer ${mossgate.apiKey}`, 'content-type': 'application/json', ...headers },
        body: JSON.stringify(body),
      }).catch(() => undefined);
      await settle(installation);
      return answer?.status ?? 0;
    },
    provider: (settings) => bench.account(remote, settings as Record<string, unknown>),
    faults: (settings) => bench.faults({ brackwater: settings }),
  };
}

export async function closeHouse({ installation, api, door, hook, call }: House): Promise<void> {
  await installation.stop();
  await Promise.all([api, door, hook, call].map((middle) => middle.close()));
}

/** Good traffic both ways, so that each case begins from what is proven. */
async function wellAgain(house: House): Promise<void> {
  const { installation, mossgate, words } = house;
  const { ctx, bench } = installation;
  const text = words();
  await house.send(INES, text);
  await until(
    'it arrives again',
    async () => (await ctx.store.messages.one({ text, direction: 'out' }))?.state === 'delivered',
  );
  const said = `LOCK ${words()}`;
  await bench.type(INES, mossgate.channel.address, said);
  await until('it comes in again', async () => (await ctx.store.messages.count({ text: said })) > 0);
  await until('the app is told', async () => (await ctx.store.deliveries.count({ state: ['due', 'leased'] })) === 0);
}

/** Far enough that what went wrong before is no longer looked at. */
const A_DAY_ON = 25 * 3_600_000;

export async function runCase(house: House, each: Unforeseen): Promise<Outcome> {
  const { installation } = house;
  // Yesterday's troubles are over: whatever a case is about begins in it.
  await installation.bench.moveClock(A_DAY_ON);
  await passTime(installation, wellAgain(house));
  await each.begin(house);
  await each.traffic?.(house);
  const view = await complain(house, each);
  const outcome = judge(each, view);
  if (process.env.WINDGAP_SUITE_VERBOSE === '1' && !outcome.outcome.startsWith('right'))
    console.log(
      each.name,
      JSON.stringify({ outcome, expected: each.where, view: { ...view, ruledOut: undefined } }, null, 1),
    );
  for (const middle of [house.api, house.door, house.hook, house.call]) middle.become();
  await each.end?.(house);
  return outcome;
}

/** Returns what is asked as the person would, and lets Windgap test, until it has an opinion. */
async function complain(house: House, each: Unforeseen): Promise<DiagnosisView> {
  const { installation, mossgate } = house;
  const { ctx } = installation;
  let scope: Scope = { channel: mossgate.channel.id, ...each.about?.(house) };
  const answers: Record<string, Answer> = {};
  for (let turn = 0; turn < 10; turn++) {
    const view = await diagnoseComplaint(ctx, SYSTEM, { symptom: each.symptom, scope, answers });
    if (view.verdict !== 'open') {
      const { name, causes = [], where } = each;
      await record(installation, { symptom: each.symptom, scope, answers }, { name, causes, where });
      return view;
    }
    if (view.which) scope = { ...scope, message: each.which ?? view.where.message?.id ?? 'none' };
    else if (view.test)
      answers[view.test.id] = (
        await passTime(
          installation,
          probe(ctx, SYSTEM, createSender(ctx), view.test.id, { ...scope, message: view.test.like }),
        )
      ).answer;
    else if (view.question) answers[view.question.id] = each.knows?.[view.question.id] ?? 'unknown';
    else return view;
  }
  throw new Error(`“${each.name}” asks without end`);
}

export { INES };
