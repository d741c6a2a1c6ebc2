/** Everything from nothing: install, build, demo data, stand-ins, Windgap. Ctrl-C ends all of it. */

import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { end, must, ROOT, requireFreePort, run, say, supervise, untilAnswers, windgapProcesses } from './lib.mjs';
import { ensureReady } from './ready.mjs';

await ensureReady();

const port = Number(process.env.PORT ?? 3000);
const bench = Number(process.env.WINDGAP_BENCH_PORT ?? 4300);
const data = process.env.WINDGAP_DATA ?? join(ROOT, 'data', 'demo');
const env = {
  WINDGAP_DATA: data,
  // Browsers keep passkeys for names, and not for addresses.
  WINDGAP_PUBLIC_URL: `http://localhost:${port}`,
  WINDGAP_ALLOW_PRIVATE: '1',
  WINDGAP_NAME_SERVERS: `127.0.0.1:${bench + 62}`,
  WINDGAP_BENCH_URL: `http://127.0.0.1:${bench}`,
  WINDGAP_BENCH_CLOCK: join(data, 'world.json.clock'),
  WINDGAP_LOG: process.env.WINDGAP_LOG ?? 'warn',
  PORT: String(port),
};
for (const taken of [
  port,
  ...[0, 10, 20, 30, 40, 50, 60, 61, 62, 70, 80, 90, 95, 100, 110].map((above) => bench + above),
])
  await requireFreePort(taken);

mkdirSync(data, { recursive: true });
const world = join(data, 'world.json');
must(
  'the demo world',
  run('node', ['dist/seed.mjs', 'world', world, String(bench)], { env: { ...process.env, ...env } }),
);

say('setting up Mossgate Waterways …');
const standins = spawn(process.execPath, ['dist/standins.mjs', world], {
  cwd: ROOT,
  stdio: ['ignore', 'ignore', 'inherit'],
});
await untilAnswers(env.WINDGAP_BENCH_URL);
const seeded = run('node', ['dist/seed.mjs', 'seed', world], { env: { ...process.env, ...env } });
await end(standins);
must('the demo data', seeded);

supervise([{ name: 'stand-ins', args: ['dist/standins.mjs', world], env: {} }, ...windgapProcesses(port, env)]);
await untilAnswers(`http://127.0.0.1:${port}/health`);
say(`ready at ${env.WINDGAP_PUBLIC_URL}`);
say('sign in as maren@mossgate.example with the password “towpath at low water”');
say(`Brackwater’s console: http://127.0.0.1:${bench + 10}/console   Lockbook: http://127.0.0.1:${bench + 20}`);
say('Ctrl-C ends everything.');
