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

let inOrder = monotonicFactory(fraction);
let latest = 0;
/** Ids of one process go on from its latest; one whose clock was further ahead than this, in milliseconds, was wrong. */
const AHEAD = 10_000;

function next(at: number): string {
  if (at < latest - AHEAD) {
    inOrder = monotonicFactory(fraction);
    latest = 0;
  }
  latest = Math.max(latest, at);
  return inOrder(at);
}

/** What an id is of; the prefix makes a pasted id recognisable. */
export type IdPrefix =
  | 'usr'
  | 'aud'
  | 'acc'
  | 'num'
  | 'chn'
  | 'cod'
  | 'ctr'
  | 'ses'
  | 'ent'
  | 'con'
  | 'ide'
  | 'idm'
  | 'cnv'
  | 'fbr'
  | 'mov'
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
  | 'bsc'
  | 'bct'
  | 'alr'
  | 'wwd';

/** A new id such as `msg_01J…`: the prefix, then a ULID of the clock's time, so that ids of one type sort by creation. */
export function newId(prefix: IdPrefix, at: number): string {
  return `${prefix}_${next(Math.round(at))}`;
}

/** An id that sorts at a time in the past, for what is written down afterwards. */
export function pastId(prefix: IdPrefix, at: number): string {
  return `${prefix}_${ulid(Math.round(at), fraction)}`;
}

/** The smallest id of a time: every id made at or after it is not smaller. */
export function timeId(prefix: IdPrefix, at: number): string {
  return `${prefix}_${encodeTime(Math.max(0, Math.round(at)), 10)}${'0'.repeat(16)}`;
}
