/** The engine process. One at a time: the doorbell's socket is also the lock. */
import { existsSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { createInterface } from 'node:readline';
import { somebodyListens, type Work } from '../operations/doorbell';
import { configFromEnvironment, doorbellPath, openWindgap } from '../operations/windgap';
import { startEngine } from './engine';

const config = configFromEnvironment(process.env);
const path = doorbellPath(config);

if (await somebodyListens(path)) {
  console.error(`Another engine works on ${config.dataFolder}.`);
  process.exit(3);
}
if (existsSync(path)) rmSync(path);

// The engine writes all day; whoever answers a provider must get in between.
const windgap = await openWindgap(config, 'engine', { pauseBetweenWrites: 5 });
const engine = await startEngine(windgap);
// The engine posts work to itself (an answer makes webhooks due), without going through the socket.
windgap.doorbell = { ring: (work) => engine.ring(work), close: () => undefined };

const doorbell = createServer((socket) => {
  socket.on('error', () => undefined);
  createInterface({ input: socket }).on('line', (line) => engine.ring(line as Work));
});
doorbell.listen(path);
windgap.log.info({ data: config.dataFolder }, 'engine ready');

for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.once(signal, () => {
    windgap.log.info({ signal }, 'finishing what is in flight');
    doorbell.close();
    void engine
      .stop()
      .then(() => windgap.store.close())
      .finally(() => process.exit(0));
  });
}
