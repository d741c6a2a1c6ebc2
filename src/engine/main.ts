/** The engine process. One at a time: whoever does not get the lock touches nothing. */
import { mkdirSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { createInterface } from 'node:readline';
import {
  configFromEnvironment,
  lockEngine,
  openAppContext,
  outliveTheLog,
  type Work,
  wakeUpPath,
} from '../operations/context';
import { startEngine } from './engine';

outliveTheLog();
const config = configFromEnvironment(process.env);
mkdirSync(config.dataFolder, { recursive: true, mode: 0o700 });
const lock = await lockEngine(config);
if (!lock) {
  console.error(`Another engine works on ${config.dataFolder}.`);
  process.exit(3);
}

// The engine writes all day; whoever answers a provider must get in between.
const windgap = await openAppContext(config, 'engine', { pauseBetweenWrites: 5 });
const engine = await startEngine(windgap).catch((error: Error) => {
  windgap.log.fatal({ err: error }, error.message);
  process.exit(1);
});
// The engine posts work to itself (an answer makes webhooks due), without going through the socket.
windgap.engineWakeUp = { ring: (work) => engine.ring(work), close: () => undefined };

const engineWakeUp = createServer((socket) => {
  socket.on('error', () => undefined);
  createInterface({ input: socket }).on('line', (line) => engine.ring(line as Work));
});
// One that is there was left by an engine that was killed: the lock is ours.
rmSync(wakeUpPath(config), { force: true });
engineWakeUp.listen(wakeUpPath(config));
windgap.log.info({ data: config.dataFolder }, 'engine ready');

for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.once(signal, () => {
    windgap.log.info({ signal }, 'finishing what is in flight');
    engineWakeUp.close();
    void engine
      .stop()
      .then(() => windgap.store.close())
      .then(() => lock.release())
      .finally(() => process.exit(0));
  });
}
