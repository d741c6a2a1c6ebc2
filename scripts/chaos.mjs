/** The tests that kill processes, with as many kills and as much under way as time allows. */
import { run, say } from './lib.mjs';
import { ensureReady } from './ready.mjs';

const KILLING = ['crashes', 'asks', 'burst', 'trunkLoad', 'deliveryCrowd', 'oneBadItem'];

await ensureReady();
process.env.WINDGAP_CHAOS = '1';
process.env.WINDGAP_SLOWNESS ??= '3';
const wanted = process.argv.length > 2 ? process.argv.slice(2) : KILLING.map((name) => `tests/${name}.test.ts`);
say(`killing at length: ${wanted.join(', ')}`);
process.exit(run('npx', ['--no-install', 'vitest', 'run', '-c', 'vitest.wires.config.ts', ...wanted]));
