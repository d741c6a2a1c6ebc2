/** Addresses of people: merged, split, given and taken by somebody else; consent never grows by any of it, and each is undone. */
import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { identityKey } from '../src/core/identities/identityKinds';
import { standingOf } from '../src/operations/contacts/consent/consentCoverage';
import { enterConsent } from '../src/operations/contacts/consent/consents';
import { mergeContacts, undoMerge } from '../src/operations/contacts/contactMerge';
import { addContact } from '../src/operations/contacts/contactPages';
import { addAddress, believeAddress, moveIdentity, undoMove } from '../src/operations/contacts/identityMoves';
import { previewMove } from '../src/operations/contacts/previews';
import { isOperationError } from '../src/operations/context';
import { SYSTEM } from '../src/operations/context/actor';
import { listConversations } from '../src/operations/conversations/conversations';
import { createSender } from '../src/operations/outbound/sendMessage';
import { connectMossgate, type Mossgate } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation();
  mossgate = await connectMossgate(house);
});
afterAll(() => house.stop());

const mail = (value: string) => ({ kind: 'mail' as const, scope: '', value });
const phone = (value: string) => ({ kind: 'phone' as const, scope: '', value });
const RANKS = { withdrawn: 0, unknown: 1, given: 2 };

/** What stands of every address, by its key. */
async function ranks(values: readonly string[]): Promise<Map<string, number>> {
  const found = new Map<string, number>();
  for (const value of values) {
    const row = await house.ctx.store.identities.one(mail(value));
    if (!row) continue;
    const standing = await standingOf(house.ctx.store, row.contact_id, 'mail');
    found.set(value, RANKS[standing.get(identityKey(row)) ?? 'unknown']);
  }
  return found;
}

type Step = { do: 'give' | 'stop' | 'merge' | 'split' | 'given' | 'recycled' | 'undo'; one: number; other: number };
const step: fc.Arbitrary<Step> = fc.record({
  do: fc.constantFrom('give', 'stop', 'merge', 'split', 'given', 'recycled', 'undo'),
  one: fc.nat(5),
  other: fc.nat(5),
});

let runs = 0;
test('whatever is merged, split, given, taken over and undone, nobody is agreed for who did not agree', async () => {
  const { ctx } = house;
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 12 }), async (steps) => {
      runs += 1;
      const values = Array.from({ length: 6 }, (_, index) => `p${runs}-${index}@heron.example`);
      for (const [index, address] of values.entries()) {
        const first = await ctx.store.identities.one(mail(values[index - 1] ?? ''));
        // Every second one is one more address of the contact before.
        if (index % 2 === 1 && first) await addAddress(ctx, SYSTEM, first.contact_id, { address });
        else await addContact(ctx, SYSTEM, { name: address, address });
      }
      /** What can be undone, with what stood before it and who has declined since. */
      const done: { undo: () => Promise<unknown>; before: Map<string, number>; stopped: Set<string> }[] = [];
      for (const { do: what, one, other } of steps) {
        const before = await ranks(values);
        const holder = async (index: number) =>
          (await ctx.store.identities.one(mail(values[index] ?? '')))?.contact_id ?? '';
        const [contactId, otherId] = [await holder(one), await holder(other)];
        const identity = mail(values[one] ?? '');
        let allowed = before;
        try {
          if (what === 'give' || what === 'stop') {
            const said = what === 'give' ? 'given' : 'withdrawn';
            await enterConsent(ctx, SYSTEM, { contactId, way: 'mail', what: said, wording: 'Said so.' });
            const own = (await ctx.store.identities.all({ contact_id: contactId })).map(({ value }) => value);
            allowed = new Map([...before].map(([value, rank]) => [value, own.includes(value) ? RANKS[said] : rank]));
            if (what === 'stop') for (const { stopped } of done) for (const value of own) stopped.add(value);
            else done.length = 0;
          } else if (what === 'merge') {
            const { id } = await mergeContacts(ctx, SYSTEM, {
              keptId: contactId,
              goneId: otherId,
              why: 'the same person',
            });
            done.push({ undo: () => undoMerge(ctx, SYSTEM, id), before, stopped: new Set() });
          } else if (what === 'undo') {
            const last = done.pop();
            if (!last) continue;
            await last.undo();
            allowed = new Map(
              [...last.before].map(([value, rank]) => [value, last.stopped.has(value) ? RANKS.withdrawn : rank]),
            );
          } else {
            const { id } = await moveIdentity(ctx, SYSTEM, {
              identity,
              how: what,
              toId: otherId,
              why: 'They said so.',
            });
            done.push({ undo: () => undoMove(ctx, SYSTEM, id), before, stopped: new Set() });
          }
        } catch (error) {
          if (!isOperationError(error)) throw error;
          continue;
        }
        for (const [value, rank] of await ranks(values))
          expect(rank, `${value} after ${what} ${one} ${other}`).toBeLessThanOrEqual(allowed.get(value) ?? 0);
      }
    }),
    { seed: 20, numRuns: 30 },
  );
});

test('an opt-in covers the addresses of then; one that is added is not covered', async () => {
  const { ctx } = house;
  const { id } = await addContact(ctx, SYSTEM, { name: 'Odile', address: 'odile@heron.example' });
  await enterConsent(ctx, SYSTEM, { contactId: id, way: 'mail', what: 'given', wording: 'On paper.' });
  await addAddress(ctx, SYSTEM, id, { address: 'odile@work.example' });
  expect([...(await standingOf(ctx.store, id, 'mail')).values()]).toEqual(['given', 'unknown']);
  await expect(addAddress(ctx, SYSTEM, id, { address: 'ODILE@heron.example' })).rejects.toThrow();
});

test('whoever declined while two were one stays declined when they are two again', async () => {
  const { ctx } = house;
  const [kept, gone] = [
    await addContact(ctx, SYSTEM, { name: 'Kaja', address: 'kaja@heron.example' }),
    await addContact(ctx, SYSTEM, { name: 'Kaja', address: 'kaja@work.example' }),
  ];
  await enterConsent(ctx, SYSTEM, { contactId: gone.id, way: 'mail', what: 'given', wording: 'On paper.' });
  const { id } = await mergeContacts(ctx, SYSTEM, { keptId: kept.id, goneId: gone.id, why: 'the same name' });
  expect(await ranks(['kaja@heron.example', 'kaja@work.example'])).toEqual(
    new Map([
      ['kaja@heron.example', RANKS.unknown],
      ['kaja@work.example', RANKS.given],
    ]),
  );
  await enterConsent(ctx, SYSTEM, { contactId: kept.id, way: 'mail', what: 'withdrawn', wording: 'No more.' });
  await undoMerge(ctx, SYSTEM, id);
  expect([...(await ranks(['kaja@heron.example', 'kaja@work.example'])).values()]).toEqual([0, 0]);
});

test('a number that was two people’s is split off with its messages, and put back again', async () => {
  const { ctx, bench } = house;
  const [anna, bo] = ['+447700900201', '+447700900202'];
  for (const number of [anna, bo]) await bench.addHandset(number);
  await bench.type(anna, mossgate.channel.address, 'Anna here');
  await bench.type(bo, mossgate.channel.address, 'Bo here');
  const first = await until('Anna is in', () => ctx.store.messages.one({ text: 'Anna here' }));
  const second = await until('Bo is in', () => ctx.store.messages.one({ text: 'Bo here' }));
  const { id: merge } = await mergeContacts(ctx, SYSTEM, {
    keptId: first.contact_id,
    goneId: second.contact_id,
    why: 'x',
  });
  expect(merge).toBeTruthy();
  const preview = await previewMove(ctx, SYSTEM, { identity: phone(bo), how: 'split' });
  expect(preview).toMatchObject({ messages: 1, declined: [], ends: [], to: undefined });
  const { id, contactId } = await moveIdentity(ctx, SYSTEM, { identity: phone(bo), how: 'split', why: 'Bo said so.' });
  expect(await ctx.store.messages.one({ id: second.id })).toMatchObject({ contact_id: contactId });
  expect(await ctx.store.messages.one({ id: first.id })).toMatchObject({ contact_id: first.contact_id });
  expect(await listConversations(ctx, SYSTEM, 'Bo here')).toHaveLength(1);
  await undoMove(ctx, SYSTEM, id);
  expect(await ctx.store.messages.one({ id: second.id })).toMatchObject({
    contact_id: first.contact_id,
    conversation_id: first.conversation_id,
  });
  await expect(undoMove(ctx, SYSTEM, id)).rejects.toThrow('undone already');
  const history = await ctx.store.identityEntries.all({ value: bo }, { order: [['id', 'ASC']] });
  expect(history.map(({ what }) => what)).toEqual(['added', 'moved', 'moved', 'moved']);
});

test('a number that somebody else has now begins anew: what was said stays with who said it', async () => {
  const { ctx, bench } = house;
  const number = '+447700900203';
  await bench.addHandset(number);
  await bench.type(number, mossgate.channel.address, 'I am Carla');
  const before = await until('it is in', () => ctx.store.messages.one({ text: 'I am Carla' }));
  await enterConsent(ctx, SYSTEM, { contactId: before.contact_id, way: 'text', what: 'given', wording: 'On paper.' });
  const { contactId } = await moveIdentity(ctx, SYSTEM, {
    identity: phone(number),
    how: 'recycled',
    why: 'Somebody else answered.',
  });
  await bench.type(number, mossgate.channel.address, 'I am Dag');
  const after = await until('it is in', () => ctx.store.messages.one({ text: 'I am Dag' }));
  expect(after.contact_id).toBe(contactId);
  expect(after.conversation_id).not.toBe(before.conversation_id);
  expect((await ctx.store.messages.one({ id: before.id }))?.contact_id).toBe(before.contact_id);
  expect([...(await standingOf(ctx.store, contactId, 'text')).values()]).toEqual(['unknown']);
});

test('who writes that they are not who was meant is doubted: nothing agreed to counts until somebody says it is theirs', async () => {
  const { ctx, bench } = house;
  const number = '+447700900204';
  await bench.addHandset(number);
  await bench.type(number, mossgate.channel.address, 'Hello from Edda');
  const { contact_id: contactId } = await until('it is in', () => ctx.store.messages.one({ text: 'Hello from Edda' }));
  await enterConsent(ctx, SYSTEM, { contactId, way: 'text', what: 'given', wording: 'On paper.' });
  const standing = async () => [...(await standingOf(ctx.store, contactId, 'text')).values()];
  expect(await standing()).toEqual(['given']);
  await bench.type(number, mossgate.channel.address, 'Wrong number, sorry');
  await until('it is doubted', async () => (await ctx.store.identities.one(phone(number)))?.doubt);
  expect(await standing()).toEqual(['unknown']);
  await believeAddress(ctx, SYSTEM, phone(number));
  expect(await standing()).toEqual(['given']);
  await bench.type(number, mossgate.channel.address, 'My neighbour got a wrong number from you');
  await until('it is in', () => ctx.store.messages.one({ text: 'My neighbour got a wrong number from you' }));
  expect(await standing()).toEqual(['given']);
});

test('a number nothing gets to for longer than numbers rest inherits nothing when it is in use again; one that was off for a week does', async () => {
  const { ctx, bench } = house;
  const numbers = ['+447700900205', '+447700900206'] as const;
  const [gone, off] = numbers;
  const standing = async (number: string) => {
    const { contact_id } = (await ctx.store.identities.one(phone(number))) ?? { contact_id: '' };
    return [...(await standingOf(ctx.store, contact_id, 'text')).values()];
  };
  for (const number of numbers) {
    await bench.addHandset(number);
    await bench.type(number, mossgate.channel.address, `Hello from ${number}`);
    const { contact_id: contactId } = await until('it is in', () =>
      ctx.store.messages.one({ text: `Hello from ${number}` }),
    );
    await enterConsent(ctx, SYSTEM, { contactId, way: 'text', what: 'given', wording: 'On paper.' });
    await bench.setHandset(number, { power: 'off' });
  }
  const send = createSender(ctx);
  const misses = async (to: string, text: string) => {
    const { message } = await send(SYSTEM, { to, from: mossgate.channel.id, text });
    await until('it did not get there', () => ctx.store.messages.one({ id: message.id, state: 'failed' }));
  };
  const DAY = 86_400_000;
  await misses(gone, 'First');
  await bench.moveClock(33 * DAY);
  await misses(gone, 'Second');
  await misses(off, 'First');
  await bench.moveClock(7 * DAY);
  await misses(off, 'Second');
  await bench.moveClock(7 * DAY);
  for (const number of numbers) {
    await bench.setHandset(number, { power: 'on' });
    const { message } = await send(SYSTEM, { to: number, from: mossgate.channel.id, text: 'Are you there again?' });
    await until('it got there', () => ctx.store.messages.one({ id: message.id, state: 'delivered' }));
  }
  await until('it is doubted', async () => (await ctx.store.identities.one(phone(gone)))?.doubt);
  expect(await standing(gone)).toEqual(['unknown']);
  expect(await standing(off)).toEqual(['given']);
  expect(await ctx.store.missedDeliveries.all()).toEqual([]);
  // Said to be theirs after all.
  await believeAddress(ctx, SYSTEM, phone(gone));
  expect(await standing(gone)).toEqual(['given']);
});

test('an address that is given to another contact brings no opt-in along, even where the other agreed for their own', async () => {
  const { ctx } = house;
  const from = await addContact(ctx, SYSTEM, { name: 'Frida', address: 'frida@heron.example' });
  const to = await addContact(ctx, SYSTEM, { name: 'Gerda', address: 'gerda@heron.example' });
  for (const { id: contactId } of [from, to])
    await enterConsent(ctx, SYSTEM, { contactId, way: 'mail', what: 'given', wording: 'On paper.' });
  const identity = mail('frida@heron.example');
  const { id } = await moveIdentity(ctx, SYSTEM, { identity, how: 'given', toId: to.id, why: 'It was always hers.' });
  const both = ['frida@heron.example', 'gerda@heron.example'];
  expect([...(await ranks(both)).values()]).toEqual([RANKS.unknown, RANKS.given]);
  await undoMove(ctx, SYSTEM, id);
  expect([...(await ranks(both)).values()]).toEqual([RANKS.given, RANKS.given]);
});
