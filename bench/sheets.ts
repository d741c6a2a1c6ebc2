/** A long sheet, read row by row: how fast, and the most memory the engine ever held. */
import { createWriteStream, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import ExcelJS from 'exceljs';
import { createApp } from '../src/operations/apps/apps';
import { watchSheet } from '../src/operations/apps/sheets/sheets';
import { SYSTEM } from '../src/operations/context/actor';
import { startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';

const ROWS = Number(process.env.BENCH_SHEET_ROWS ?? 200_000);
const row = (n: number) => [
  `Skipper ${n}`,
  `+447700900${String(n % 1000).padStart(3, '0')}`,
  `Lock ${n % 60}`,
  `Closed until ${n}`,
];
const HEADER = ['Skipper', 'Phone', 'Lock', 'Note'];

export async function sheets(): Promise<void> {
  for (const format of ['csv', 'xlsx'] as const) {
    const installation = await startInstallation({ web: false });
    try {
      const { ctx, engine } = installation;
      const path = join(ctx.config.sheetsFolder, `long.${format}`);
      await (format === 'csv' ? writeCsv(path) : writeXlsx(path));
      const app = await createApp(ctx, SYSTEM, { name: 'Stoppages', description: '' });
      const before = peakMiB(engine?.pid);
      const began = performance.now();
      const { id } = await watchSheet(ctx, SYSTEM, app.id, { name: 'Long', source: `long.${format}`, begin: 'new' });
      await until('the sheet is read', async () => (await ctx.store.sheets.one({ id }))?.scanned_at);
      const seconds = (performance.now() - began) / 1000;
      const seen = await ctx.store.seenRows.count({ sheet_id: id });
      console.log(
        `Sheet of ${ROWS} rows (${format}): ${seen} noted in ${seconds.toFixed(0)} s; engine at most ${peakMiB(engine?.pid)} MiB, before it ${before} MiB`,
      );
    } finally {
      await installation.stop();
    }
  }
}

async function writeCsv(path: string): Promise<void> {
  function* text() {
    yield `${HEADER.join(',')}\n`;
    for (let n = 0; n < ROWS; n++) yield `${row(n).join(',')}\n`;
  }
  writeFileSync(path, '');
  await pipeline(Readable.from(text()), createWriteStream(path));
}

async function writeXlsx(path: string): Promise<void> {
  const writer = new ExcelJS.stream.xlsx.WorkbookWriter({ filename: path });
  const sheet = writer.addWorksheet('Long');
  sheet.addRow(HEADER).commit();
  for (let n = 0; n < ROWS; n++) sheet.addRow(row(n)).commit();
  await writer.commit();
}

/** The most it ever held, not what it holds now. */
export function peakMiB(pid: number | undefined): number {
  return Math.round(Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) / 1024);
}
