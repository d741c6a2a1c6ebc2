/** Fits the shares of causes to one part of the recorded cases, scores them on the other, and writes them down. */
import { readFileSync, writeFileSync } from 'node:fs';
import { FITTED } from '../../src/core/diagnosis/shares';
import { asFactors, fitFactors, parted, type Score, score, written } from './fit';
import type { RecordedCase } from './record';

const CASES = 'tests/calibration/cases.json';
const TABLE = 'src/core/diagnosis/shares.ts';

const cases = JSON.parse(readFileSync(CASES, 'utf8')) as RecordedCase[];
const { fitted, scored } = parted(cases);
const table = written(fitFactors(fitted));
const none = new Map<string, number>();
const print = (words: string, { cases: n, loss, brier, said }: Score) =>
  console.log(
    `${words}: ${n} cases, loss ${loss.toFixed(3)}, Brier ${brier.toFixed(3)}; ${said
      .filter((bin) => bin.n > 0)
      .map((bin) => `said with ${bin.least} to ${Math.min(bin.most, 1)}: ${bin.right} of ${bin.n} right`)
      .join(', ')}`,
  );
print('fitted part, by hand', score(fitted, none));
print('fitted part, fitted ', score(fitted, asFactors(table)));
print('scored part, by hand', score(scored, none));
print('scored part, fitted ', score(scored, asFactors(table)));

const before = readFileSync(TABLE, 'utf8');
const head = before.slice(0, before.indexOf('export const FITTED'));
writeFileSync(
  TABLE,
  `${head}export const FITTED: Readonly<Record<string, Partial<Record<Symptom, number>>>> = ${JSON.stringify(table, null, 2)};\n`,
);
console.log(`${Object.keys(table).length} lines have factors; before ${Object.keys(FITTED).length}. Format the file.`);
