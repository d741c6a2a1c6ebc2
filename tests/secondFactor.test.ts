/** The second factor: passkeys, one-time codes and recovery codes, required by role, and asked again before what matters. */
import { createHmac } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createApiKey } from '../src/operations/apps/apiKeys';
import { createApp } from '../src/operations/apps/apps';
import { CONFIRMED_FOR, SYSTEM } from '../src/operations/context/actor';
import {
  keepPasskey,
  passkeyToAdd,
  passkeyToShow,
  relyingPartyOf,
  removePasskey,
} from '../src/operations/people/factors/passkeys';
import { makeRecoveryCodes } from '../src/operations/people/factors/recoveryCodes';
import { requireSecondFactor } from '../src/operations/people/factors/required';
import {
  afterPassword,
  clearFactors,
  confirmSession,
  finishEnrolling,
  noteEnrolled,
  showSecondFactor,
  signInByPasskey,
  waitingSignIn,
} from '../src/operations/people/factors/secondFactor';
import { STEP_LASTS } from '../src/operations/people/factors/steps';
import { keepTimeCodes, removeTimeCodes, timeCodesToAdd } from '../src/operations/people/factors/timeCodes';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { addPerson, changePassword, changeRole } from '../src/operations/people/people';
import type { Person } from '../src/operations/people/person';
import { actorOf, beginSession, sessionOf } from '../src/operations/people/sessions';
import { SoftAuthenticator } from './harness/authenticator';
import { type Installation, startInstallation } from './harness/processes';

const PASSWORD = 'towpath at low water';
const FROM = '198.51.100.20';
let house: Installation;
let owner: Person;
let priya: Person;
let arlo: Person;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false, host: 'localhost' });
  const { ctx } = house;
  owner = await createFirstOwner(ctx, { name: 'Maren', email: 'maren@mossgate.example', password: PASSWORD });
  const add = (name: string) =>
    addPerson(ctx, SYSTEM, {
      name,
      email: `${name.toLowerCase()}@mossgate.example`,
      password: PASSWORD,
      role: 'agent',
    });
  priya = await add('Priya');
  arlo = await add('Arlo');
});
afterAll(() => house.stop());

/** RFC 4226 §5.3 and RFC 6238 §4, written apart from what the product uses. */
function totp(base32: string, atMs: number): string {
  const bits = [...base32].map((letter) =>
    'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567'.indexOf(letter).toString(2).padStart(5, '0'),
  );
  const key = Buffer.from((bits.join('').match(/.{8}/g) ?? []).map((byte) => Number.parseInt(byte, 2)));
  const counter = Buffer.alloc(8);
  counter.writeBigUInt64BE(BigInt(Math.floor(atMs / 30_000)));
  const mac = createHmac('sha1', key).update(counter).digest();
  const at = (mac.at(-1) ?? 0) & 15;
  return String((mac.readUInt32BE(at) & 0x7fffffff) % 1_000_000).padStart(6, '0');
}

test('the codes of this test are those of RFC 6238, appendix B', () => {
  // The secret "12345678901234567890"; the last six figures of what the appendix gives with eight.
  const secret = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';
  expect([59, 1_111_111_109, 1_234_567_890, 20_000_000_000].map((at) => totp(secret, at * 1000))).toEqual([
    '287082',
    '081804',
    '005924',
    '353130',
  ]);
});

/** Somebody's context some time later. */
const later = (ms: number) => ({ ...house.ctx, now: () => house.ctx.now() + ms });

async function withCodes(person: Person): Promise<string> {
  const { token, secret } = await timeCodesToAdd(house.ctx, person);
  await keepTimeCodes(house.ctx, actorOf(person), { token, code: totp(secret, house.ctx.now()), here: '' });
  return secret;
}

const second = async (person: Person, ctx = house.ctx) => {
  const after = await afterPassword(ctx, person, '/watch');
  if (after.step !== 'second') throw new Error(after.step);
  return after.token;
};

describe('one-time codes', () => {
  let secret: string;
  test('count once each, a step early or late, and never before the last one', async () => {
    expect(await afterPassword(house.ctx, priya, '/')).toEqual({ step: 'in' });
    const { token, secret: wrong } = await timeCodesToAdd(house.ctx, priya);
    await expect(
      keepTimeCodes(house.ctx, actorOf(priya), { token, code: totp(wrong, house.ctx.now() - 600_000), here: '' }),
    ).rejects.toThrow(/not the code of now/);
    // Nobody sets up another's.
    await expect(
      keepTimeCodes(house.ctx, actorOf(arlo), { token, code: totp(wrong, house.ctx.now()), here: '' }),
    ).rejects.toThrow();
    secret = await withCodes(priya);
    const show = async (ms: number, of = 0) => {
      const ctx = later(ms);
      return showSecondFactor(ctx, await second(priya, ctx), { by: 'code', code: totp(secret, ctx.now() + of) }, FROM);
    };
    // The code it was set up with is used up.
    await expect(show(0)).rejects.toThrow(/used already/);
    expect(await show(60_000)).toMatchObject({ person: { id: priya.id }, way: 'password and code', next: '/watch' });
    await expect(show(60_000)).rejects.toThrow(/used already/);
    expect((await show(120_000, 30_000)).way).toBe('password and code');
    await expect(show(120_000)).rejects.toThrow(/used already/);
    await expect(show(300_000, 90_000)).rejects.toThrow(/not the code/);
    await expect(show(300_000, -90_000)).rejects.toThrow(/not the code/);
  });

  test('many guesses are slowed down, and a step is used up and runs out', async () => {
    const ctx = later(3_600_000);
    const token = await second(priya, ctx);
    const answers = await Promise.allSettled(
      Array.from({ length: 30 }, (_, guess) =>
        showSecondFactor(ctx, token, { by: 'code', code: String(guess).padStart(6, '0') }, FROM),
      ),
    );
    const judged = answers.filter(
      (each) => each.status === 'rejected' && /not the code/.test((each.reason as Error).message),
    );
    expect(judged.length).toBeLessThanOrEqual(8);
    // The right one waits with them; what guesses does not find out that it was right.
    await expect(showSecondFactor(ctx, token, { by: 'code', code: totp(secret, ctx.now()) }, FROM)).rejects.toThrow(
      /Too many/,
    );
    const calm = later(3_600_000 + 16 * 60_000);
    await expect(showSecondFactor(calm, token, { by: 'code', code: totp(secret, calm.now()) }, FROM)).rejects.toThrow(
      /ten minutes/,
    );
    const fresh = await second(priya, calm);
    await showSecondFactor(calm, fresh, { by: 'code', code: totp(secret, calm.now()) }, FROM);
    await expect(
      showSecondFactor(calm, fresh, { by: 'code', code: totp(secret, calm.now() + 30_000) }, FROM),
    ).rejects.toThrow(/ten minutes/);
    expect(STEP_LASTS).toBe(600_000);
  });

  test('a recovery code opens once, and new ones end those before', async () => {
    const ctx = later(2 * 3_600_000);
    const before = await makeRecoveryCodes(ctx, actorOf(priya));
    const codes = await makeRecoveryCodes(ctx, actorOf(priya));
    expect(new Set(codes).size).toBe(10);
    const show = async (code: string) =>
      showSecondFactor(ctx, await second(priya, ctx), { by: 'recovery code', code }, FROM);
    await expect(show(before[0] ?? '')).rejects.toThrow(/not right/);
    expect((await show(codes[0]?.toUpperCase().replace('-', ' ') ?? '')).way).toBe('password and recovery code');
    await expect(show(codes[0] ?? '')).rejects.toThrow(/not right/);
    // Of somebody else they open nothing.
    await withCodes(arlo);
    await expect(
      showSecondFactor(ctx, await second(arlo, ctx), { by: 'recovery code', code: codes[1] ?? '' }, FROM),
    ).rejects.toThrow(/not right/);
    const kept = JSON.stringify([
      await ctx.store.recoveryCodes.all(),
      await ctx.store.audit.all(),
      await ctx.store.users.all(),
    ]);
    for (const secretText of [...codes, secret]) expect(kept).not.toContain(secretText);
  });
});

describe('passkeys', () => {
  let device: SoftAuthenticator;
  const add = async (person: Person, authenticator: SoftAuthenticator) => {
    const { token, options } = await passkeyToAdd(house.ctx, person);
    await keepPasskey(house.ctx, actorOf(person), {
      token,
      answer: authenticator.register(options),
      name: 'Phone',
      here: '',
    });
  };
  const alone = async (authenticator: SoftAuthenticator) => {
    const { token, options } = await passkeyToShow(house.ctx);
    const answer = authenticator.show(options);
    return { token, answer, come: () => signInByPasskey(house.ctx, { token, answer }, FROM) };
  };

  test('one opens by itself, and is the second factor beside a password', async () => {
    device = new SoftAuthenticator(house.origin, 'localhost');
    await add(owner, device);
    expect((await (await alone(device)).come()).name).toBe('Maren');
    const token = await second(owner);
    const { token: asked, options } = await passkeyToShow(house.ctx, owner);
    const shown = { by: 'passkey', token: asked, answer: device.show(options) } as const;
    expect(await showSecondFactor(house.ctx, token, shown, FROM)).toMatchObject({ way: 'password and passkey' });
  });

  test('what was signed once, elsewhere, by another, or without its person, opens nothing', async () => {
    const { ctx } = house;
    const used = await alone(device);
    await used.come();
    await expect(used.come()).rejects.toThrow(/done already/);
    const other = new SoftAuthenticator('https://elsewhere.example', 'localhost');
    await expect(add(owner, other)).rejects.toThrow(/not taken/);
    const stranger = new SoftAuthenticator(house.origin, 'localhost');
    await expect((await alone(stranger)).come()).rejects.toThrow(/does not open anything/);
    device.verifies = false;
    await expect((await alone(device)).come()).rejects.toThrow(/does not open anything/);
    device.verifies = true;
    // A device that counts backwards was copied (§6.1.1).
    device.counter -= 5;
    await expect((await alone(device)).come()).rejects.toThrow(/does not open anything/);
    device.counter += 10;
    // Another person's passkey is nobody's second factor.
    const { token: asked, options } = await passkeyToShow(ctx, priya);
    await expect(
      showSecondFactor(
        later(9_000_000),
        await second(priya, later(9_000_000)),
        { by: 'passkey', token: asked, answer: device.show(options) },
        FROM,
      ),
    ).rejects.toThrow(/not right/);
    expect((await (await alone(device)).come()).name).toBe('Maren');
  });

  test('where browsers keep none it says why', () => {
    const at = (publicUrl: string) => relyingPartyOf({ ...house.ctx.config, publicUrl });
    expect(at('http://127.0.0.1:3000')).toMatchObject({
      problem: expect.stringContaining('names and not for addresses'),
    });
    expect(at('http://windgap.mossgate.example')).toMatchObject({ problem: expect.stringContaining('https') });
    expect(at('https://windgap.mossgate.example/')).toEqual({
      id: 'windgap.mossgate.example',
      origin: 'https://windgap.mossgate.example',
    });
  });
});

test('whoever must have one and has none is out, sets one up to come in, and keeps the last one', async () => {
  const { ctx } = house;
  const hilde = await addPerson(ctx, SYSTEM, {
    name: 'Hilde',
    email: 'hilde@mossgate.example',
    password: PASSWORD,
    role: 'administrator',
  });
  const { token: open } = await beginSession(ctx, hilde, { address: FROM, browser: 'A test', way: 'password' });
  await expect(requireSecondFactor(ctx, actorOf(arlo), ['agent'])).rejects.toMatchObject({ kind: 'forbidden' });
  const bare = await addPerson(ctx, SYSTEM, {
    name: 'Bo',
    email: 'bo@mossgate.example',
    password: PASSWORD,
    role: 'owner',
  });
  await expect(requireSecondFactor(ctx, actorOf(bare), ['owner'])).rejects.toThrow(/of your own first/);
  await requireSecondFactor(ctx, actorOf(owner), ['owner', 'administrator']);
  expect(await sessionOf(ctx, open)).toBeUndefined();

  const after = await afterPassword(ctx, hilde, '/people');
  expect(after.step).toBe('enrol');
  const token = 'token' in after ? after.token : '';
  await expect(finishEnrolling(ctx, token)).rejects.toThrow();
  // Another sign-in with the same password, perhaps not hers, is no way around what she sets up in this one.
  const other = await afterPassword(ctx, hilde, '/');
  const otherToken = 'token' in other ? other.token : '';
  expect((await waitingSignIn(ctx, otherToken))?.step).toBe('enrol');
  await withCodes(hilde);
  expect(await waitingSignIn(ctx, otherToken)).toBeUndefined();
  await expect(finishEnrolling(ctx, otherToken)).rejects.toThrow();
  await noteEnrolled(ctx, token);
  expect(await finishEnrolling(ctx, token)).toMatchObject({ person: { id: hilde.id }, next: '/people' });
  await expect(removeTimeCodes(ctx, actorOf(hilde), '')).rejects.toThrow(/only one/);
  const [passkey] = await ctx.store.passkeys.all({ user_id: owner.id });
  await expect(removePasskey(ctx, actorOf(owner), passkey?.id ?? '', '')).rejects.toThrow(/only one/);
  // A sign-in that waits ends with the password it began with.
  const waits = await second(hilde);
  await changePassword(ctx, actorOf(hilde), { present: PASSWORD, next: 'heron under the bridge', here: '' });
  expect(await waitingSignIn(ctx, waits)).toBeUndefined();
  await clearFactors(ctx, actorOf(owner), hilde.id);
  expect((await afterPassword(ctx, hilde, '/')).step).toBe('enrol');
  await requireSecondFactor(ctx, actorOf(owner), []);
  expect(await afterPassword(ctx, hilde, '/')).toEqual({ step: 'in' });
});

test('a browser that was left open does nothing to secrets, people and keys', async () => {
  const { ctx } = house;
  const { id: appId } = await createApp(ctx, SYSTEM, { name: 'Lockbook', description: '' });
  const { id, token } = await beginSession(ctx, owner, { address: FROM, browser: 'A test', way: 'passkey' });
  const self = async () => {
    const open = await sessionOf(ctx, token);
    return actorOf(owner, { id, confirmedAt: open?.confirmedAt ?? 0 });
  };
  await createApiKey(ctx, await self(), { appId, name: 'Fresh' });
  await ctx.store.write((unit) => unit.sessions.change({ id }, { confirmed_at: ctx.now() - CONFIRMED_FOR - 1000 }));
  const stale = await self();
  for (const work of [
    () => createApiKey(ctx, stale, { appId, name: 'Stale' }),
    () => changeRole(ctx, stale, arlo.id, 'viewer'),
    () => makeRecoveryCodes(ctx, stale),
    () => requireSecondFactor(ctx, stale, ['owner']),
  ])
    await expect(work()).rejects.toMatchObject({ kind: 'unconfirmed' });
  await expect(confirmSession(ctx, stale, { by: 'password', password: 'wrong' })).rejects.toThrow(/not your password/);
  await confirmSession(ctx, stale, { by: 'password', password: PASSWORD });
  await createApiKey(ctx, await self(), { appId, name: 'Shown again' });
  const refused = await ctx.store.audit.all({ action: 'sign-in.refused', subject_id: owner.id });
  expect(refused.map(({ summary }) => summary)).toContain('Refused to confirm a session by password');
});
