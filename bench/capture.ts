/**
 * Lets an independent decoder judge what goes over the trunk: texts of every shape both
 * ways are captured on loopback, and no PDU may be malformed. Needs tshark and the right
 * to capture.
 */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { setTrunkSettings } from '../src/operations/trunks/trunkSettings';
import { INES } from '../tests/harness/mossgate';
import { connectTrunk, type Trunk, trunkCredentials, untilBound } from '../tests/harness/ostrel';
import { type Installation, startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';

const SHORT = 'Passage at {14:20} is booked, berth €5';
const LONG = 'Passage through Heron Staircase is booked. '.repeat(9).trim();
const SHORT_UCS2 = 'Kort 🛶 Ő';
const LONG_UCS2 = 'Slussen öppnar kl. 8 🛶 välkomna! '.repeat(6).trim();

/** What has to be seen, as display filters of the decoder; a shape that never occurs proves nothing. */
const SHAPES: Record<string, string> = {
  'binds answered': 'smpp.command_id == 0x80000009 && smpp.command_status == 0',
  'GSM-7 submits': 'smpp.command_id == 4 && smpp.data_coding == 0',
  'UCS-2 submits': 'smpp.command_id == 4 && smpp.data_coding == 8',
  'parts by header': 'smpp.command_id == 4 && smpp.esm.submit.features == 1',
  'parts by sar': 'smpp.command_id == 4 && smpp.sar_total_segments > 1',
  'long texts by payload': 'smpp.command_id == 4 && smpp.message_payload',
  receipts: 'smpp.command_id == 5 && smpp.esm.submit.msg_type == 1',
  'texts in': 'smpp.command_id == 5 && smpp.esm.submit.msg_type == 0',
  'deliveries answered': 'smpp.command_id == 0x80000005 && smpp.command_status == 0',
  unbinds: 'smpp.command_id == 6',
};

if (spawnSync('tshark', ['--version']).status !== 0) {
  console.log('tshark is not installed; on Debian: apt-get install tshark');
  process.exit(2);
}

const installation = await startInstallation({ web: false, engine: false });
const port = trunkCredentials(installation).port;
const file = join(installation.folder, 'trunk.pcapng');
let failed = 0;
try {
  const capture = await startCapture();
  await traffic(installation);
  await stopCapture(capture);
  judge();
} finally {
  await installation.stop();
}
console.log(failed === 0 ? 'Every PDU decodes.' : `${failed} of these are not as they should be.`);
process.exit(failed === 0 ? 0 : 1);

async function startCapture(): Promise<ChildProcess> {
  const child = spawn('tshark', ['-i', 'lo', '-f', `tcp port ${port}`, '-w', file], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  await new Promise<void>((resolve, reject) => {
    child.stderr?.on('data', (text: Buffer) => text.includes('Capturing on') && setTimeout(resolve, 1000));
    child.once('exit', (code) =>
      reject(new Error(`tshark ended with ${code}; capturing needs rights on the interface`)),
    );
  });
  return child;
}

/** What was captured last reaches the file a moment after it passed. */
async function stopCapture(child: ChildProcess): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve, 1500));
  await new Promise((resolve) => {
    child.removeAllListeners('exit');
    child.once('exit', resolve);
    child.kill('SIGINT');
  });
}

async function traffic({ ctx, bench, world, ...rest }: Installation): Promise<void> {
  const here = { ctx, bench, world, ...rest } as Installation;
  const trunk: Trunk = await connectTrunk(here);
  await here.startEngine();
  const send = createSender(ctx);
  const ids: string[] = [];
  for (const longText of ['header', 'sar', 'payload']) {
    await setTrunkSettings(ctx, SYSTEM, trunk.accountId, { longText });
    await untilBound(here, trunk.accountId);
    for (const text of [SHORT, LONG, SHORT_UCS2, LONG_UCS2]) {
      const { message } = await send(SYSTEM, { to: INES, text: `${text} ${longText}`, from: trunk.channel.id });
      ids.push(message.id);
      await until(
        'its receipt is in',
        async () => (await ctx.store.messages.one({ id: message.id }))?.state === 'delivered',
      );
    }
  }
  for (const text of [SHORT, LONG, LONG_UCS2]) await bench.type(INES, trunk.channel.address, text);
  await until('the texts are in', async () => (await ctx.store.messages.count({ direction: 'in' })) === 3);
  await setTrunkSettings(ctx, SYSTEM, trunk.accountId, { longText: 'header' });
  await untilBound(here, trunk.accountId);
}

function judge(): void {
  const pdus = lines('smpp', ['-T', 'fields', '-e', 'smpp.command_id']).flatMap((line) => line.split(','));
  console.log(`${pdus.length} PDUs captured on port ${port}`);
  for (const [name, filter] of Object.entries(SHAPES)) report(name, lines(filter).length, (count) => count > 0);
  report('malformed', lines('_ws.malformed').length, (count) => count === 0);
  report('not understood', lines('tcp.len > 0 && !smpp').length, (count) => count === 0);
  report('expert errors', lines('_ws.expert.severity >= "Error"').length, (count) => count === 0);
}

function report(name: string, count: number, isRight: (count: number) => boolean): void {
  const right = isRight(count);
  if (!right) failed += 1;
  console.log(`${right ? 'ok ' : 'BAD'} ${String(count).padStart(5)} ${name}`);
}

/** One line for each frame that the filter lets through. */
function lines(filter: string, more: string[] = []): string[] {
  const run = spawnSync('tshark', ['-r', file, '-d', `tcp.port==${port},smpp`, '-Y', filter, ...more], {
    encoding: 'utf8',
  });
  if (run.status !== 0) throw new Error(`tshark: ${run.stderr}`);
  return run.stdout.split('\n').filter(Boolean);
}
