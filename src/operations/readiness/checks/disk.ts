/** Room on the disk on which the database stands. */
import type { Examined } from '../../../core/readiness/readiness';
import { type AppContext, LOW_ROOM, VERY_LOW_ROOM } from '../../context';
import { ENGINE, finding, type ReadinessCheck } from './check';

const MB = 1024 * 1024;

export const disk: ReadinessCheck = {
  name: 'disk',
  topics: [],
  examine: ({ ctx }) => examineDisk(ctx),
};

/** Looked at by whoever shows a page, too: an engine that cannot write cannot say so. */
export async function examineDisk({ diskRoom }: Pick<AppContext, 'diskRoom'>): Promise<Examined[]> {
  const left = diskRoom();
  if (left > LOW_ROOM) return [];
  const said = left < MB ? 'less than 1 MB' : `${Math.floor(left / MB)} MB`;
  return [finding('disk-low', left > VERY_LOW_ROOM ? 'attention' : 'error', ENGINE, { said }, { affects: ['*'] })];
}
