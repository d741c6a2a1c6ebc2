import { randomFillSync } from 'node:crypto';
import { encodeTime, monotonicFactory, ulid } from 'ulid';

/** Random fractions from a pool: asking the system for each single character of each id is what ids would cost most. */
const pool = new Uint8Array(8192);
let used = pool.length;

function fraction(): number {
  if (used === pool.length) {
    randomFillSync(pool);
    used = 0;
  }
  return (pool[used++] ?? 0) / 256;
}

const next = monotonicFactory(fraction);

/** What an id is of; the prefix makes a pasted id recognisable. */
export type IdPrefix =
  | 'usr'
  | 'aud'
  | 'acc'
  | 'num'
  | 'chn'
  | 'con'
  | 'cnv'
  | 'msg'
  | 'inb'
  | 'exc'
  | 'app'
  | 'key'
  | 'sub'
  | 'dlv'
  | 'evt'
  | 'rte'
  | 'vis'
  | 'hok'
  | 'pst'
  | 'run'
  | 'rec'
  | 'sht'
  | 'fed'
  | 'pho'
  | 'cll'
  | 'tpl'
  | 'tpv'
  | 'fil'
  | 'cns'
  | 'adn'
  | 'imp'
  | 'mrg'
  | 'not'
  | 'rpl'
  | 'tdo'
  | 'hrs'
  | 'lgv'
  | 'dtt'
  | 'dtr'
  | 'drl'
  | 'bsc';

/** A new id such as `msg_01J…`: the prefix, then a ULID, so that ids of one type sort by creation. */
export function newId(prefix: IdPrefix, at?: number): string {
  return `${prefix}_${next(at)}`;
}

/** An id that sorts at a time in the past, for what is written down afterwards. */
export function pastId(prefix: IdPrefix, at: number): string {
  return `${prefix}_${ulid(Math.round(at), fraction)}`;
}

/** The smallest id of a time: every id made at or after it is not smaller. */
export function timeId(prefix: IdPrefix, at: number): string {
  return `${prefix}_${encodeTime(Math.max(0, Math.round(at)), 10)}${'0'.repeat(16)}`;
}
