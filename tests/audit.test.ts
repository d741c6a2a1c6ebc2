/** The record of who did what cannot be changed quietly: written by several processes at once, followed by a command. */
import { spawnSync } from 'node:child_process';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { createApp } from '../src/operations/apps/apps';
import { SYSTEM } from '../src/operations/context/actor';
import { type AppContext, configFromEnvironment, openAppContext } from '../src/operations/context/appContext';
import { type Installation, ROOT, startInstallation } from './harness/processes';

let house: Installation;
let other: AppContext;

beforeAll(async () => {
  house = await startInstallation({ web: false, engine: false });
  other = await openAppContext(configFromEnvironment(house.env as unknown as NodeJS.ProcessEnv), 'other');
});
afterAll(async () => {
  other.engineWakeUp.close();
  await other.store.close();
  await house.stop();
});

function follow(...more: string[]) {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    ['scripts/audit.mjs', '--data', house.ctx.config.dataFolder, ...more],
    { cwd: ROOT, encoding: 'utf8' },
  );
  return { status, said: stdout + stderr };
}

const change = (sql: string) => house.ctx.store.write((unit) => unit.execute(sql));

test('entries of several processes are one chain, and what is changed by hand is found with its entry', async () => {
  const { ctx } = house;
  expect(follow()).toMatchObject({ status: 0, said: expect.stringContaining('holds over 0 entries') });
  // Two openings of the database, as two processes have them.
  await Promise.all(
    Array.from({ length: 40 }, (_, n) =>
      createApp(n % 2 ? ctx : other, SYSTEM, { name: `App ${n}`, description: 'It’s “one” – of many' }),
    ),
  );
  const whole = follow();
  expect(whole).toMatchObject({ status: 0, said: expect.stringContaining('holds over 40 entries') });
  const head = /head (\d+:[0-9a-f]{64})/.exec(whole.said)?.[1] as string;

  const [entry] = await ctx.store.audit.all({ place: 17 });
  await change(`UPDATE audit_entries SET summary = 'Did nothing' WHERE place = 17`);
  expect(follow()).toMatchObject({ status: 1, said: expect.stringContaining(`broken at entry 17 (${entry?.id})`) });
  await ctx.store.write((unit) => unit.audit.change({ place: 17 }, { summary: entry?.summary ?? '' }));
  expect(follow().status).toBe(0);

  // Somebody is forgotten: their name and what was said of them go, with the salt, and the chain holds.
  await change(`UPDATE audit_entries SET actor_name = '', summary = '', details = NULL, salt = NULL WHERE place = 20`);
  expect(follow('--head', head)).toMatchObject({ status: 0 });

  await change('DELETE FROM audit_entries WHERE place = 40');
  expect(follow().status).toBe(0);
  expect(follow('--head', head)).toMatchObject({ status: 1, said: expect.stringContaining('the end was cut off') });
  await change('DELETE FROM audit_entries WHERE place = 5');
  expect(follow()).toMatchObject({ status: 1, said: expect.stringContaining('broken at entry 6') });
  expect(follow('--data', '/nowhere').status).toBe(2);
});
