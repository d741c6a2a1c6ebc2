/**
 * The time of the simulated outside and of what is proven against it: the machine's, moved on by what stands in a
 * file beside the world's. It goes forward only, as time does.
 */
import { closeSync, existsSync, openSync, readFileSync, writeSync } from 'node:fs';

const DIGITS = 16;

let displacement = 0;
let file = '';
const waiting = new Set<{ dueAt: number; work: () => void; handle?: NodeJS.Timeout }>();

/** Goes on from where an earlier run of this world was; makes the file where there is none. */
export function openClock(path: string): void {
  file = path;
  if (existsSync(file)) displacement = Number(readFileSync(file, 'latin1'));
  else write();
}

/** Milliseconds by which the clock is ahead of the machine's. */
export function movedBy(): number {
  return displacement;
}

export function moveClock(ms: number): void {
  if (!(ms > 0)) throw new RangeError('The clock goes forward only.');
  displacement += Math.round(ms);
  write();
  for (const each of [...waiting].sort((a, b) => a.dueAt - b.dueAt)) arm(each);
}

/** Epoch milliseconds. */
export function now(): number {
  return Date.now() + displacement;
}

/** ISO 8601, as providers write it. */
export function stamp(): string {
  return new Date(now()).toISOString();
}

/** Does something when so many milliseconds have passed, or the clock was moved past that moment. */
export function after(ms: number, work: () => void): void {
  const each = { dueAt: now() + ms, work };
  waiting.add(each);
  arm(each);
}

function arm(each: { dueAt: number; work: () => void; handle?: NodeJS.Timeout }) {
  clearTimeout(each.handle);
  each.handle = setTimeout(
    () => {
      waiting.delete(each);
      each.work();
    },
    Math.max(0, each.dueAt - now()),
  ).unref();
}

/** In place, so that whoever has it open sees it; always as long, so that nobody reads half of it. */
function write() {
  const handle = openSync(file, existsSync(file) ? 'r+' : 'w');
  writeSync(handle, String(displacement).padStart(DIGITS, '0'), 0, 'latin1');
  closeSync(handle);
}
