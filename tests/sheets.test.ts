/** Sheets on a real disk and over a real wire: each row once, results written back, messages appended once. */
import { appendFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, expect, test } from 'vitest';
import {
  appendToSheet,
  changeSheet,
  decideHeldRows,
  listSheets,
  switchSheet,
  watchSheet,
} from '../src/operations/apps/sheets/sheets';
import { SYSTEM } from '../src/operations/context/actor';
import { connectMossgate, INES, type Mossgate, TOMAS } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';

let installation: Installation;
let mossgate: Mossgate;

beforeAll(async () => {
  installation = await startInstallation();
  mossgate = await connectMossgate(installation);
});
afterAll(() => installation.stop());

const file = (name: string) => join(installation.ctx.config.sheetsFolder, name);
const read = (name: string) => readFileSync(file(name), 'utf8');
const texts = async (phone = INES) => (await installation.bench.received(phone)).map(({ text }) => text);
const view = async (id: string) => {
  const found = (await listSheets(installation.ctx, SYSTEM, mossgate.appId)).find(({ sheet }) => sheet.id === id);
  if (!found) throw new Error('The sheet is gone');
  return found;
};
const message = (text: string, phoneField: string) => ({
  name: '',
  text,
  phoneField,
  country: 'GB',
  sender: { by: 'channel' as const, channel: mossgate.channel.id },
});

/** Watches a file and waits until its first look is done. */
async function watch(source: string, begin: 'new' | 'all', keyColumn?: string) {
  const { id } = await watchSheet(installation.ctx, SYSTEM, mossgate.appId, { name: source, source, begin, keyColumn });
  await until('the sheet was read', async () => (await view(id)).sheet.scannedAt);
  return id;
}

const written = (name: string, words: RegExp) => until(`${words} stands in ${name}`, () => words.test(read(name)));

test('rows that were there stay unsent; new ones go once each, wherever they stand and however often it is read', async () => {
  writeFileSync(file('stoppages.csv'), 'Skipper;Mobile phone;Lock\r\nOld Row;07700 900123;East\r\n');
  const id = await watch('stoppages.csv', 'new');
  expect((await view(id)).sheet.samples).toEqual([
    { Skipper: 'Old Row', 'Mobile phone': '07700 900123', Lock: 'East' },
  ]);
  await changeSheet(installation.ctx, SYSTEM, id, message('{{ Lock }} is closed, {{ Skipper }}.', 'Mobile phone'));
  writeFileSync(
    file('stoppages.csv'),
    'Skipper;Mobile phone;Lock\r\nInes;07700 900123;North\r\nOld Row;07700 900123;East\r\n;;\r\nNobody;;North\r\nInes;07700 900123;North\r\n',
  );
  await until(
    'both are sent',
    async () => (await texts()).filter((text) => text === 'North is closed, Ines.').length === 2,
  );
  await written('stoppages.csv', /no phone number/);
  await until('both marks are written', () => (read('stoppages.csv').match(/\d{4}-\d\d-\d\dT/g) ?? []).length === 2);
  const after = read('stoppages.csv');
  expect(after.split('\r\n')[0]?.split('\n')[0]).toBe('Skipper;Mobile phone;Lock;windgap sent;windgap result');
  expect(after).toContain('Message to +447700900123');
  expect(await view(id)).toMatchObject({
    counts: { before: 1, taken: 2, refused: 1 },
    proofs: [{ hop: 'call-in', state: 'proven' }],
  });

  // Touched, sorted otherwise, read again: nothing is sent twice.
  const [header, ...rows] = after.trim().split('\n');
  writeFileSync(file('stoppages.csv'), [header, ...rows.reverse()].join('\n'));
  await until('it was read again', async () => (await view(id)).sheet.rowCount === 4);
  // The row that was refused is corrected, and one is added.
  writeFileSync(file('stoppages.csv'), read('stoppages.csv').replace('Nobody;;North', 'Tomas;+46 70 174 06 12;North'));
  await until('the fixed row is sent', async () => (await texts(TOMAS)).includes('North is closed, Tomas.'));
  expect((await texts()).filter((text) => text.startsWith('North is closed')).length).toBe(2);
  expect((await texts()).join()).not.toContain('Old Row');
});

test('a sheet that is added anew sends nothing that carries the mark', async () => {
  writeFileSync(file('again.csv'), 'phone,windgap sent\n+447700900123,2026-01-01T00:00:00Z\n+447700900123,\n');
  const id = await watch('again.csv', 'all');
  await changeSheet(installation.ctx, SYSTEM, id, message('Again', 'phone'));
  await until('the other row is sent', async () => (await texts()).filter((text) => text === 'Again').length === 1);
  await until('it is read', async () => (await view(id)).counts.before === 1);
  expect((await view(id)).counts).toMatchObject({ before: 1, taken: 1 });
});

test('a workbook, with a key that tells its rows apart; what else is in it stays', async () => {
  const workbook = new ExcelJS.Workbook();
  const sheet = workbook.addWorksheet('Moorings');
  sheet.addRow(['No', 'Name', 'Phone', 'Due']);
  sheet.addRow([7, 'Ines', '07700 900123', new Date(Date.UTC(2026, 4, 1))]);
  sheet.getCell('B2').font = { bold: true };
  workbook.addWorksheet('Other').addRow(['kept']);
  await workbook.xlsx.writeFile(file('moorings.xlsx'));
  const id = await watch('moorings.xlsx', 'all', 'No');
  await changeSheet(installation.ctx, SYSTEM, id, message('Mooring {{ No }} is due on {{ Due }}.', 'Phone'));
  await until('it is sent', async () => (await texts()).includes('Mooring 7 is due on 2026-05-01.'));
  await until('the result is written', async () => (await view(id)).rows[0]?.row.writtenAt);
  const after = new ExcelJS.Workbook();
  await after.xlsx.readFile(file('moorings.xlsx'));
  const [first] = after.worksheets;
  expect(first?.getCell('F2').value).toBe('Message to +447700900123');
  expect(first?.getCell('B2').font).toMatchObject({ bold: true });
  expect(after.worksheets[1]?.getCell('A1').value).toBe('kept');

  // Another cell of the same number is no new row; the same number again is told.
  if (first) {
    first.getCell('D2').value = 'June';
    first.addRow([7, 'Ines', '07700 900123', 'July']);
    first.addRow([]);
    first.addRow([8, 'Ines', '07700 900123', 'August']);
  }
  await after.xlsx.writeFile(file('moorings.xlsx'));
  await until('the new one is sent', async () => (await texts()).includes('Mooring 8 is due on August.'));
  expect((await texts()).filter((text) => text.startsWith('Mooring'))).toHaveLength(2);
  expect((await view(id)).counts).toMatchObject({ taken: 2, repeated: 1 });
});

test('what cannot be read is said, and comes right by itself when it can', async () => {
  const { id } = await watchSheet(installation.ctx, SYSTEM, mossgate.appId, {
    name: 'Missing',
    source: 'missing.csv',
    begin: 'all',
  });
  await until('it is told', async () => (await view(id)).sheet.problem?.includes('no such file'));
  expect((await view(id)).proofs).toMatchObject([{ state: 'broken', cause: 'sheet-not-read' }]);
  writeFileSync(file('missing.xlsx'), 'not a zip');
  const wrong = await watchSheet(installation.ctx, SYSTEM, mossgate.appId, {
    name: 'Wrong',
    source: 'missing.xlsx',
    begin: 'all',
  });
  await until('it is told', async () => (await view(wrong.id)).sheet.problem?.includes('not a ZIP'));
  writeFileSync(file('missing.csv'), 'phone\n+447700900123\n');
  await until('it is read', async () => (await view(id)).sheet.scannedAt && (await view(id)).sheet.problem === null);
  await expect(
    watchSheet(installation.ctx, SYSTEM, mossgate.appId, { name: 'Out', source: '../windgap.csv', begin: 'all' }),
  ).rejects.toThrow('by its name alone');
});

test('a sheet at an address: fetched again only when it changed; a login page is told', async () => {
  let body = 'phone,word\n+447700900123,first\n';
  const asked: (string | undefined)[] = [];
  const server: Server = createServer((request, response) => {
    asked.push(request.headers['if-none-match']);
    response.setHeader('etag', `"${body.length}"`);
    if (body.startsWith('<')) response.setHeader('content-type', 'text/html');
    response.statusCode = request.headers['if-none-match'] === `"${body.length}"` ? 304 : 200;
    response.end(response.statusCode === 304 ? undefined : body);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  const id = await watch(`http://127.0.0.1:${port}/list.csv`, 'all');
  await changeSheet(installation.ctx, SYSTEM, id, message('By address: {{ word }}', 'phone'));
  await until('it is sent', async () => (await texts()).includes('By address: first'));
  body = '<html>Sign in</html>';
  await installation.ctx.store.write((unit) => unit.sheets.change({ id }, { scanned_at: 0 }));
  await until('it is told', async () => (await view(id)).sheet.problem?.includes('web page'));
  expect(asked.filter(Boolean).length).toBeGreaterThan(0);
  // What cannot be read is not fetched every second: each failure makes the pause before the next one longer.
  const { sheet: failing } = await view(id);
  expect(failing.failures).toBe(1);
  expect((failing.retryAt ?? 0) - installation.ctx.now()).toBeGreaterThan(20_000);
  const before = asked.length;
  await installation.bench.moveClock(31_000);
  await until('it is tried again', async () => (await view(id)).sheet.failures === 2);
  expect(asked.length).toBe(before + 1);
  expect(((await view(id)).sheet.retryAt ?? 0) - installation.ctx.now()).toBeGreaterThan(50_000);
  body = 'phone,word\n+447700900123,right at last\n';
  await changeSheet(installation.ctx, SYSTEM, id, message('By address: {{ word }}', 'phone'));
  await until('whoever changes it has it read at once', async () => (await view(id)).sheet.failures === 0);
  server.close();
});

test('messages become rows: a new CSV, one with its own order of columns, a workbook; words are no formulas', async () => {
  const { ctx } = installation;
  writeFileSync(file('log.csv'), 'Note,message,Who\r\nkept,,x\r\n');
  appendFileSync(file('log.csv'), 'without an end');
  const columns = [
    { header: 'Who', fill: '{{ message.from }}' },
    { header: 'Note', fill: '{{ message.text }}' },
  ];
  const ids = [];
  for (const source of ['log.csv', 'fresh.csv', 'fresh.xlsx'])
    ids.push((await appendToSheet(ctx, SYSTEM, mossgate.appId, { name: source, source, columns })).id);
  await installation.bench.type(INES, '+442079460114', '=HYPERLINK("http://x", "Hi")');
  await installation.bench.type(TOMAS, '+442079460114', 'Zwei\nZeilen, "so"');
  for (const id of ids)
    await until(
      'both rows are there',
      async () => (await view(id)).rows.filter(({ run }) => run?.state === 'done').length === 2,
    );
  expect(read('log.csv')).toContain('kept,,x\r\nwithout an end\r\n');
  expect(read('log.csv')).toContain(`"'=HYPERLINK(""http://x"", ""Hi"")",msg_`);
  expect(read('fresh.csv').startsWith('Who,Note,message\r\n')).toBe(true);
  expect(read('fresh.csv')).toContain('+46701740612,"Zwei\nZeilen, ""so""",msg_');
  const workbook = new ExcelJS.Workbook();
  await workbook.xlsx.readFile(file('fresh.xlsx'));
  expect(workbook.worksheets[0]?.rowCount).toBe(3);
  expect((await view(ids[0] as string)).proofs).toMatchObject([{ hop: 'call-out', state: 'proven' }]);

  // The row is written and the engine ends before it knows: there is one row all the same.
  const [run] = await ctx.store.runs.all({ source_id: ids[1] as string }, { order: [['id', 'DESC']], limit: 1 });
  await ctx.store.write((unit) =>
    unit.runs.change({ id: run?.id ?? '' }, { state: 'due', next: 0, results: [], ended_at: null }),
  );
  await until('it is done again', async () => (await ctx.store.runs.one({ id: run?.id ?? '' }))?.state === 'done');
  expect(read('fresh.csv').trim().split('\r\n')).toHaveLength(3);
  await switchSheet(ctx, SYSTEM, ids[1] as string, false);
});

test('old rows stay old when columns are renamed, added or moved, and when the message is written anew', async () => {
  const { ctx } = installation;
  const rows = Array.from({ length: 12 }, (_, n) => [`0770090012${n % 10}`, `Boat ${n}`, `note ${n}`]);
  const put = (header: string[], lines: string[][]) =>
    writeFileSync(file('berths.csv'), [header, ...lines].map((cells) => `${cells.join(',')}\n`).join(''));
  const scannedAs = (id: string, header: string[]) =>
    until(`it was read as ${header}`, async () => (await view(id)).sheet.header?.join() === header.join());
  put(['Phone', 'Boat', 'Note'], rows);
  const id = await watch('berths.csv', 'new');
  // Before there is a message.
  put(['Phone', 'Boat', 'Remark'], rows);
  await scannedAs(id, ['Phone', 'Boat', 'Remark']);
  await changeSheet(ctx, SYSTEM, id, message('Berth for {{ Boat }}', 'Phone'));
  put(
    ['Remark', 'Boat', 'Phone', 'Berth'],
    rows.map(([phone, boat, note]) => [note ?? '', boat ?? '', phone ?? '', '7']),
  );
  await scannedAs(id, ['Remark', 'Boat', 'Phone', 'Berth']);
  await changeSheet(ctx, SYSTEM, id, message('{{ Boat }} lies at {{ Berth }}', 'Phone'));
  put(
    ['Berth', 'Words', 'Boat', 'Phone'],
    [
      ...rows.map(([phone, boat]) => ['7', 'x', boat ?? '', phone ?? '']).reverse(),
      ['9', 'new', 'Tern', '07700 900123'],
    ],
  );
  await until('the new row is sent', async () => (await texts()).includes('Tern lies at 9'));
  expect((await view(id)).counts).toMatchObject({ before: 12, taken: 1, refused: 0 });
  const { held, identity } = (await view(id)).sheet;
  expect([held, identity?.map(({ called }) => called).sort()]).toEqual([null, ['Berth', 'Boat', 'Phone']]);

  // A column the message uses is called something else: said, and nothing is sent or refused.
  put(
    ['Berth', 'Words', 'Vessel', 'Phone'],
    rows.map(([phone, boat]) => ['7', 'x', boat ?? '', phone ?? '']),
  );
  await until('it is told', async () => (await view(id)).sheet.problem?.includes('“Boat”'));
  await changeSheet(ctx, SYSTEM, id, message('{{ Vessel }} lies at {{ Berth }}', 'Phone'));
  await scannedAs(id, ['Berth', 'Words', 'Vessel', 'Phone']);
  expect((await view(id)).counts).toMatchObject({ before: 12, taken: 1, refused: 0 });
});

test('rows that all look new at once are held, and somebody says what they are', async () => {
  const { ctx } = installation;
  const put = (words: string) =>
    writeFileSync(file('held.csv'), `phone,word\n${[1, 2, 3].map((n) => `+447700900123,${words} ${n}\n`).join('')}`);
  put('old');
  const id = await watch('held.csv', 'new');
  await changeSheet(ctx, SYSTEM, id, message('Held: {{ word }}', 'phone'));
  await until('it was read', async () => (await view(id)).sheet.identity?.length === 2);
  put('other');
  const first = await until('they are held', async () => (await view(id)).sheet.held);
  expect(first).toMatchObject({ rows: 3, why: 'replaced', samples: [{ word: 'other 1' }, {}, {}] });
  expect((await view(id)).proofs).toMatchObject([{ state: 'broken', cause: 'sheet-rows-held' }]);
  await decideHeldRows(ctx, SYSTEM, id, { what: 'known', print: first.print });
  await until('none is held', async () => (await view(id)).sheet.held === null);

  put('third');
  const second = await until('they are held', async () => (await view(id)).sheet.held);
  await expect(decideHeldRows(ctx, SYSTEM, id, { what: 'send', print: first.print })).rejects.toThrow(/changed/);
  await decideHeldRows(ctx, SYSTEM, id, { what: 'send', print: second.print });
  await until('they are sent', async () => (await texts()).filter((text) => text.startsWith('Held:')).length === 3);
  expect((await texts()).filter((text) => text.startsWith('Held: third'))).toHaveLength(3);

  // Put back as it was: nothing is held, nothing is sent.
  put('other');
  await until('it was read', async () => (await view(id)).sheet.samples[0]?.word === 'other 3');
  expect((await view(id)).sheet.held).toBe(null);
});

test('rows replaced before there is a message are asked about when there is one', async () => {
  const { ctx } = installation;
  const put = (column: string, words: string) =>
    writeFileSync(file('early.csv'), `${column},w\n${[1, 2, 3].map((n) => `+447700900123,${words} ${n}\n`).join('')}`);
  put('phone', 'early');
  const id = await watch('early.csv', 'new');
  put('number', 'changed');
  await until('it was read again', async () => (await view(id)).sheet.samples[0]?.w === 'changed 3');
  await changeSheet(ctx, SYSTEM, id, message('Early: {{ w }}', 'number'));
  expect(await until('they are held', async () => (await view(id)).sheet.held)).toMatchObject({ rows: 3 });
  expect((await texts()).some((text) => text.startsWith('Early'))).toBe(false);
});

test('an engine killed while 300 rows leave sends each once', async () => {
  const rows = Array.from({ length: 300 }, (_, n) => `+447700900123,${n}`);
  mkdirSync(installation.ctx.config.sheetsFolder, { recursive: true });
  writeFileSync(file('many.csv'), `phone,n\n${rows.join('\n')}\n`);
  const id = await watch('many.csv', 'all');
  await changeSheet(installation.ctx, SYSTEM, id, message('Many {{ n }}', 'phone'));
  await until('some have left', async () => (await view(id)).counts.taken > 0);
  for (let kill = 0; kill < 3; kill++) {
    installation.engine?.kill('SIGKILL');
    await installation.startEngine();
  }
  await until(
    'all are messages',
    async () =>
      (await installation.ctx.store.messages.count({
        origin_id: mossgate.appId,
        text: rows.map((_, n) => `Many ${n}`),
      })) === 300,
  );
  await until('all have marks', () => (read('many.csv').match(/Message to/g) ?? []).length === 300);
  expect((await installation.ctx.store.messages.all({ text: 'Many 150' })).length).toBe(1);
});
