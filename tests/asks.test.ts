/** The engine killed while it is in the middle of asking many people. */

import { afterAll, beforeAll, expect, test } from 'vitest';
import type { RouteStep } from '../src/core/routing/route';
import { counts } from './harness/chaos';
import { connectMossgate, type Mossgate } from './harness/mossgate';
import { brackwaterProfile, type Installation, killHard, startInstallation } from './harness/processes';
import { settle } from './harness/rest';
import { all, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

const PEOPLE = counts(60, 200);
const numbers = Array.from({ length: PEOPLE }, (_, index) => `+447700900${String(index + 300).padStart(3, '0')}`);

let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation({
    engine: false,
    web: true,
    perSecond: 2000,
    profiles: { 'quick.yaml': brackwaterProfile('quick', (text) => text.replace('pace: 25', 'pace: 500')) },
  });
  mossgate = await connectMossgate(house, 'quick', 500);
  for (const number of numbers) await house.bench.addHandset(number);
});
afterAll(() => house.stop());

const runsIn = (state: 'waiting' | 'due' | 'done') => house.ctx.store.runs.count({ source: 'route', state });
const everybodySays = (text: string) =>
  Promise.all(numbers.map((number) => house.bench.type(number, mossgate.channel.address, text)));

/** Starts an engine, lets it get somewhere, and kills it. */
async function startAndKill(somewhere: () => Promise<boolean>) {
  await house.startEngine();
  await until('it got somewhere', somewhere);
  await killHard(house.engine);
}

test('every conversation goes on after each kill, and nobody is asked or answered twice', async () => {
  const { ctx } = house;
  const book: RouteStep = {
    do: 'ask',
    text: 'Which lock?',
    keep: 'lock',
    answers: [],
    otherwise: [
      { do: 'wait', minutes: 1 },
      { do: 'reply', text: 'Booked: {{ answers.lock }} for {{ message.from }}' },
    ],
    minutes: 60,
    late: [],
  };
  await publishRoutes(ctx, [route('Book a passage', all(), [book])]);
  await everybodySays('Passage please');
  await until('all are stored', async () => (await ctx.store.inbound.count({ state: 'stored' })) === PEOPLE);

  const questions = async () => (await house.bench.texts()).filter((text) => text.text === 'Which lock?').length;
  let kills = 0;
  for (const share of counts([0.3], [0.1, 0.3, 0.6])) {
    await startAndKill(async () => (await questions()) >= PEOPLE * share);
    kills += 1;
  }
  await house.startEngine();
  await until('everybody was asked', async () => (await runsIn('waiting')) === PEOPLE);
  await killHard(house.engine);
  kills += 1;

  // They answer while nothing runs.
  await everybodySays('Heron Staircase');
  await until('all are stored', async () => (await ctx.store.inbound.count({ state: 'stored' })) >= PEOPLE);
  await startAndKill(async () => (await ctx.store.messageRoutings.count({ outcome: 'answer' })) >= PEOPLE * 0.4);
  kills += 1;
  await house.startEngine();
  await until(
    'all answers are taken',
    async () => (await ctx.store.messageRoutings.count({ outcome: 'answer' })) === PEOPLE,
  );
  await until('all wait a minute', async () => (await runsIn('waiting')) === PEOPLE);
  await killHard(house.engine);
  // The minute passes.
  await ctx.store.write((unit) =>
    unit.execute(
      `UPDATE runs SET due_at = due_at - 60000, memory = json_set(memory, '$."waits.1"', CAST(memory->>'$."waits.1"' - 60000 AS TEXT)) WHERE state = 'waiting'`,
    ),
  );
  await startAndKill(
    async () => (await house.bench.texts()).filter(({ text }) => text.startsWith('Booked')).length >= PEOPLE * 0.3,
  );
  kills += 2;
  await house.startEngine();
  await until('all are done', async () => (await runsIn('done')) === PEOPLE);
  // A machine that stands still for some seconds is at rest for `settle`: what was accepted has left when none waits.
  await until('everything has left', async () => (await ctx.store.outbox.count({})) === 0);
  await settle(house);

  const copies = new Map<string, number>();
  for (const { direction, to, text } of await house.bench.texts())
    if (direction === 'out') copies.set(`${to} ${text}`, (copies.get(`${to} ${text}`) ?? 0) + 1);
  console.log(
    `${kills} kills; ${copies.size} different texts, ${[...copies.values()].filter((n) => n > 1).length} of them more than once`,
  );
  expect(copies.size).toBe(PEOPLE * 2);
  expect([...copies.values()].every((n) => n === 1)).toBe(true);
  for (const number of numbers) expect(copies.get(`${number} Booked: Heron Staircase for ${number}`)).toBe(1);
});
