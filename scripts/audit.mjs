/**
 * Follows the chain of the audit in a database and says whether it holds: `npm run audit -- --data data`. It prints the
 * head; noted elsewhere and given again as `--head PLACE:DIGEST`, it finds an end that was cut off, too. Exit 0: it holds;
 * 1: it does not, with the entry; 2: it could not be read.
 */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { build } from 'esbuild';
import { bundleOf } from './bundle.mjs';
import { ROOT, say } from './lib.mjs';

const { values } = parseArgs({
  options: {
    data: { type: 'string', default: process.env.WINDGAP_DATA ?? 'data' },
    head: { type: 'string', multiple: true },
  },
});
const file = join(values.data, 'windgap.db');
if (!existsSync(file)) {
  say(`there is no ${file}; --data names the folder of an installation`);
  process.exit(2);
}
await build(bundleOf({ auditChain: 'src/core/audit/chain.ts' }));
const { verifyChain } = await import(join(ROOT, 'dist/auditChain.mjs'));
const { default: sqlite3 } = await import('sqlite3');
const database = new sqlite3.Database(file, sqlite3.OPEN_READONLY);
const rows = await new Promise((resolve, reject) => {
  database.all('SELECT * FROM audit_entries WHERE place IS NOT NULL ORDER BY place', (error, found) =>
    error ? reject(error) : resolve(found),
  );
}).catch((error) => {
  say(`the audit cannot be read: ${error.message}`);
  process.exit(2);
});
const noted = (values.head ?? []).map((head) => {
  const [place, digest = ''] = head.split(':');
  return { place: Number(place), digest };
});
const verdict = verifyChain(rows, noted);
if (verdict.holds) {
  const head = verdict.head ? `${verdict.head.place}:${verdict.head.digest}` : 'none';
  say(`the chain holds over ${verdict.entries} entries; head ${head}`);
  process.exit(0);
}
say(`the chain is broken at entry ${verdict.place} (${verdict.id || 'none'}): ${verdict.why}`);
process.exit(1);
