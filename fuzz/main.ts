/** `npm run fuzz -- --minutes 10`: every parser of outside input on inputs nobody planned, and a list of what was found. */
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { fuzz } from './fuzz';
import { workbookSamples } from './workbooks';

const { values } = parseArgs({
  options: {
    minutes: { type: 'string', default: '10' },
    seed: { type: 'string' },
    slowness: { type: 'string', default: '1' },
  },
});
const seed = Number(values.seed ?? Math.floor(Math.random() * 2 ** 30));
const until = performance.now() + Number(values.minutes) * 60_000;
console.log(`${values.minutes} minutes with seed ${seed}`);

const { tried, found } = await fuzz({
  seed,
  batch: 200,
  goOn: () => performance.now() < until,
  threadFile: join(import.meta.dirname, 'fuzzThread.mjs'),
  folder: 'reports/fuzz',
  slowness: Number(values.slowness),
  corpus: { 'an XLSX file': await workbookSamples() },
  onFound: ({ parser, what, said, file }) => console.log(`FOUND ${what}: ${parser}: ${said.split('\n')[0]} (${file})`),
});

console.log('\nparser                                   inputs        kB   slowest ms (of bytes), given up');
for (const { parser, inputs, bytes, slowest, givenUp } of tried)
  console.log(
    `${parser.padEnd(38)} ${String(inputs).padStart(8)} ${String(Math.round(bytes / 1024)).padStart(9)} ${slowest.ms.toFixed(1).padStart(10)} (${slowest.bytes})${givenUp > 0 ? `, ${givenUp}` : ''}`,
  );
const inputs = tried.reduce((sum, each) => sum + each.inputs, 0);
const count = (what: string) => found.filter((each) => each.what === what).length;
console.log(
  `\n${inputs} inputs to ${tried.length} parsers: ${count('hang')} hangs, ${count('throw')} throws, ${count('thread ended')} threads ended`,
);
for (const { parser, what, said, file } of found) console.log(`\n${what} in ${parser} (${file})\n${said}`);
process.exit(found.length > 0 ? 1 : 0);
