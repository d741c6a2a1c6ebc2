/** A thread that does one job, or reads one input piece by piece, and is then thrown away. */
import { once } from 'node:events';
import { parentPort } from 'node:worker_threads';
import { SheetError } from '../connectors/sheets/sheetFile';
import { JOBS, READERS, type Said, type Task } from './jobs';

/** So many pieces, or so many characters of them, are told at a time. */
const PIECES = 500;
const CHARACTERS = 1_000_000;

const port = parentPort;
if (!port) throw new Error('This runs as a thread');
const say = (said: Said) => port.postMessage(said);

port.once('message', (task: Task) => {
  work(task).catch((error: unknown) => {
    // What is wrong with the input is an answer; anything else ends the thread.
    if (error instanceof SheetError) return say({ kind: 'refused', reason: error.message });
    setImmediate(() => {
      throw error;
    });
  });
});
say({ kind: 'ready' });

async function work(task: Task): Promise<void> {
  if (task.kind === 'job') return say({ kind: 'answer', answer: await JOBS[task.name](task.input) });
  let pieces: unknown[] = [];
  let characters = 0;
  for await (const piece of READERS[task.name](task.input)) {
    pieces.push(piece);
    characters += lengthOf(piece);
    if (pieces.length < PIECES && characters < CHARACTERS) continue;
    say({ kind: 'pieces', pieces });
    pieces = [];
    characters = 0;
    // Nothing more is read before somebody wants it.
    await once(port as NonNullable<typeof port>, 'message');
  }
  say({ kind: 'pieces', pieces });
  say({ kind: 'end' });
}

function lengthOf(piece: unknown): number {
  return Array.isArray(piece)
    ? piece.reduce((sum, cell) => sum + String(cell).length, piece.length)
    : JSON.stringify(piece).length;
}
