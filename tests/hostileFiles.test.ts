/** Files that cost far more than their size: each is refused with a sentence, within its limits, and the process goes on. */
import { createReadStream, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import ExcelJS from 'exceljs';
import JSZip from 'jszip';
import { afterAll, expect, test } from 'vitest';
import { systemClock } from '../src/clock/clock';
import { changeWorkbook, fileCards, fileRows } from '../src/operations/context/fileRows';
import { createApart } from '../src/workers/apart';
import { ROOT } from './harness/processes';
import { SLOWNESS } from './harness/until';

const folder = mkdtempSync(join(tmpdir(), 'windgap-files-'));
const apart = createApart(join(ROOT, 'dist/worker.mjs'), {
  clock: systemClock,
  memory: 128,
  longest: 20_000 * SLOWNESS,
});
const ctx = { apart };
afterAll(() => {
  apart.close();
  rmSync(folder, { recursive: true });
});

async function all<T>(pieces: AsyncGenerator<T>): Promise<T[]> {
  const read: T[] = [];
  for await (const piece of pieces) read.push(piece);
  return read;
}
const put = (name: string, content: string | Buffer) => {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
};

/** A workbook with this as the XML of its only sheet's rows. */
async function workbook(name: string, rows: string, strings = ''): Promise<string> {
  const path = join(folder, name);
  const real = new ExcelJS.Workbook();
  real.addWorksheet('Rows').addRow(['phone', 'name']);
  const zip = await JSZip.loadAsync((await real.xlsx.writeBuffer()) as ArrayBuffer);
  const sheet = 'xl/worksheets/sheet1.xml';
  const xml = await zip.file(sheet)?.async('string');
  zip.file(sheet, (xml ?? '').replace(/<sheetData>.*<\/sheetData>/s, `<sheetData>${rows}</sheetData>`));
  if (strings) zip.file('xl/sharedStrings.xml', strings);
  return put(name, await zip.generateAsync({ type: 'nodebuffer', compression: 'DEFLATE' })) && path;
}
const cell = (at: string, value: string) => `<c r="${at}" t="inlineStr"><is><t>${value}</t></is></c>`;

test('honest files of both kinds are read whole, and a reader who stops early ends the thread', async () => {
  const csv = put(
    'rows.csv',
    `phone,name\n${Array.from({ length: 3000 }, (_, n) => `+4477009001${n},N${n}`).join('\n')}\n`,
  );
  expect(await all(fileRows(ctx, csv, 'csv'))).toHaveLength(3001);
  const xlsx = await workbook(
    'rows.xlsx',
    `<row r="1">${cell('A1', 'phone')}</row><row r="3">${cell('B3', 'x')}</row>`,
  );
  expect(await all(fileRows(ctx, xlsx, 'xlsx'))).toEqual([['phone'], [], ['', 'x']]);
  for await (const row of fileRows(ctx, csv, 'csv')) {
    expect(row).toEqual(['phone', 'name']);
    break;
  }
});

test('a row four thousand million down, and a column beyond every sheet', async () => {
  const far = await workbook(
    'far.xlsx',
    `<row r="1">${cell('A1', 'phone')}</row><row r="4000000000">${cell('A4000000000', 'x')}</row>`,
  );
  await expect(all(fileRows(ctx, far, 'xlsx'))).rejects.toThrow(/a row 4000000000, which no sheet has/);
  const wide = await workbook('wide.xlsx', `<row r="1">${cell('ZZZZ1', 'x')}</row>`);
  await expect(all(fileRows(ctx, wide, 'xlsx'))).rejects.toThrow(/columns|cannot be|can be read/);
  const back = await workbook('back.xlsx', `<row r="9">${cell('A9', 'x')}</row><row r="2">${cell('A2', 'x')}</row>`);
  await expect(all(fileRows(ctx, back, 'xlsx'))).rejects.toThrow(/a row 2/);
});

test('an archive that unfolds to gigabytes, one text or many, ends with the memory it was given', async () => {
  const bomb = await workbook('bomb.xlsx', `<row r="1">${cell('A1', 'x'.repeat(400_000_000))}</row>`);
  await expect(all(fileRows(ctx, bomb, 'xlsx'))).rejects.toThrow(/memory|longer|read/);
  await expect(
    changeWorkbook(ctx, 'appendToWorkbook', { path: bomb, row: ['x'], known: { column: 1, value: 'y' } }),
  ).rejects.toThrow(/memory|longer|read|thread/);
});

test('entities that name one another (XML), and quotes without an end (CSV)', async () => {
  const levels = Array.from({ length: 30 }, (_, n) => `<!ENTITY e${n + 1} "&e${n};&e${n};&e${n};">`).join('');
  const strings = `<?xml version="1.0"?><!DOCTYPE s [<!ENTITY e0 "lol">${levels}]><sst count="1"><si><t>&e30;</t></si></sst>`;
  const path = await workbook('entities.xlsx', '<row r="1"><c r="A1" t="s"><v>0</v></c></row>', strings);
  const read = await all(fileRows(ctx, path, 'xlsx')).catch((error: Error) => error);
  // Either it is refused, or the names stand for nothing: they are never unfolded.
  expect(read instanceof Error ? read.message : JSON.stringify(read)).not.toContain('lollol');
  const open = put('open.csv', `phone,name\n"${'x,\n'.repeat(8_000_000)}`);
  await expect(all(fileRows(ctx, open, 'csv'))).rejects.toThrow(/CSV cannot be read|memory/);
});

test('a card that is over two megabytes, and one without an end, are refused and the next is read', async () => {
  const honest = 'BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ines\r\nTEL:+447700900123\r\nEND:VCARD\r\n';
  const huge = `BEGIN:VCARD\r\nFN:${'x'.repeat(3_000_000)}\r\nEND:VCARD\r\n`;
  const cards = await all(fileCards(ctx, put('cards.vcf', huge + honest + honest.slice(0, 40))));
  expect(cards.map(({ ok }) => ok)).toEqual([false, true, false]);
});

test('what is no archive, and an archive that ends in the middle', async () => {
  await expect(all(fileRows(ctx, put('text.xlsx', 'phone,name'), 'xlsx'))).rejects.toThrow(/no XLSX/);
  const whole = await workbook('whole.xlsx', `<row r="1">${cell('A1', 'phone')}</row>`);
  const half: Buffer[] = [];
  for await (const chunk of createReadStream(whole, { end: 900 })) half.push(chunk as Buffer);
  const read = await all(fileRows(ctx, put('half.xlsx', Buffer.concat(half)), 'xlsx')).catch((error: Error) => error);
  expect(read).toBeInstanceOf(Error);
});
