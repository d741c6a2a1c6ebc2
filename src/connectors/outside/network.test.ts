/** A name that leads to a public address when it is asked about and to a private one when it is connected to. */
import type { LookupAddress } from 'node:dns';
import { afterEach, expect, test, vi } from 'vitest';

const answers: LookupAddress[][] = [];
vi.mock('node:dns', () => ({
  lookup: (_: string, __: object, callback: (error: null, addresses: LookupAddress[]) => void) =>
    callback(null, answers.shift() ?? []),
}));
const { networkOf } = await import('./network');
const guarded = networkOf({ allowPrivate: false });
const ip = (address: string): LookupAddress => ({ address, family: address.includes(':') ? 6 : 4 });
const PUBLIC = ip('8.8.4.4');
const PRIVATE = [ip('127.0.0.1'), ip('10.1.2.3'), ip('169.254.169.254'), ip('::1'), ip('::a9fe:a9fe')];
const lookedUp = (options: object) =>
  new Promise<unknown>((resolve) =>
    guarded.lookup('rebound.mossgate.example', options, (error, address) => resolve(error?.code ?? address)),
  );
afterEach(() => answers.splice(0));

test('what is connected to is what was judged: the second answer is judged anew', async () => {
  answers.push([PUBLIC], [ip('127.0.0.1')]);
  expect(await guarded.addressOf('rebound.mossgate.example')).toBe(PUBLIC.address);
  await expect(guarded.addressOf('rebound.mossgate.example')).rejects.toMatchObject({ code: 'EPRIVATE' });
});

test('of several addresses only the public ones come back, one or all of them', async () => {
  answers.push([...PRIVATE, PUBLIC], [...PRIVATE, PUBLIC], PRIVATE);
  expect(await lookedUp({})).toBe(PUBLIC.address);
  expect(await lookedUp({ all: true })).toEqual([PUBLIC]);
  expect(await lookedUp({ all: true })).toBe('EPRIVATE');
});

test('a host that is an address is judged as it is written', async () => {
  for (const { address } of PRIVATE)
    await expect(guarded.addressOf(address)).rejects.toMatchObject({ code: 'EPRIVATE' });
  expect(await guarded.addressOf(PUBLIC.address)).toBe(PUBLIC.address);
  expect(await networkOf({ allowPrivate: true }).addressOf('127.0.0.1')).toBe('127.0.0.1');
});
