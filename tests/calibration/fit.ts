/** Fits how often causes are behind symptoms to cases that happened, and scores shares on cases that had no part in it. */
import { likelihoods } from '../../src/core/diagnosis/diagnose';
import { FITTED } from '../../src/core/diagnosis/shares';
import type { Symptom } from '../../src/core/diagnosis/symptoms';
import { isUnlisted } from '../../src/core/diagnosis/unlisted';
import type { RecordedCase } from './record';

/** One possible cause of one case. */
interface Row {
  /** Line and symptom: what is fitted together. */
  group: string;
  code: string;
  right: boolean;
  /** Logarithm of how often it is so by itself, as set by hand, times what the evidence says. */
  log: number;
}

/** By line and symptom, the logarithm of the factor. */
export type Factors = ReadonlyMap<string, number>;

const groupOf = (line: string, symptom: Symptom) => `${line} ${symptom}`;

/** Undefined where nothing is wrong, or no cause that can be named or placed is right. */
export function rowsOf({ symptom, causes, where, evidence }: RecordedCase): Row[] | undefined {
  const all = likelihoods(symptom, evidence);
  const named = all.some(({ code }) => causes.includes(code));
  const rows = all.map(({ code, line, between, prior, factor }): Row => {
    const place = between ? `${between[0]}>${between[1]}` : '';
    return {
      group: groupOf(line, symptom),
      code,
      // Where no listed cause is right, what nobody listed at that place is.
      right: named ? causes.includes(code) : isUnlisted(code) && where.includes(place),
      log: Math.log((prior * factor) / (FITTED[line]?.[symptom] ?? 1)),
    };
  });
  return rows.some(({ right }) => right) ? rows : undefined;
}

/** Every other one by name: two that are alike are mostly named alike, and come into both parts. */
export function parted(cases: readonly RecordedCase[]): { fitted: RecordedCase[]; scored: RecordedCase[] } {
  const ordered = [...cases].sort((a, b) => (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
  return { fitted: ordered.filter((_, n) => n % 2 === 0), scored: ordered.filter((_, n) => n % 2 === 1) };
}

/** How strongly a factor is held to 1: few cases move it little. */
const HELD = 0.7;
const ROUNDS = 1500;
const STEP = 0.05;

/** Maximum a posteriori by gradient ascent: factors are log-normal around 1. */
export function fitFactors(cases: readonly RecordedCase[]): Factors {
  const data = cases.flatMap((each) => {
    const rows = rowsOf(each);
    return rows ? [rows] : [];
  });
  const factors = new Map<string, number>();
  for (let round = 0; round < ROUNDS; round++) {
    const gradient = new Map<string, number>();
    for (const rows of data) {
      const shares = sharesOf(rows, factors);
      const right = rows.reduce((sum, row, n) => sum + (row.right ? (shares[n] as number) : 0), 0);
      rows.forEach((row, n) => {
        const share = shares[n] as number;
        const pull = (row.right ? share / right : 0) - share;
        gradient.set(row.group, (gradient.get(row.group) ?? 0) + pull);
      });
    }
    for (const [group, pull] of gradient) {
      const now = factors.get(group) ?? 0;
      factors.set(group, now + STEP * (pull - HELD * now));
    }
  }
  return factors;
}

function sharesOf(rows: readonly Row[], factors: Factors): number[] {
  const logs = rows.map(({ group, log }) => log + (factors.get(group) ?? 0));
  const most = Math.max(...logs);
  const weights = logs.map((log) => Math.exp(log - most));
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  return weights.map((weight) => weight / total);
}

export interface Score {
  cases: number;
  /** Mean of −log of the share of what is right; less is better. */
  loss: number;
  /** Mean of the squares of share less truth, over all causes; less is better. */
  brier: number;
  /** Of the likeliest causes said with at least so much: how many, and how many of them right. */
  said: { least: number; most: number; n: number; right: number }[];
}

const BINS = [0, 0.5, 0.7, 0.9, 1.01];

export function score(cases: readonly RecordedCase[], factors: Factors): Score {
  const said = BINS.slice(1).map((most, n) => ({ least: BINS[n] as number, most, n: 0, right: 0 }));
  let loss = 0;
  let brier = 0;
  let counted = 0;
  for (const each of cases) {
    const rows = rowsOf(each);
    if (!rows) continue;
    const shares = sharesOf(rows, factors);
    const right = rows.reduce((sum, row, n) => sum + (row.right ? (shares[n] as number) : 0), 0);
    counted += 1;
    loss -= Math.log(Math.max(right, 1e-9));
    brier += (1 - right) ** 2 + rows.reduce((sum, row, n) => sum + (row.right ? 0 : (shares[n] as number) ** 2), 0);
    const top = shares.indexOf(Math.max(...shares));
    const bin = said.find(({ least, most }) => (shares[top] as number) >= least && (shares[top] as number) < most);
    if (bin) {
      bin.n += 1;
      if (rows[top]?.right) bin.right += 1;
    }
  }
  return { cases: counted, loss: loss / counted, brier: brier / counted, said };
}

/** So few cases make nothing more than three times as likely, or less: what they hold is not what the world does. */
const MOST = 3;

/** As they are written down: two digits, and none that hardly differs from 1. */
export function written(factors: Factors): Record<string, Record<string, number>> {
  const table: Record<string, Record<string, number>> = {};
  for (const [group, log] of [...factors].sort(([a], [b]) => (a < b ? -1 : 1))) {
    const factor = Number(Math.min(Math.max(Math.exp(log), 1 / MOST), MOST).toPrecision(2));
    if (Math.abs(factor - 1) < 0.05) continue;
    const place = group.lastIndexOf(' ');
    const line = group.slice(0, place);
    table[line] = { ...table[line], [group.slice(place + 1)]: factor };
  }
  return table;
}

/** What is written down, as factors again. */
export function asFactors(table: Readonly<Record<string, Partial<Record<string, number>>>>): Factors {
  return new Map(
    Object.entries(table).flatMap(([line, bySymptom]) =>
      Object.entries(bySymptom).map(([symptom, factor]): [string, number] => [
        `${line} ${symptom}`,
        Math.log(factor ?? 1),
      ]),
    ),
  );
}
