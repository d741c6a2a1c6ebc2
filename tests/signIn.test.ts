/** Signing in under guessing: tries count before they are judged, strangers do not lock the right person out, and hashing stays bounded. */
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { type SignInTry, signIn } from '../src/operations/people/signIn';
import { type Installation, startInstallation } from './harness/processes';

const RIGHT = 'towpath at low water';
const EMAIL = 'maren@mossgate.example';
let house: Installation;
let owner: string;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  owner = (await createFirstOwner(house.ctx, { name: 'Maren', email: EMAIL, password: RIGHT })).id;
});
afterAll(() => house.stop());
beforeEach(() => house.ctx.store.write((unit) => unit.execute('DELETE FROM sign_in_failures')));

let addresses = 0;
const fresh = () => `203.0.113.${++addresses}`;
/** What became of a try, in a word. */
const tried = (given: Partial<SignInTry>) =>
  signIn(house.ctx, { email: EMAIL, password: RIGHT, from: fresh(), ...given }).then(
    ({ name }) => name,
    ({ kind }: { kind: string }) => kind,
  );
const counted = (words: string[]) =>
  Object.fromEntries([...new Set(words)].map((word) => [word, words.filter((each) => each === word).length]));
const kept = () => house.ctx.store.signInFailures.count({});

test('sixty guesses at once on one account: eight are judged', async () => {
  const answers = await Promise.all(Array.from({ length: 60 }, () => tried({ password: 'wrong' })));
  expect(counted(answers)).toEqual({ invalid: 8, 'too-often': 52 });
  // What was judged and refused is on record, and nothing of what was typed.
  const refused = await house.ctx.store.audit.all({ action: 'sign-in.refused' });
  expect(refused).toHaveLength(8);
  expect(refused[0]).toMatchObject({ subject_id: owner, summary: expect.stringContaining('as Maren') });
  expect(JSON.stringify(refused)).not.toContain('wrong');
  // The right password is no way past it from an address of nobody.
  expect(await tried({})).toBe('too-often');
});

test('what strangers try does not keep the person out of a browser they signed in with before', async () => {
  for (let guess = 0; guess < 9; guess++) await tried({ password: 'wrong' });
  expect(await tried({ device: { id: 'd1', personId: owner } })).toBe('Maren');
  // The device of somebody else is none of hers, and a known one has an end to guessing, too.
  expect(await tried({ device: { id: 'd2', personId: 'usr_other' } })).toBe('too-often');
  for (let guess = 0; guess < 8; guess++) await tried({ password: 'wrong', device: { id: 'd1', personId: owner } });
  expect(await tried({ device: { id: 'd1', personId: owner } })).toBe('too-often');
});

test('forty from one address are its end, whoever is tried', async () => {
  const from = fresh();
  const at = house.ctx.now();
  const failed = Array.from({ length: 38 }, () => ({ subject: `address:${from}`, at }));
  await house.ctx.store.write((unit) => unit.signInFailures.insert(failed));
  const answers: string[] = [];
  for (let guess = 0; guess < 4; guess++) answers.push(await tried({ email: `nobody${guess}@mossgate.example`, from }));
  expect(answers).toEqual(['invalid', 'invalid', 'too-often', 'too-often']);
});

test('a right one leaves nothing behind, and neither does one that was never judged', async () => {
  expect(await tried({})).toBe('Maren');
  expect(await kept()).toBe(0);
  // More at once than may wait, each on an account of its own: some are asked to come again.
  const answers = await Promise.all(
    Array.from({ length: 40 }, (_, index) => tried({ email: `crowd${index}@mossgate.example` })),
  );
  expect(answers.filter((answer) => answer === 'too-often').length).toBeGreaterThan(10);
  expect(await kept()).toBe(2 * answers.filter((answer) => answer === 'invalid').length);
});

test('a password longer than any is wrong, and takes no longer', async () => {
  expect(await tried({ password: RIGHT + 'x'.repeat(2_000_000) })).toBe('invalid');
});
