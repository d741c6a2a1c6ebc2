/** One gate for all ways of sending: no text leaves with a merge field that nothing has filled, and a reply is filled with the right person. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { tokensIn } from '../src/core/text/merge';
import type { Actor } from '../src/operations/context';
import { answerIn } from '../src/operations/conversations/conversationWork';
import { createSender } from '../src/operations/outbound/sendMessage';
import { setAttribute } from '../src/operations/routing/routeStepContext';
import { callApi, connectMossgate, INES, type Mossgate, noticeHook, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { all, begins, publishRoutes, route } from './harness/routes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;
const agent: Actor = { kind: 'user', id: 'usr_gate', name: 'Jonas', role: 'owner' };

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  await publishRoutes(house.ctx, [
    route('echo', all(begins('echo')), [{ do: 'reply', text: 'You wrote: {{ message.text }}' }]),
  ]);
});
afterAll(() => house.stop());

test('what goes out is made in one place, behind the gate', () => {
  const src = join(import.meta.dirname, '../src');
  const files = readdirSync(src, { recursive: true, encoding: 'utf8' }).filter(
    (file) => file.endsWith('.ts') && !file.endsWith('.test.ts'),
  );
  const having = (words: RegExp) => files.filter((file) => words.test(readFileSync(join(src, file), 'utf8'))).sort();
  expect(having(/\.outbox\.insert\(/)).toEqual(['operations/outbound/sendMessage.ts']);
  expect(having(/\.messages\.insert\(/)).toEqual([
    'operations/inbound/storeTexts.ts',
    'operations/outbound/sendMessage.ts',
  ]);
  expect(having(/INSERT INTO (messages|outbox)\b/i)).toEqual([]);
  expect(readFileSync(join(src, 'operations/outbound/sendMessage.ts'), 'utf8')).toMatch(/draftOf\(/);
});

/** Tokens of this and of other programs, with anything around them. */
const unfilled = fc
  .tuple(
    fc.string({ maxLength: 12 }),
    fc.constantFrom('{{ contact.name }}', '{{name}}', '{{ }}', '{% if x %}', '{{ guest["first name"] }}', '{{1}}'),
    fc.string({ maxLength: 12 }),
  )
  .map(([before, token, after]) => `Dear ${before.replace(/[{}\0]/g, '')} ${token} ${after.replace(/[{}\0]/g, '')}`);

test('from the desk, an app, and a hook whose app sent its own placeholder: nothing leaves', async () => {
  const { ctx } = house;
  const send = createSender(ctx);
  const from = mossgate.channel.id;
  const { url } = await noticeHook(house, mossgate.appId, from);
  await fc.assert(
    fc.asyncProperty(unfilled, async (text) => {
      await expect(send(agent, { to: INES, from, text })).rejects.toMatchObject({ findings: [{ field: 'text' }] });
      const answer = await callApi(house, mossgate.apiKey, 'POST', '/messages', { to: INES, from, text });
      expect(answer.status).toBe(422);
      await fetch(url, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ phone: INES, words: text }),
      });
    }),
    { numRuns: 25, seed: 24 },
  );
  await until('the hook is done', async () => (await ctx.store.runs.count({ ended_at: null })) === 0);
  const out = await ctx.store.messages.all({ direction: 'out' });
  expect(out.filter(({ text }) => tokensIn(text).length > 0)).toEqual([]);
});

test('a field typed into a reply is filled with what is known of this person, and refused where nothing is', async () => {
  const { ctx, bench } = house;
  const send = createSender(ctx);
  for (const [phone, name] of [
    [INES, 'Inês'],
    [TOMAS, 'Tomás'],
  ] as const) {
    await bench.type(phone, mossgate.channel.address, 'When is it open?');
    const row = await until('it is in', () => ctx.store.messages.one({ sender: phone, direction: 'in' }));
    await ctx.store.write((unit) => setAttribute(unit, row.contact_id, 'berth', `B-${name}`, ctx.now()));
    const reply = (text: string) =>
      answerIn(ctx, send, agent, {
        conversationId: row.conversation_id,
        seen: row.id,
        to: phone,
        from: mossgate.channel.id,
        text,
      });
    await reply('Your berth is {{ contact.berth }}, {{ berth }}.');
    await until('it arrived', async () =>
      (await bench.received(phone)).some(({ text }) => text === `Your berth is B-${name}, B-${name}.`),
    );
    await expect(reply('Dear {{ contact.nickname }}')).rejects.toMatchObject({ findings: [{ field: 'text' }] });
  }
});

test('what a person wrote with braces in it is passed on by a route as they wrote it', async () => {
  await house.bench.type(INES, mossgate.channel.address, 'echo {{ not.a.field }}');
  await until('it came back', async () =>
    (await house.bench.received(INES)).some(({ text }) => text === 'You wrote: echo {{ not.a.field }}'),
  );
});
