/** Who may begin a web chat how often: counted by who asks, after what they ask is found right, and no client shuts others out. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { WEB_CHAT_START } from '../src/core/connect/webChat';
import { type Chat, createChat, openWebChat } from '../src/operations/channels/webChat';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import type { ChannelRow } from '../src/store/schema/rows';
import { type Installation, startInstallation } from './harness/processes';

const ORIGIN = 'https://mossgate.example';
let house: Installation;
let chat: Chat;
let channel: ChannelRow;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  const { id } = await openWebChat(house.ctx, SYSTEM, {
    name: 'Website',
    settings: { ...WEB_CHAT_START, origins: [ORIGIN] },
  });
  channel = (await house.ctx.store.channels.one({ id })) as ChannelRow;
  // One minute, so that none ends in between.
  const at = { ...house.ctx, now: () => 1_800_000_000_000 };
  chat = createChat(at, createSender(at));
});
afterAll(() => house.stop());

const begun = async (client: string, given: object = { consent: true }) => {
  const answer = await chat.begin(channel, { origin: ORIGIN, client }, given);
  return answer.ok ? 'begun' : answer.refusal.status;
};

test('one client comes to its end, and everybody else goes on', async () => {
  const answers: unknown[] = [];
  for (let n = 0; n < 30; n++) answers.push(await begun('198.51.100.7'));
  expect(answers.filter((answer) => answer === 'begun')).toHaveLength(20);
  expect(answers.at(-1)).toBe(429);
  for (let n = 1; n < 80; n++) expect(await begun(`203.0.113.${n}`)).toBe('begun');
});

test('what is refused for what it says does not count', async () => {
  for (let n = 0; n < 60; n++) expect(await begun('198.51.100.8', {})).toBe(422);
  expect(await begun('198.51.100.8')).toBe('begun');
});
