/** Readiness over stored traffic: receipts that stop for one country, and a channel to which nobody writes any more. */
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { examineNow } from '../src/operations/readiness/readiness';
import type { MessageEventRow, MessageRow } from '../src/store/schema/rows';
import { connectMossgate, INES, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

let house: Installation;
let mossgate: Mossgate;
let like: MessageRow;
beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
  const { message } = await createSender(house.ctx)(SYSTEM, { to: INES, from: mossgate.channel.id, text: 'Like this' });
  like = await until('it has arrived', () => house.ctx.store.messages.one({ id: message.id, state: 'delivered' }));
});
afterAll(() => house.stop());

const found = async (code: string) => (await examineNow(house.ctx)).open.filter((finding) => finding.code === code);

/** Texts that left, each with when its receipt came, if any did. */
async function sent(name: string, texts: { at: number; country: string; receipt?: number }[]) {
  const rows = texts.map(
    ({ at, country, receipt }, n): MessageRow => ({
      ...like,
      id: `msg_${name}${String(n).padStart(8, '0')}`,
      recipient: country === 'FR' ? `+3363998${String(n).padStart(4, '0')}` : `+4477009${String(n).padStart(5, '0')}`,
      state: receipt === undefined ? 'sent' : 'delivered',
      provider_message_id: `${name}_${n}`,
      in_reply_to: null,
      created_at: at,
    }),
  );
  const event = (message_id: string, kind: MessageEventRow['kind'], at: number) =>
    ({
      message_id,
      kind,
      at,
      recorded_at: at,
      attempt: 1,
      cause: null,
      detail: null,
      exchange_id: null,
      inbound_request_id: null,
    }) as MessageEventRow;
  await house.ctx.store.write(async (unit) => {
    await unit.messages.insert(rows);
    // A text is of the country of its contact; these all are one contact's.
    await unit.execute(
      `UPDATE messages SET country = CASE WHEN recipient LIKE '+33%' THEN 'FR' ELSE 'GB' END WHERE id LIKE :like`,
      {
        like: `msg_${name}%`,
      },
    );
    await unit.events.insert(
      rows.flatMap(({ id }, n) => {
        const { at, receipt } = texts[n] as (typeof texts)[number];
        return [event(id, 'accepted', at), ...(receipt === undefined ? [] : [event(id, 'delivered', receipt)])];
      }),
    );
  });
}

test('receipts that stop for one country are said of that country, with the counts; late ones are none', async () => {
  const now = house.ctx.now();
  const day = now - DAY;
  await sent(
    'before',
    Array.from({ length: 240 }, (_, n) => {
      const at = day + n * 4 * MINUTE;
      return { at, country: n % 3 === 0 ? 'FR' : 'GB', ...(n % 17 === 5 ? {} : { receipt: at + 8000 }) };
    }),
  );
  expect(await found('receipts-stopped')).toEqual([]);
  const since = now - 3 * HOUR;
  await sent(
    'after',
    Array.from({ length: 45 }, (_, n) => {
      const at = since + n * 3 * MINUTE;
      // To France they come after hours, and say nothing in time.
      return n % 3 === 0 ? { at, country: 'FR', receipt: at + 40 * MINUTE } : { at, country: 'GB', receipt: at + 8000 };
    }),
  );
  await house.bench.moveClock(MINUTE + 1);
  const [stopped, ...others] = await found('receipts-stopped');
  expect(others).toEqual([]);
  expect(stopped).toMatchObject({ subject: { id: mossgate.channel.id }, about: 'country FR', severity: 'attention' });
  expect(stopped?.problem).toMatch(
    /of the last 15 texts to France none got a receipt within ten minutes; usual are 9\d %/,
  );
});

test('a channel nobody writes to any more is said once that is more than chance, with what would be usual', async () => {
  const { ctx } = house;
  const now = ctx.now();
  const stop = now - 5 * HOUR;
  const rows: MessageRow[] = [];
  for (let at = now - 26 * DAY; at < stop; at += 12 * MINUTE)
    rows.push({
      ...like,
      id: `msg_00${String(rows.length).padStart(10, '0')}`,
      direction: 'in',
      state: 'received',
      provider_message_id: `in_${rows.length}`,
      in_reply_to: null,
      created_at: at,
    });
  await ctx.store.write((unit) => unit.messages.insert(rows));
  // What was counted a while ago is counted again within an hour.
  await house.bench.moveClock(HOUR + MINUTE);
  const [silent] = await found('inbound-silent');
  expect(silent).toMatchObject({ subject: { id: mossgate.channel.id }, severity: 'attention' });
  expect(silent?.problem).toMatch(/nobody has written for 6 hours.*about (2\d|3\d) would be usual/);
  await house.bench.type(INES, mossgate.channel.address, 'Is anybody there?');
  await until('it is over', async () => (await found('inbound-silent')).length === 0);
});

test('texts in one alphabet that the provider takes no more are said, and an app that stops taking at the first attempt', async () => {
  const { ctx } = house;
  const now = ctx.now();
  const at = (n: number, every: number) => now - 6 * HOUR + n * every;
  const row = (name: string, n: number, encoding: MessageRow['encoding'], when: number): MessageRow => ({
    ...like,
    id: `msg_${name}${String(n).padStart(9, '0')}`,
    encoding,
    state: 'failed',
    provider_message_id: null,
    in_reply_to: null,
    created_at: when,
  });
  const rows = Array.from({ length: 160 }, (_, n) => row('sub', n, n % 2 === 0 ? 'UCS-2' : 'GSM-7', at(n, 2 * MINUTE)));
  await ctx.store.write(async (unit) => {
    await unit.messages.insert(rows);
    const event = (message_id: string, kind: MessageEventRow['kind'], when: number) =>
      ({
        message_id,
        kind,
        at: when,
        recorded_at: when,
        attempt: 1,
        cause: null,
        detail: null,
        exchange_id: null,
        inbound_request_id: null,
      }) as MessageEventRow;
    await unit.events.insert(
      rows.flatMap(({ id, encoding, created_at }, n) => {
        // The last fifteen of the wider alphabet are refused.
        const taken = encoding === 'GSM-7' || n < 130;
        return [event(id, 'attempted', created_at), event(id, taken ? 'accepted' : 'refused', created_at + 500)];
      }),
    );
    await unit.deliveries.insert(
      Array.from({ length: 90 }, (_, n) => ({
        id: `dlv_base${String(n).padStart(8, '0')}`,
        subscription_id: mossgate.subscriptionId,
        event_id: `evt_${n}`,
        event_type: 'message.received',
        message_id: null,
        ordering_key: `k${n}`,
        body: '{}',
        state: 'delivered' as const,
        cause: null,
        attempts: n < 75 ? 1 : 3,
        first_attempt_at: now - 2 * HOUR + n * 1000,
        due_at: 0,
        lease_owner: null,
        leased_at: null,
        last_status: 200,
        created_at: now - 2 * HOUR,
        delivered_at: now - HOUR,
      })),
    );
  });
  await house.bench.moveClock(2 * MINUTE);
  const [fell, ...others] = await found('submits-fell');
  expect(others).toEqual([]);
  expect(fell).toMatchObject({ about: 'taken encoding UCS-2', subject: { id: mossgate.channel.id } });
  expect(fell?.problem).toMatch(/of the last 15 texts in UCS-2 none was accepted within ten minutes/);
  const [answers] = await found('app-answers-fell');
  expect(answers?.problem).toMatch(/Lockbook: of the last 15 events it accepted none at the first attempt/);
});
