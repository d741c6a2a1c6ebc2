import { existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sqlite3 from 'sqlite3';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { type MessageEvent, standingAfter } from '../src/core/delivery/lifecycle';
import { noteChanges } from '../src/operations/context/changes';
import { createBatcher } from '../src/store/batcher';
import { newId, pastId } from '../src/store/ids';
import type { ExchangeRow } from '../src/store/schema/rows';
import { DEFINITIONS } from '../src/store/schema/tables';
import { addKey, createSealer, dropFormerKeys, keyRingOf } from '../src/store/sealing';
import { openStore, type Store } from '../src/store/store';

let folder: string;
const stores: Store[] = [];
const open = async (options = {}) => {
  const store = await openStore(join(folder, 'w.db'), options);
  stores.push(store);
  return store;
};

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'windgap-store-'));
});
afterEach(async () => {
  await Promise.all(stores.splice(0).map((store) => store.close()));
  rmSync(folder, { recursive: true, force: true });
});

const exchange = (id: string): ExchangeRow => ({
  id,
  purpose: 'send',
  subject_id: 'msg_1',
  at: 1,
  elapsed_ms: 2,
  request: { method: 'POST', url: 'http://x', headers: { a: "it's" }, body: 'ß€🛶\u0000"' },
  response: null,
  cause: null,
});

describe('a unit of work', () => {
  test('commits whole and gives back what was put in, JSON and odd characters included', async () => {
    const store = await open();
    await store.write((unit) => unit.exchanges.insert([exchange('exc_1'), exchange('exc_2')]));
    expect(await store.exchanges.all()).toEqual([exchange('exc_1'), exchange('exc_2')]);
  });

  test('leaves nothing behind when it fails, and the next one goes on', async () => {
    const store = await open();
    const failing = store.write(async (unit) => {
      await unit.exchanges.insert([exchange('exc_1')]);
      throw new Error('half way');
    });
    await expect(failing).rejects.toThrow('half way');
    expect(await store.exchanges.count()).toBe(0);
    await store.write((unit) => unit.exchanges.insert([exchange('exc_1')]));
    await expect(store.append('exchanges', [exchange('exc_1')])).rejects.toThrow(/UNIQUE/);
    expect(await store.exchanges.count()).toBe(1);
  });

  test('two openings of one file take turns without an error, on a fresh file too', async () => {
    const [one, other] = await Promise.all([open({ pauseBetweenWrites: 1 }), open()]);
    const note = (store: Store, n: number) =>
      store.write((unit) => unit.changes.insert([{ at: n, topic: 'x', subject_id: 'y' }]));
    await Promise.all(Array.from({ length: 60 }, (_, n) => note(n % 2 ? one : other, n)));
    expect(await one.changes.count()).toBe(60);
  });

  test('thousands of rows are more than one statement takes and still one unit', async () => {
    const store = await open();
    await store.write((unit) =>
      unit.changes.insert(Array.from({ length: 25_000 }, (_, at) => ({ at, topic: 'x', subject_id: 'y' }))),
    );
    expect(await store.changes.count()).toBe(25_000);
  });
});

describe('the tables as they are described', () => {
  // SQLite keeps a document as text, whatever its column is called.
  const TYPES = { TEXT: 'text', JSON: 'text', INTEGER: 'whole', REAL: 'real', BLOB: 'bytes' } as Record<string, string>;
  /** Filled by a trigger for the log alone; no row of the product carries it. */
  const BESIDE = ['messages: made country text or null'];

  test('are the tables the migrations make: the same columns, kinds, keys and absences', async () => {
    const store = await open();
    const differing: string[] = [];
    for (const { table, key, columns } of Object.values(DEFINITIONS)) {
      const made = await store.select<{ name: string; type: string; notnull: number; pk: number }>(
        `SELECT name, type, "notnull", pk FROM pragma_table_info(:table)`,
        { table },
      );
      const described = Object.entries(columns).map(
        ([name, { kind, nullable }]) =>
          `${name} ${kind === 'json' ? 'text' : kind}${key.includes(name) ? ' key' : nullable ? ' or null' : ''}`,
      );
      const found = made.map(
        ({ name, type, notnull, pk }) => `${name} ${TYPES[type]}${pk > 0 ? ' key' : notnull ? '' : ' or null'}`,
      );
      differing.push(
        ...described.filter((each) => !found.includes(each)).map((each) => `${table}: described ${each}`),
        ...found.filter((each) => !described.includes(each)).map((each) => `${table}: made ${each}`),
      );
    }
    expect(differing).toEqual(BESIDE);
  });
});

function latch() {
  let open: () => void = () => undefined;
  const opened = new Promise<void>((resolve) => {
    open = resolve;
  });
  return { open: () => open(), opened };
}

describe('the batcher', () => {
  test('what arrives during a flush shares the next one, and each gets its own answer', async () => {
    const sizes: number[] = [];
    const begun = latch();
    const flushed = latch();
    const double = createBatcher(async (items: number[]) => {
      sizes.push(items.length);
      begun.open();
      await flushed.opened;
      return items.map((item) => item * 2);
    });
    const first = double(1);
    await begun.opened;
    const rest = Promise.all([2, 3, 4].map(double));
    flushed.open();
    expect([await first, ...(await rest)]).toEqual([2, 4, 6, 8]);
    expect(sizes).toEqual([1, 3]);
  });

  test('a failed flush fails those in it and nobody after', async () => {
    let failing = true;
    const run = createBatcher(async (items: number[]) => {
      if (failing) throw new Error('disk full');
      return items;
    });
    await expect(run(1)).rejects.toThrow('disk full');
    failing = false;
    expect(await run(2)).toBe(2);
  });
});

describe('changes in bulk and plain SQL', () => {
  test('each row gets its own values, others keep theirs, and more than one statement takes is still right', async () => {
    const store = await open();
    const ids = Array.from({ length: 12_000 }, (_, index) => `exc_${String(index).padStart(5, '0')}`);
    await store.write((unit) => unit.exchanges.insert(ids.map(exchange)));
    const changed = ids.slice(1);
    await store.write((unit) =>
      unit.exchanges.changeEach(
        'id',
        changed.map((id, index) => ({ id, elapsed_ms: index, cause: 'throttled' as const, response: null })),
      ),
    );
    expect(await store.exchanges.count({ cause: 'throttled' })).toBe(changed.length);
    expect(await store.exchanges.one({ id: ids[0] })).toEqual(exchange(ids[0] as string));
    expect(await store.exchanges.one({ id: ids[11_999] })).toMatchObject({ elapsed_ms: 11_998, cause: 'throttled' });
  });

  test('rows are read and removed by many keys, more than one statement takes', async () => {
    const store = await open();
    const ids = Array.from({ length: 33_000 }, (_, index) => `exc_${index}`);
    await store.write((unit) => unit.exchanges.insert(ids.map(exchange)));
    const found = await store.exchanges.allBy('id', [...ids.slice(1), 'exc_unknown']);
    expect(found).toHaveLength(32_999);
    expect(found.find((row) => row.id === 'exc_7')).toEqual(exchange('exc_7'));
    await store.write((unit) => unit.exchanges.removeBy('id', ids.slice(1)));
    expect((await store.exchanges.all()).map((row) => row.id)).toEqual(['exc_0']);
    expect(await store.exchanges.allBy('id', [])).toEqual([]);
  });

  test('values are bound, never written into the statement; a list takes as many places', async () => {
    const store = await open();
    const odd = "x'); DROP TABLE exchanges; --";
    await store.write((unit) => unit.exchanges.insert([exchange(odd), exchange('exc_2')]));
    const found = await store.select<{ id: string }>('SELECT id FROM exchanges WHERE id IN (:ids) ORDER BY id', {
      ids: [odd, 'exc_2', 'exc_3'],
    });
    expect(found.map((row) => row.id)).toEqual(['exc_2', odd]);
    expect(await store.select('SELECT id FROM exchanges WHERE id IN (:ids)', { ids: [] })).toEqual([]);
    expect(await store.write((unit) => unit.execute('DELETE FROM exchanges WHERE id = :id', { id: odd }))).toBe(1);
    expect(() => store.select('SELECT :nothing')).toThrow('names :nothing');
  });
});

describe('an installation from before ranks were kept', () => {
  const event = (kind: MessageEvent['kind'], attempt = 0): MessageEvent => ({ kind, at: 5, attempt });
  const ways: MessageEvent[][] = [
    [event('queued')],
    [event('queued'), event('attempted', 1)],
    [event('queued'), event('attempted', 1), event('deferred', 1)],
    [event('queued'), event('attempted', 1), event('uncertain', 1)],
    [event('queued'), event('attempted', 1), event('uncertain', 1), event('requeued', 1)],
    [event('queued'), event('attempted', 2), event('accepted', 2)],
    [event('queued'), event('attempted', 1), event('refused', 1)],
    [event('accepted', 1), event('delivered')],
    [event('accepted', 1), event('delivered'), event('read')],
    [event('received')],
  ];

  test('gets the rank of each message from its events', async () => {
    await (await openStore(join(folder, 'w.db'))).close();
    // Past the store, which would ask for everything a message belongs to.
    const file = new sqlite3.Database(join(folder, 'w.db'));
    const run = (sql: string, ...values: unknown[]) =>
      new Promise<void>((resolve, reject) => {
        file.run(sql, values, (error) => (error ? reject(error) : resolve()));
      });
    await run(`ALTER TABLE messages DROP COLUMN state_rank`);
    await run(`ALTER TABLE messages DROP COLUMN media`);
    await run(`DELETE FROM migrations WHERE name = '0003-messages'`);
    for (const [index, way] of ways.entries()) {
      await run(
        `INSERT INTO messages (id, direction, conversation_id, contact_id, channel_id, sender, recipient, text, encoding, parts, state, state_at, origin_kind, created_at)
         VALUES (?, 'out', 'cnv', 'con', 'chn', 's', 'r', 't', 'GSM-7', 1, ?, 5, 'user', 5)`,
        `msg_${index}`,
        standing(way).state,
      );
      for (const { kind, attempt } of way)
        await run(
          `INSERT INTO message_events (message_id, kind, at, recorded_at, attempt) VALUES (?, ?, 5, 5, ?)`,
          `msg_${index}`,
          kind,
          attempt,
        );
    }
    await new Promise((resolve) => file.close(resolve));
    const again = await open();
    const rows = await again.select<{ state_rank: number }>('SELECT state_rank FROM messages ORDER BY id');
    expect(rows.map((row) => row.state_rank)).toEqual(ways.map((way) => standing(way).rank));
    expect(readdirSync(folder)).toContain('w.db.before-0003-messages');
  });

  function standing([first, ...rest]: MessageEvent[]) {
    return rest.reduce((before, next) => standingAfter(next, before), standingAfter(first as MessageEvent));
  }
});

describe('an installation from before limits and apart apps', () => {
  test('keeps the countries it reached, its keys see what they saw, and its apps are answered as before', async () => {
    await (await openStore(join(folder, 'w.db'))).close();
    const file = new sqlite3.Database(join(folder, 'w.db'));
    const run = (sql: string, ...values: unknown[]) =>
      new Promise<void>((resolve, reject) => {
        file.run(sql, values, (error) => (error ? reject(error) : resolve()));
      });
    // As it was: without what came since.
    for (const table of [
      'sending_counts',
      'sending_stops',
      'limit_lifts',
      'price_lists',
      'verification_codes',
      'told_apps',
    ])
      await run(`DROP TABLE ${table}`);
    for (const [table, column] of [
      ['channels', 'destinations'],
      ['chat_visitors', 'confirmed_at'],
      ['api_keys', 'api_version'],
      ['webhook_subscriptions', 'api_version'],
    ])
      await run(`ALTER TABLE ${table} DROP COLUMN ${column}`);
    await run(`DELETE FROM migrations WHERE name IN ('0026-sending-limits', '0027-apps-apart')`);
    for (const [id, country, state] of [
      ['con_1', 'SE', 'delivered'],
      ['con_2', 'FR', 'failed'],
    ] as const) {
      await run(`INSERT INTO contacts (id, country, created_at) VALUES (?, ?, 1)`, id, country);
      await run(
        `INSERT INTO messages (id, direction, conversation_id, contact_id, channel_id, sender, recipient, text, encoding, parts, state, state_at, state_rank, origin_kind, created_at)
           VALUES (?, 'out', 'cnv', ?, 'chn', 's', 'r', 't', 'GSM-7', 1, ?, 5, 1, 'user', 5)`,
        `msg_${id}`,
        id,
        state,
      );
    }
    // In one hour it texted one number fifty times, and a thousand others of its range.
    for (let n = 0; n < 1050; n++)
      await run(
        `INSERT INTO messages (id, direction, conversation_id, contact_id, channel_id, sender, recipient, text, encoding, parts, state, state_at, state_rank, origin_kind, created_at)
           VALUES (?, 'out', 'cnv', 'con_1', 'chn', 's', ?, 't', 'GSM-7', 1, 'sent', 5, 1, 'app', ?)`,
        `msg_many${n}`,
        n < 50 ? '+46701740612' : `+4670174${n + 2000}`,
        30 * 86_400_000 + n,
      );
    for (const [id, scopes] of [
      ['key_1', '["messages:send","messages:read"]'],
      ['key_2', '["tests:run"]'],
    ])
      await run(
        `INSERT INTO api_keys (id, app_id, name, hint, hash, scopes, created_at) VALUES (?, 'app_1', 'n', 'h', ?, ?, 1)`,
        id,
        id,
        scopes,
      );
    await run(
      `INSERT INTO webhook_subscriptions (id, app_id, url, events, sealed_secrets, filter, created_at)
         VALUES ('sub_1', 'app_1', 'https://mossgate.example', '[]', 'x', '{"channels":["chn"]}', 1)`,
    );
    await new Promise((resolve) => file.close(resolve));

    const again = await open();
    expect((await again.settings.one({ name: 'countries-before' }))?.value).toEqual(['SE']);
    // Its limits begin above what it did, and what was usual is known.
    expect((await again.settings.one({ name: 'sending-limits' }))?.value).toEqual({
      'recipient-hour': 150,
      'recipient-day': 150,
      'range-hour': 3150,
      'country-day': 3150,
      'app-hour': 20_000,
    });
    const counts = await again.sendingCounts.all(undefined, { order: [['counted_by', 'ASC']] });
    expect(counts.map(({ counted_by, subject, amount }) => [counted_by, subject, amount])).toEqual([
      ['country', 'SE', 1050],
      ['range', '+4670174', 1050],
    ]);
    const keys = await again.apiKeys.all(undefined, { order: [['id', 'ASC']] });
    expect(keys.map(({ scopes, api_version }) => [scopes, api_version])).toEqual([
      [['messages:send', 'messages:read', 'messages:all'], '2026-05-01'],
      [['tests:run'], '2026-05-01'],
    ]);
    expect(await again.subscriptions.one({ id: 'sub_1' })).toMatchObject({
      filter: { channels: ['chn'], allApps: true },
      api_version: '2026-05-01',
    });
  });
});

test('many changes of one kind in one unit are noted as any of them', async () => {
  const store = await open();
  const note = (count: number) =>
    store.write((unit) =>
      noteChanges(unit, 1, [
        ...Array.from({ length: count }, (_, index) => ['message', `msg_${index}`] as const),
        ['account', 'acc_1'],
        ['account', 'acc_1'],
      ]),
    );
  const noted = async () => (await store.changes.all()).map(({ topic, subject_id }) => `${topic} ${subject_id}`);
  await note(2);
  expect(await noted()).toEqual(['message msg_0', 'message msg_1', 'account acc_1']);
  await note(500);
  expect((await noted()).slice(3)).toEqual(['message *', 'account acc_1']);
});

describe('sealing', () => {
  test('opens what it sealed, never twice the same, and refuses what was changed or sealed with another key', () => {
    const [mine, other] = [createSealer(Buffer.alloc(32, 1)), createSealer(Buffer.alloc(32, 2))];
    const sealed = mine.seal({ secret: 'bws_1' });
    expect(mine.open(sealed)).toEqual({ secret: 'bws_1' });
    expect(mine.seal({ secret: 'bws_1' })).not.toBe(sealed);
    expect(sealed).not.toContain('bws_1');
    expect(() => other.open(sealed)).toThrow();
    expect(() => mine.open(sealed.slice(0, -4) + (sealed.endsWith('AAAA') ? 'BBBB' : 'AAAA'))).toThrow();
  });

  test('the key file is made once, for its owner only', () => {
    const file = join(folder, 'sealing.key');
    const [key] = keyRingOf(file, undefined)();
    expect(keyRingOf(file, undefined)()).toEqual([key]);
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(existsSync(file)).toBe(true);
  });

  test('a key that is replaced opens what it sealed until it is taken away, in a process that runs on', () => {
    const file = join(folder, 'replaced.key');
    const running = createSealer(keyRingOf(file, undefined));
    const before = running.seal('kept');
    // As it was sealed when keys had no names.
    const unnamed = `v1.${before.split('.').slice(2).join('.')}`;
    const { id } = addKey(file);
    expect([running.open(before), running.open(unnamed)]).toEqual(['kept', 'kept']);
    expect([running.isPresent(before), running.isPresent(running.seal('x'))]).toEqual([false, true]);
    expect(running.seal('x').split('.')[1]).toBe(id);
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(dropFormerKeys(file)).toBe(1);
    expect(() => running.open(before)).toThrow(/not there/);
    expect(() => running.open(unnamed)).toThrow(/not there/);
  });

  test('keys of the environment: the first seals, all open', () => {
    const [old, fresh] = ['11'.repeat(32), '22'.repeat(32)];
    const sealed = createSealer(keyRingOf('', old)).seal('kept');
    const both = createSealer(keyRingOf('', `${fresh},${old}`));
    expect(both.open(sealed)).toBe('kept');
    expect(both.isPresent(both.seal('x'))).toBe(true);
    expect(() => createSealer(keyRingOf('', fresh)).open(sealed)).toThrow();
  });
});

test('ids sort by creation, also within a millisecond and into the past', () => {
  const ids = Array.from({ length: 500 }, () => newId('msg', Date.now()));
  expect([...ids].sort()).toEqual(ids);
  expect(new Set(ids).size).toBe(500);
  expect(pastId('msg', Date.now() - 1000) < (ids[0] ?? '')).toBe(true);
  // A clock that ran ahead and was set right does not keep later ids in the future.
  const ahead = newId('msg', Date.now() + 3_600_000);
  expect(newId('msg', Date.now()) < ahead).toBe(true);
  const now = Date.now();
  expect(newId('msg', now - 50) > newId('msg', now - 60_000)).toBe(true);
});
