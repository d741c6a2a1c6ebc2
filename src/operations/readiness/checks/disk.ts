/** Room on the disk on which the database stands. */
import { statfs } from 'node:fs/promises';
import type { Examined } from '../../../core/readiness/readiness';
import type { AppContext } from '../../context';
import { ENGINE, finding, type ReadinessCheck } from './check';

const MB = 1024 * 1024;
const LOW = 200 * MB;
const VERY_LOW = 50 * MB;

export const disk: ReadinessCheck = {
  name: 'disk',
  topics: [],
  examine: ({ ctx }) => examineDisk(ctx),
};

/** Looked at by whoever shows a page, too: an engine that cannot write cannot say so. */
export async function examineDisk({ config }: Pick<AppContext, 'config'>): Promise<Examined[]> {
  // Where it cannot be told nothing is said.
  const room = await statfs(config.dataFolder).catch(() => undefined);
  const left = room ? room.bavail * room.bsize : Number.POSITIVE_INFINITY;
  if (left > LOW) return [];
  const said = left < MB ? 'less than 1 MB' : `${Math.floor(left / MB)} MB`;
  return [finding('disk-low', left > VERY_LOW ? 'attention' : 'error', ENGINE, { said }, { affects: ['*'] })];
}
