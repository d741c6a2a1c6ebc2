/** The shares of causes are those that the fitted part of the cases gives, and hold on the part that had no say in them. */
import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { FITTED } from '../../src/core/diagnosis/shares';
import { asFactors, type Factors, fitFactors, parted, rowsOf, score, written } from './fit';
import type { RecordedCase } from './record';

const cases = JSON.parse(readFileSync('tests/calibration/cases.json', 'utf8')) as RecordedCase[];
const { fitted, scored } = parted(cases);
const BY_HAND: Factors = new Map();

test('the table is what the fitted part comes to, and no case is in both parts', () => {
  expect(written(fitFactors(fitted))).toEqual(FITTED);
  const names = new Set(fitted.map(({ name }) => name));
  expect(scored.filter(({ name }) => names.has(name))).toEqual([]);
  expect(Math.abs(fitted.length - scored.length)).toBeLessThanOrEqual(1);
});

test('on the scored part it says what is right with more than the shares set by hand did', () => {
  const byHand = score(scored, BY_HAND);
  const now = score(scored, asFactors(FITTED));
  expect(now.cases).toBeGreaterThan(60);
  expect(now.loss).toBeLessThan(byHand.loss);
  expect(now.brier).toBeLessThanOrEqual(byHand.brier + 0.005);
});

test('of what is said with nine in ten on the scored part, nine in ten are right', () => {
  const sure = score(scored, asFactors(FITTED)).said.find(({ least }) => least === 0.9);
  expect(sure?.n).toBeGreaterThan(20);
  expect((sure?.right ?? 0) / (sure?.n ?? 1)).toBeGreaterThanOrEqual(0.9);
});

test('a cause that is behind what was seen more often than another gets more, and one never right gets less', () => {
  const one = fitted.find((each) => (rowsOf(each)?.filter(({ right }) => right).length ?? 0) === 1) as RecordedCase;
  const rows = rowsOf(one) ?? [];
  const right = rows.find((row) => row.right);
  const rival = rows.filter((row) => !row.right && row.group !== right?.group).sort((a, b) => b.log - a.log)[0];
  const factors = fitFactors(Array.from({ length: 30 }, () => one));
  expect(factors.get(right?.group ?? '') ?? 0).toBeGreaterThanOrEqual(0);
  expect(factors.get(rival?.group ?? '') ?? 0).toBeLessThanOrEqual(0);
});
