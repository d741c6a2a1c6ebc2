/** Tries parsers on inputs nobody planned, in a thread that is ended when one input takes longer than it may. */
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import fc from 'fast-check';
import { casesOf } from './cases';
import { PARSERS, type Parser } from './parsers';

export interface Found {
  parser: string;
  what: 'hang' | 'throw' | 'thread ended';
  said: string;
  /** Where the input was kept. */
  file: string;
}

export interface Tried {
  parser: string;
  inputs: number;
  bytes: number;
  /** Milliseconds of the slowest, and its size. */
  slowest: { ms: number; bytes: number };
  /** Readings in a thread of their own that were ended. */
  givenUp: number;
}

export interface FuzzOptions {
  seed: number;
  /** Inputs of each parser in a round. */
  batch: number;
  /** Whether another round begins. */
  goOn(round: number): boolean;
  /** The bundle of `thread.ts`. */
  threadFile: string;
  /** Where inputs that were found are kept. */
  folder: string;
  /** How many times slower than usual this machine is. */
  slowness: number;
  corpus?: Readonly<Record<string, readonly Buffer[]>>;
  onFound?(found: Found): void;
}

export async function fuzz(options: FuzzOptions): Promise<{ tried: Tried[]; found: Found[] }> {
  const tried = new Map<string, Tried>();
  const found = new Map<string, Found>();
  let thread = await begin(options.threadFile);
  for (let round = 0; options.goOn(round); round++) {
    for (const parser of PARSERS) {
      if (round > 0 && !options.goOn(round)) break;
      const corpus = [...parser.corpus, ...(options.corpus?.[parser.name] ?? [])];
      const cases = fc.sample(casesOf(corpus), { numRuns: options.batch, seed: options.seed + round });
      // What was found once is tried each time.
      const inputs = round > 0 ? cases : [...(parser.found ?? []).map((text) => Buffer.from(text)), ...cases];
      for (let next = 0; next < inputs.length; ) {
        const outcome = await readAll(thread, parser, inputs.slice(next), options.slowness, (index, ms, threw) => {
          const input = inputs[next + index] as Buffer;
          note(tried, parser.name, input, ms);
          if (threw) keep(found, options, { parser: parser.name, what: 'throw', said: threw }, input);
        });
        if (outcome.what === 'done') break;
        const input = inputs[next + outcome.index] as Buffer;
        if (parser.apart) note(tried, parser.name, input, 0).givenUp += 1;
        else keep(found, options, { parser: parser.name, what: outcome.what, said: outcome.said }, input);
        await thread.terminate();
        thread = await begin(options.threadFile);
        next += outcome.index + 1;
      }
    }
  }
  await thread.terminate();
  return { tried: [...tried.values()], found: [...found.values()] };
}

function begin(file: string): Promise<Worker> {
  const worker = new Worker(file, { resourceLimits: { maxOldGenerationSizeMb: 512, stackSizeMb: 4 } });
  return new Promise((resolve, reject) => {
    worker.once('message', () => resolve(worker));
    worker.once('error', reject);
  });
}

type Outcome = { what: 'done' } | { what: 'hang' | 'thread ended'; index: number; said: string };

function readAll(
  thread: Worker,
  { name, limit = 1000 }: Parser,
  inputs: readonly Buffer[],
  slowness: number,
  onRead: (index: number, ms: number, threw?: string) => void,
): Promise<Outcome> {
  return new Promise((resolve) => {
    let at = 0;
    let timer: NodeJS.Timeout | undefined;
    const end = (outcome: Outcome) => {
      clearTimeout(timer);
      thread.removeAllListeners('message');
      thread.removeAllListeners('error');
      resolve(outcome);
    };
    thread.on('error', (error) => end({ what: 'thread ended', index: at, said: String(error) }));
    thread.on('message', (said: { kind: string; index: number; ms: number; threw?: string }) => {
      if (said.kind === 'begun') {
        at = said.index;
        clearTimeout(timer);
        const most = limit * slowness;
        timer = setTimeout(() => end({ what: 'hang', index: at, said: `over ${most} ms` }), most);
      } else if (said.kind === 'read') {
        clearTimeout(timer);
        onRead(said.index, said.ms, said.threw);
      } else end({ what: 'done' });
    });
    thread.postMessage({ parser: name, inputs });
  });
}

function note(tried: Map<string, Tried>, parser: string, input: Buffer, ms: number): Tried {
  const before = tried.get(parser) ?? { parser, inputs: 0, bytes: 0, slowest: { ms: 0, bytes: 0 }, givenUp: 0 };
  const slowest = ms > before.slowest.ms ? { ms, bytes: input.length } : before.slowest;
  const after = { ...before, inputs: before.inputs + 1, bytes: before.bytes + input.length, slowest };
  tried.set(parser, after);
  return after;
}

/** One of each kind: the first lines of what was said tell kinds apart. */
function keep(
  found: Map<string, Found>,
  { folder, onFound }: FuzzOptions,
  what: Omit<Found, 'file'>,
  input: Buffer,
): void {
  const key = `${what.parser} ${what.what} ${what.said.split('\n').slice(0, 3).join(' ').replace(/\d+/g, 'n').slice(0, 300)}`;
  if (found.has(key)) return;
  mkdirSync(folder, { recursive: true });
  const file = join(folder, `${createHash('sha256').update(input).digest('hex').slice(0, 12)}.bin`);
  writeFileSync(file, input);
  const entry = { ...what, file };
  found.set(key, entry);
  onFound?.(entry);
}
