/** How much room the disk has on which the database stands, and what is shed first where it runs out. */
import { statfsSync } from 'node:fs';

const MB = 1024 * 1024;
/** Below it somebody is told, and what nobody vouches for is no longer kept. */
export const LOW_ROOM = 200 * MB;
/** Below it texts may fail to be stored. */
export const VERY_LOW_ROOM = 50 * MB;
const LOOKED_EVERY = 2000;

/** Bytes left; without end where it cannot be told. Looked up again after two seconds. */
export function createDiskRoom(folder: string, now: () => number): () => number {
  let looked = { at: Number.NEGATIVE_INFINITY, left: Number.POSITIVE_INFINITY };
  return () => {
    const at = now();
    if (at - looked.at >= LOOKED_EVERY || at < looked.at) looked = { at, left: roomOf(folder) };
    return looked.left;
  };
}

function roomOf(folder: string): number {
  try {
    const { bavail, bsize } = statfsSync(folder);
    return bavail * bsize;
  } catch {
    return Number.POSITIVE_INFINITY;
  }
}
