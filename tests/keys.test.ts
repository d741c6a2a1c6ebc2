/** Keys that are replaced while everything runs, bound to addresses, and for tests alone. */
import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { bindKey, createApiKey, replaceApiKey } from '../src/operations/apps/apiKeys';
import { APP_SCOPES, SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, type Mossgate, postSigned, textIn } from './harness/mossgate';
import { end, type Installation, ROOT, startInstallation } from './harness/processes';
import { until } from './harness/until';

const run = promisify(execFile);
let house: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  house = await startInstallation({ env: { WINDGAP_TRUSTED_PROXIES: '127.0.0.1' } });
  mossgate = await connectMossgate(house);
});
afterAll(() => house.stop());

const send = async (key: string, to: string, from = '203.0.113.9', text = 'Hello') => {
  const answer = await fetch(`${house.origin}/api/v1/messages`, {
    method: 'POST',
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json', 'x-forwarded-for': from },
    body: JSON.stringify({ to, from: mossgate.channel.id, text }),
  });
  return {
    status: answer.status,
    body: (await answer.json()) as { type?: string; errors?: { field: string; problem: string }[] },
  };
};

describe('the sealing key', () => {
  const keyFile = () => join(house.ctx.config.dataFolder, 'sealing.key');
  const command = (...more: string[]) =>
    run('node', ['scripts/rotateKey.mjs', '--data', house.ctx.config.dataFolder, ...more], {
      cwd: ROOT,
      env: { ...process.env, ...house.env },
    }).then(
      ({ stdout }) => ({ code: 0, stdout }),
      (error: { code: number; stdout: string }) => ({ code: error.code, stdout: error.stdout }),
    );

  /** Every text of the database that was sealed with something else than the present key. */
  async function sealedWithOthers(): Promise<string[]> {
    const { store, sealer } = house.ctx;
    const columns = await store.select<{ name: string; column: string }>(
      `SELECT m.name, p.name AS "column" FROM sqlite_master m JOIN pragma_table_info(m.name) p
        WHERE m.type = 'table' AND m.name NOT LIKE 'sqlite%' AND m.name NOT LIKE 'message_words%'`,
    );
    const found: string[] = [];
    for (const { name, column } of columns) {
      const rows = await store.select<{ text: unknown }>(
        `SELECT "${column}" AS text FROM "${name}" WHERE "${column}" LIKE '%v1.%' OR "${column}" LIKE '%v2.%'`,
      );
      for (const { text } of rows)
        for (const sealed of String(text).match(/v1\.[\w-]{16}\.[\w-]{20,}|v2\.[0-9a-f]{8}\.[\w-]+\.[\w-]+/g) ?? [])
          if (!sealer.isPresent(sealed)) found.push(`${name}.${column}`);
    }
    return found;
  }

  async function works(word: string) {
    const body = textIn(`bwt_${word}`, INES, mossgate.channel.address, `In ${word}`);
    expect(await postSigned(mossgate.inboundUrl, mossgate.secret, body), word).toBe(202);
    await until('it is in', () => house.ctx.store.messages.one({ text: `In ${word}` }));
    expect((await send(mossgate.apiKey, INES, undefined, `Out ${word}`)).status, word).toBe(202);
    await until('it was delivered', () => house.ctx.store.messages.one({ text: `Out ${word}`, state: 'delivered' }));
  }

  test('is replaced while web and engine run, and what it sealed with it', async () => {
    await works('before');
    const [first] = readFileSync(keyFile(), 'utf8').trim().split('\n');
    const before = await house.ctx.store.accounts.one({ id: mossgate.accountId });
    const { code, stdout } = await command();
    expect([code, stdout]).toEqual([
      0,
      expect.stringMatching(/the new key is [0-9a-f]{8}[\s\S]*[1-9]\d* secrets were sealed again/),
    ]);
    const keys = readFileSync(keyFile(), 'utf8').trim().split('\n');
    expect([keys.length, keys[1]]).toEqual([2, first]);
    expect((await house.ctx.store.accounts.one({ id: mossgate.accountId }))?.sealed_credentials).not.toBe(
      before?.sealed_credentials,
    );
    expect(await sealedWithOthers()).toEqual([]);
    await works('with two keys');

    expect((await command('--retire')).stdout).toContain('one former key is gone');
    expect(readFileSync(keyFile(), 'utf8')).not.toContain(first);
    await works('with the new one alone');
    await Promise.all([end(house.web), end(house.engine)]);
    await Promise.all([house.startWeb(), house.startEngine()]);
    await works('after a start');
    const said = await house.ctx.store.audit.all({ subject_id: 'sealing-key' });
    expect(said.map(({ action }) => action)).toEqual(
      expect.arrayContaining(['sealing-key.replaced', 'sealing-key.used', 'sealing-key.retired']),
    );
  });

  test('is not taken away while anything needs it', async () => {
    const stuck = house.ctx.sealer.seal({ url: 'https://calendar.mossgate.example' });
    await house.ctx.store.write((unit) => unit.settings.put({ name: 'an-old-one', value: { sealed: stuck } }));
    await command();
    await house.ctx.store.write((unit) => unit.settings.put({ name: 'an-old-one', value: { sealed: stuck } }));
    const refused = await command('--retire');
    expect([refused.code, refused.stdout]).toEqual([1, expect.stringMatching(/1 rows hold what a former key sealed/)]);
    const kept = readFileSync(keyFile(), 'utf8').trim().split('\n');
    expect(kept).toHaveLength(2);
    await house.ctx.store.write((unit) =>
      unit.settings.put({
        name: 'an-old-one',
        value: { sealed: 'v2.00000000.AAAAAAAAAAAAAAAA.BBBBBBBBBBBBBBBBBBBBBBBB' },
      }),
    );
    const lost = await command();
    expect([lost.code, lost.stdout]).toEqual([1, expect.stringMatching(/settings\.value \d+ opens with no key/)]);
    await house.ctx.store.write((unit) => unit.settings.remove({ name: 'an-old-one' }));
  });

  test('is none of the key of sessions', () => {
    const [sealing, session] = ['sealing.key', 'session.key'].map((name) =>
      readFileSync(join(house.ctx.config.dataFolder, name), 'utf8').trim(),
    );
    expect(session).toMatch(/^[0-9a-f]{64}$/);
    expect(sealing).not.toContain(session);
  });
});

describe('an API key', () => {
  test('works from where it may be used, and says so elsewhere', async () => {
    const { ctx } = house;
    const { id, key } = await createApiKey(ctx, SYSTEM, {
      appId: mossgate.appId,
      name: 'Office',
      addresses: '203.0.113.0/24 2001:db8::/32',
    });
    expect((await send(key, INES, '203.0.113.77')).status).toBe(202);
    expect((await send(key, INES, '2001:db8:1::5')).status).toBe(202);
    const refused = await send(key, INES, '198.51.100.9');
    expect([refused.status, refused.body.type]).toEqual([401, expect.stringContaining('key-elsewhere')]);
    const noted = await until('it is on record', () => ctx.store.audit.one({ action: 'key.refused', subject_id: id }));
    expect(noted.summary).toContain('198.51.100.9');
    // Whoever replaces it does not open it.
    const { key: next, id: nextId } = await replaceApiKey(ctx, SYSTEM, id);
    expect((await send(next, INES, '198.51.100.9')).status).toBe(401);
    await bindKey(ctx, SYSTEM, nextId, '');
    await until('it is heard of', async () => (await send(next, INES, '198.51.100.9')).status === 202 || undefined);
    await expect(bindKey(ctx, SYSTEM, nextId, '203.0.113.0/40')).rejects.toThrow(/no address and no network/);
  });

  test('for tests is checked as any other and reaches test phones alone', async () => {
    const { ctx } = house;
    const { key } = await createApiKey(ctx, SYSTEM, {
      appId: mossgate.appId,
      name: 'Staging',
      forTests: true,
      scopes: [...APP_SCOPES],
    });
    expect(key).toMatch(/^wgt_/);
    const stranger = '+447700900555';
    // What is wrong with an order is said first, as with a live key.
    expect((await send(key, stranger, undefined, '')).body.errors?.[0]?.field).toBe('text');
    const refused = await send(key, stranger);
    expect([refused.status, refused.body.errors?.[0]]).toMatchObject([
      422,
      { field: 'to', problem: expect.stringMatching(/test key/) },
    ]);
    expect(await ctx.store.messages.count({ recipient: stranger })).toBe(0);
    expect((await send(mossgate.apiKey, stranger)).status).toBe(202);
    expect((await send(key, INES, undefined, 'To a handset')).status).toBe(202);
    await until('it was delivered', () => ctx.store.messages.one({ text: 'To a handset', state: 'delivered' }));
    // A phone that was verified at the provider counts, too.
    await ctx.store.write(async (unit) => {
      const account = await unit.accounts.one({ id: mossgate.accountId });
      await unit.accounts.change(
        { id: mossgate.accountId },
        { facts: { ...account?.facts, verifiedPhones: [stranger] } as never },
      );
    });
    expect((await send(key, stranger, undefined, 'Verified')).status).toBe(202);
  });
});
