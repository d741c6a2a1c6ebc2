/** Signing in through the organisation's identity provider, against the simulated one over real connections. */
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { createOutboundHttp } from '../src/connectors/http/outbound';
import { networkOf } from '../src/connectors/outside/network';
import { SYSTEM } from '../src/operations/context/actor';
import { afterPassword } from '../src/operations/people/factors/secondFactor';
import { createFirstOwner } from '../src/operations/people/firstOwner';
import { addPerson, switchPersonOff } from '../src/operations/people/people';
import { readRules, setProvider } from '../src/operations/people/provider/settings';
import { beginProviderSignIn, endProviderSignIn } from '../src/operations/people/provider/signIn';
import { actorOf, beginSession, sessionOf } from '../src/operations/people/sessions';
import { type Installation, startInstallation } from './harness/processes';

let house: Installation;
let issuer: string;
const RULES = 'it-messaging, administrator\nharbour-desk, agent, Harbour desk';

beforeAll(async () => {
  house = await startInstallation({ engine: false });
  issuer = `http://127.0.0.1:${house.world.ports.bollard}`;
  await createFirstOwner(house.ctx, {
    name: 'Maren',
    email: 'maren@mossgate.example',
    password: 'towpath at low water',
  });
  await keep();
});
afterAll(() => house.stop());

const NO_FAULTS = {
  down: false,
  nonce: false,
  audience: false,
  issuer: false,
  expired: false,
  oldKey: false,
  unsigned: false,
};
beforeEach(() => house.bench.change('bollard/faults', NO_FAULTS));

function keep(changes: Partial<Parameters<typeof setProvider>[2]> = {}) {
  const { clientId, clientSecret } = house.world.bollard;
  return setProvider(house.ctx, SYSTEM, {
    name: 'Mossgate',
    issuer,
    clientId,
    clientSecret,
    groupsClaim: 'groups',
    rules: readRules(RULES),
    only: false,
    ...changes,
  });
}

const person = (email: string) => house.world.bollard.people.find((each) => each.email === email);

/** Goes to the provider as a browser, signs in there, and returns the address it is sent back to. */
async function atProvider(url: string, email: string): Promise<URL> {
  const answer = await fetch(url.replace('/sign-in?', '/sign-in?'), {
    method: 'POST',
    redirect: 'manual',
    body: new URLSearchParams({ email, password: person(email)?.password ?? '' }),
  });
  expect(answer.status).toBe(303);
  return new URL(answer.headers.get('location') ?? '');
}

async function signIn(email: string, change: (back: URL) => URL = (back) => back) {
  const { url, token } = await beginProviderSignIn(house.ctx, { next: '/watch', anew: false });
  return endProviderSignIn(house.ctx, token, change(await atProvider(url, email)));
}

test('somebody of two groups comes in with the higher role and the team, and is the same the next time', async () => {
  const first = await signIn('callum@mossgate.example');
  expect(first).toMatchObject({ person: { name: 'Callum Reeve', role: 'administrator' }, next: '/watch', anew: false });
  expect(await house.ctx.store.teamMembers.all({ user_id: first.person.id })).toEqual([
    { team: 'Harbour desk', user_id: first.person.id },
  ]);
  expect((await signIn('callum@mossgate.example')).person.id).toBe(first.person.id);
  // What groups say counts with each sign-in, and what was open with the role before is not.
  const { token } = await beginSession(house.ctx, first.person, { address: '', browser: '', way: 'provider' });
  await house.bench.change('bollard/people/b-102', { groups: ['harbour-desk'] });
  expect((await signIn('callum@mossgate.example')).person.role).toBe('agent');
  expect(await sessionOf(house.ctx, token)).toBeUndefined();
  const again = await beginSession(house.ctx, first.person, { address: '', browser: '', way: 'provider' });
  await house.bench.change('bollard/people/b-102', { groups: [] });
  await expect(signIn('callum@mossgate.example')).rejects.toMatchObject({ kind: 'forbidden' });
  expect(await sessionOf(house.ctx, again.token)).toBeUndefined();
  await house.bench.change('bollard/people/b-102', { groups: ['it-messaging'] });
});

test('whoever is switched off here stays out, and an address that nobody verified is nobody’s', async () => {
  const { ctx } = house;
  const { person: astrid } = await signIn('astrid@mossgate.example');
  const maren = await ctx.store.users.one({ email: 'maren@mossgate.example' });
  await switchPersonOff(ctx, actorOf({ id: maren?.id ?? '', name: 'Maren', role: 'owner' }), astrid.id);
  await expect(signIn('astrid@mossgate.example')).rejects.toThrow(/switched off/);
  await house.bench.change('bollard/people/b-103', { groups: ['it-messaging'], email: 'maren@mossgate.example' });
  await expect(signIn2('b-103')).rejects.toThrow(/does not say that it verified/);
  expect((await ctx.store.users.one({ id: maren?.id ?? '' }))?.provider_subject).toBeNull();
  await house.bench.change('bollard/people/b-103', { verified: true });
  // The only owner stays one, whatever the groups say.
  expect((await signIn2('b-103')).person).toMatchObject({ id: maren?.id, role: 'owner' });
});

/** As `signIn`, for somebody whose address was changed at the provider. */
async function signIn2(id: string) {
  const at = house.world.bollard.people.find((each) => each.id === id);
  const { url, token } = await beginProviderSignIn(house.ctx, { next: '/', anew: false });
  const answer = await fetch(url, {
    method: 'POST',
    redirect: 'manual',
    body: new URLSearchParams({ email: 'maren@mossgate.example', password: at?.password ?? '' }),
  });
  return endProviderSignIn(house.ctx, token, new URL(answer.headers.get('location') ?? ''));
}

test.each([
  ['nonce', /nonce/i],
  ['audience', /aud/],
  ['issuer', /iss/],
  ['expired', /exp|timestamp/i],
  ['oldKey', /./],
  ['unsigned', /./],
] as const)('a token with a wrong %s opens nothing, and is on record', async (fault, said) => {
  await house.bench.change('bollard/faults', { [fault]: true });
  const people = await house.ctx.store.users.count();
  const problem = await signIn('callum@mossgate.example').then(
    () => 'came in',
    (error: Error) => error.message,
  );
  expect(problem).toMatch(/not to be believed/);
  expect(problem).toMatch(said);
  expect(await house.ctx.store.users.count()).toBe(people);
  const [last] = await house.ctx.store.audit.all(
    { action: 'sign-in.refused' },
    { order: [['place', 'DESC']], limit: 1 },
  );
  expect(last?.summary).toMatch(/identity provider/);
});

test('after the keys were changed people come in by the new one', async () => {
  await signIn('callum@mossgate.example');
  await fetch(`${house.env.WINDGAP_BENCH_URL}/bollard/rotate`, { method: 'POST' });
  expect((await signIn('callum@mossgate.example')).person.name).toBe('Callum Reeve');
});

test('a journey that was begun elsewhere, was changed on the way, or is over, leads nowhere', async () => {
  const { ctx } = house;
  await expect(signIn('callum@mossgate.example', (back) => changed(back, 'state', 'other'))).rejects.toThrow(/state/);
  await expect(signIn('callum@mossgate.example', (back) => changed(back, 'code', 'other'))).rejects.toThrow(
    /invalid_grant/,
  );
  await expect(
    signIn('callum@mossgate.example', (back) => changed(changed(back, 'error', 'access_denied'), 'code', '')),
  ).rejects.toThrow(/access_denied/);
  const { url, token } = await beginProviderSignIn(ctx, { next: '/', anew: false });
  const other = await beginProviderSignIn(ctx, { next: '/', anew: false });
  const back = await atProvider(url, 'callum@mossgate.example');
  // A code that was got in one browser does not sign in another (RFC 9700 §2.1.1).
  await expect(endProviderSignIn(ctx, other.token, back)).rejects.toThrow(/state/);
  await expect(endProviderSignIn(ctx, 'nothing-of-the-kind-nothing', back)).rejects.toThrow(/Begin again/);
  await endProviderSignIn(ctx, token, back);
  await expect(endProviderSignIn(ctx, token, back)).rejects.toThrow(/Begin again/);
  // The provider itself refuses another verifier.
  const third = await beginProviderSignIn(ctx, { next: '/', anew: false });
  const code = (await atProvider(third.url, 'callum@mossgate.example')).searchParams.get('code') ?? '';
  const { clientId, clientSecret, returns } = house.world.bollard;
  const answer = await fetch(`${issuer}/tokens`, {
    method: 'POST',
    body: new URLSearchParams({
      grant_type: 'authorization_code',
      code,
      redirect_uri: returns[0] ?? '',
      client_id: clientId,
      client_secret: clientSecret,
      code_verifier: 'x'.repeat(43),
    }),
  });
  expect([answer.status, await answer.json()]).toMatchObject([400, { error: 'invalid_grant' }]);
});

function changed(url: URL, name: string, value: string): URL {
  const other = new URL(url);
  if (value) other.searchParams.set(name, value);
  else other.searchParams.delete(name);
  return other;
}

test('a provider is kept only when it answered as one, and passwords go only once it was proven', async () => {
  const { ctx } = house;
  await expect(keep({ issuer: `${issuer}/nowhere` })).rejects.toThrow(
    /no provider that can be used|not to be believed/,
  );
  await expect(keep({ issuer: 'http://127.0.0.1:9' })).rejects.toThrow(/cannot be reached/);
  await expect(keep({ rules: [] })).rejects.toThrow(/No group/);
  expect(() => readRules('it-messaging, king')).toThrow(/not a group and a role/);
  // A secret that is kept goes to no other address.
  await expect(keep({ clientSecret: '', issuer: 'https://elsewhere.example' })).rejects.toThrow(
    /client secret is empty/,
  );
  const guarded = {
    ...ctx,
    config: { ...ctx.config, allowPrivateAddresses: false },
    http: createOutboundHttp(networkOf({ allowPrivate: false })),
  };
  await expect(
    setProvider(guarded, SYSTEM, {
      name: '',
      issuer: issuer.replace('http:', 'https:'),
      clientId: 'c',
      clientSecret: 's',
      groupsClaim: '',
      rules: readRules(RULES),
      only: false,
    }),
  ).rejects.toThrow(/private address/);
  await keep({ name: 'Mossgate', clientSecret: 'wrong' });
  await expect(signIn('callum@mossgate.example')).rejects.toThrow(/invalid_client/);
  await expect(keep({ only: true })).rejects.toThrow(/Nobody has come in/);
  await keep();
  await signIn('callum@mossgate.example');
  await keep({ only: true, clientSecret: '' });
  const hilde = await addPerson(ctx, SYSTEM, {
    name: 'Hilde',
    email: 'hilde@mossgate.example',
    password: 'heron under the bridge',
    role: 'agent',
  });
  await expect(afterPassword(ctx, hilde, '/')).rejects.toThrow(/passwords are for owners/);
  const owner = await ctx.store.users.one({ role: 'owner' });
  expect(await afterPassword(ctx, { ...hilde, id: owner?.id ?? '', role: 'owner' }, '/')).toEqual({ step: 'in' });
  await keep({ only: false });
});

test('in the browser: there, back, in, and signed out there, too', async () => {
  const { origin } = house;
  const jar = new Map<string, string>();
  const go = async (url: string, init: RequestInit = {}) => {
    const own = url.startsWith(origin);
    const answer = await fetch(url, {
      redirect: 'manual',
      ...init,
      headers: { ...(own ? { cookie: [...jar].map(([name, value]) => `${name}=${value}`).join('; ') } : {}) },
    });
    for (const each of own ? answer.headers.getSetCookie() : []) {
      const [pair = ''] = each.split(';');
      jar.set(pair.slice(0, pair.indexOf('=')), pair.slice(pair.indexOf('=') + 1));
    }
    return answer.headers.get('location') ?? String(answer.status);
  };
  const there = await go(`${origin}/sign-in/provider?next=/you`);
  expect(there).toMatch(new RegExp(`^${issuer}/sign-in\\?.*code_challenge_method=S256`));
  const back = await atProvider(there, 'callum@mossgate.example');
  expect(await go(back.href)).toBe(`${origin}/you`);
  expect(await go(`${origin}/you`)).toBe('200');
  // The same answer again is used up.
  expect(await go(back.href)).toBe(`${origin}/sign-in`);
  const bad = await go(`${origin}/sign-in/provider/back?code=x&state=y`);
  expect(bad).toBe(`${origin}/sign-in`);
});
