/** The record of who did what cannot be changed quietly: written by several processes at once, followed by a command. */
import { spawnSync } from 'node:child_process';
import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { createApp } from '../src/operations/apps/apps';
import { getHook } from '../src/operations/apps/hooks/hookPages';
import { createHook } from '../src/operations/apps/hooks/hooks';
import { auditChoices, exportAudit, listAudit } from '../src/operations/audit/auditLog';
import { noteRefusal } from '../src/operations/audit/noted';
import { type Actor, SYSTEM } from '../src/operations/context/actor';
import { type AppContext, configFromEnvironment, openAppContext } from '../src/operations/context/appContext';
import { recordAudit } from '../src/operations/context/audit';
import { exportMessages } from '../src/operations/log/messageLog';
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

test('refused access, exports and addresses that were looked at are on record, once in a while each', async () => {
  const { ctx } = house;
  const ada: Actor = { kind: 'user', id: 'usr_ada', name: 'Ada', role: 'administrator' };
  const vic: Actor = { kind: 'user', id: 'usr_vic', name: 'Vic', role: 'viewer' };
  for (let again = 0; again < 3; again++) await noteRefusal(ctx, vic, '/people');
  await noteRefusal(ctx, vic, '/mail');
  for await (const _ of exportMessages(ctx, ada, { format: 'csv' }));
  const { id: appId } = await createApp(ctx, SYSTEM, { name: 'Gauges', description: '' });
  const { id } = await createHook(ctx, SYSTEM, { appId, name: 'High water' });
  for (let again = 0; again < 3; again++) await getHook(ctx, ada, id);
  // Whoever sees it masked has not seen it.
  await getHook(ctx, vic, id);
  const actions = async (who: string) =>
    (await listAudit(ctx, ada, { who })).entries.map(({ action, subjectId }) => `${action} ${subjectId}`);
  expect(await actions('usr_vic')).toEqual(['access.refused /mail', 'access.refused /people']);
  expect(await actions('usr_ada')).toEqual([`secret.shown ${id}`, 'messages.exported messages']);
});

test('the record is found in, and taken out whole, however long it is', async () => {
  const { ctx } = house;
  await ctx.store.write(async (unit) => {
    for (let n = 0; n < 450; n++)
      await recordAudit(unit, SYSTEM, ctx.now() + n, {
        action: 'test.many',
        subject: `s${n % 3}`,
        summary: `=Entry ${n}`,
      });
  });
  const all: string[] = [];
  let before: string | undefined;
  do {
    const page = await listAudit(ctx, SYSTEM, { area: 'test', before });
    all.push(...page.entries.map(({ summary }) => summary));
    before = page.next;
  } while (before);
  expect(all).toEqual(Array.from({ length: 450 }, (_, n) => `=Entry ${449 - n}`));
  expect((await listAudit(ctx, SYSTEM, { search: 'entry 44', area: 'test' })).entries).toHaveLength(11);
  expect((await listAudit(ctx, SYSTEM, { area: 'test', subject: 's1', limit: 1000 })).entries).toHaveLength(150);
  expect((await auditChoices(ctx, SYSTEM)).areas).toEqual(expect.arrayContaining(['access', 'app', 'test']));
  let file = '';
  for await (const piece of exportAudit(ctx, SYSTEM, { format: 'csv', area: 'test' })) file += piece;
  const rows = parse(file, { bom: true }) as string[][];
  expect(rows).toHaveLength(451);
  // Nothing of it is a formula for whoever opens it in a sheet.
  expect(rows[1]?.[6]).toMatch(/^'=Entry/);
  expect((await listAudit(ctx, SYSTEM, { area: 'audit' })).entries).toHaveLength(1);
  const viewer: Actor = { kind: 'user', id: 'usr_v', name: 'V', role: 'agent' };
  await expect(listAudit(ctx, viewer)).rejects.toMatchObject({ kind: 'forbidden' });
});
