/** Internal data is removed when it is old enough, as somebody set it, a little at a time; the rest stays. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { AppContext } from '../src/operations/context';
import { SYSTEM } from '../src/operations/context/actor';
import { configFromEnvironment, openAppContext } from '../src/operations/context/appContext';
import { prune } from '../src/operations/retention/prune';
import { changeRetention, viewRetention } from '../src/operations/retention/retention';
import { pastId } from '../src/store/ids';
import { ROOT } from './harness/processes';

const DAY = 86_400_000;
let ctx: AppContext;
let folder: string;

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'windgap-retention-'));
  ctx = await openAppContext(
    configFromEnvironment({ WINDGAP_HOME: ROOT, WINDGAP_DATA: folder, WINDGAP_LOG: 'fatal' } as never),
    'test',
  );
});
afterEach(async () => {
  await ctx.store.close();
  rmSync(folder, { recursive: true, force: true });
});

const exchange = (at: number) => ({
  id: pastId('exc', at),
  purpose: 'send' as const,
  subject_id: 'msg_1',
  at,
  elapsed_ms: 1,
  request: { method: 'POST', url: 'http://x', headers: {}, body: '' },
  response: null,
  cause: null,
});

const request = (at: number, state: 'done' | 'stored' | 'unreadable') => ({
  id: pastId('inb', at),
  channel_id: 'chn_1',
  account_id: null,
  received_at: at,
  method: 'POST',
  path: '/in/x',
  query: '',
  headers: {},
  body: Buffer.from('{}'),
  remote_address: null,
  signature: 'valid' as const,
  answer_status: 202,
  state,
  cause: null,
  outcome: null,
  processed_at: null,
});

test('old evidence goes, more than one statement takes; what is young, waits or is set aside stays', async () => {
  const now = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(Array.from({ length: 2500 }, (_, n) => exchange(now - 31 * DAY - n)));
    await unit.exchanges.insert([exchange(now - 29 * DAY)]);
    for (const state of ['done', 'stored', 'unreadable'] as const)
      await unit.inbound.insert([request(now - 100 * DAY, state), request(now - DAY, state)]);
  });
  expect(await prune(ctx)).toBe(2501);
  expect(await ctx.store.exchanges.count()).toBe(1);
  expect((await ctx.store.inbound.all()).map(({ state }) => state).sort()).toEqual([
    'done',
    'stored',
    'stored',
    'unreadable',
    'unreadable',
  ]);
  expect(await prune(ctx)).toBe(0);
});

test('days are a setting of whoever administers, with a least that nothing may go below, and in the audit', async () => {
  await ctx.store.write((unit) => unit.exchanges.insert([exchange(ctx.now() - 5 * DAY)]));
  await expect(changeRetention(ctx, SYSTEM, { 'requests-made': 1 })).rejects.toThrow(/Requests to providers/);
  await expect(changeRetention(ctx, SYSTEM, { 'requests-made': 4.5 })).rejects.toThrow();
  await expect(
    changeRetention(ctx, { ...SYSTEM, kind: 'user', role: 'agent' } as never, { 'requests-made': 4 }),
  ).rejects.toMatchObject({ kind: 'forbidden' });
  await changeRetention(ctx, SYSTEM, { 'requests-made': 4 });
  expect((await viewRetention(ctx, SYSTEM)).find(({ name }) => name === 'requests-made')).toMatchObject({
    days: 4,
    usual: 30,
  });
  expect(await prune(ctx)).toBe(1);
  const [entry] = await ctx.store.audit.all({ action: 'retention.changed' });
  expect(entry?.summary).toBe('Requests to providers and apps: 30 → 4 days');
});

test('an import goes with its lines', async () => {
  const at = ctx.now() - 91 * DAY;
  await ctx.store.write(async (unit) => {
    await unit.imports.insert([
      {
        id: 'imp_1',
        name: 'old.csv',
        file: 'imp_1.csv',
        plan: { columns: {}, country: null, tags: [], consent: null },
        state: 'done',
        lines: 2,
        done: 2,
        created: 0,
        merged: 0,
        unchanged: 2,
        refused: 0,
        created_at: at,
        by: 'x',
        ended_at: at,
        problem: null,
      },
    ]);
    await unit.importLines.insert(
      [1, 2].map((line) => ({
        import_id: 'imp_1',
        line,
        outcome: 'unchanged' as const,
        reason: null,
        contact_id: null,
        before: null,
      })),
    );
  });
  await prune(ctx);
  expect([await ctx.store.imports.count(), await ctx.store.importLines.count()]).toEqual([0, 0]);
});
