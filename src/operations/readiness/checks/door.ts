/** Whether a request through the public address comes back whole; what comes from outside all the same is the better witness. */
import type { CauseCode } from '../../../core/delivery/causes';
import type { DoorState } from '../../../core/door/door';
import type { ReadinessSubject } from '../../../core/readiness/readiness';
import { cameFromOutside, readDoor } from '../../door';
import { finding, type ReadinessCheck } from './check';

const CAUSES: Readonly<Record<Exclude<DoorState, 'open'>, CauseCode>> = {
  unreachable: 'door-unreachable',
  'answered-by-other': 'door-answered-by-other',
  'another-installation': 'door-another-installation',
  'header-lost': 'door-header-lost',
  'body-altered': 'door-body-altered',
};

const SUBJECT: ReadinessSubject = { kind: 'engine', id: 'door', name: 'The public address', href: '/connect/address' };
/** A server that starts anew is away for a moment. */
const TIMES = 2;

export const door: ReadinessCheck = {
  name: 'door',
  topics: ['door'],
  async examine({ ctx }) {
    const standing = await readDoor(ctx);
    if (!standing || standing.state === 'open' || standing.times < TIMES) return [];
    const { state, said, since } = standing;
    const outside = await cameFromOutside(ctx, since);
    const words = { subject: ctx.config.publicUrl, ...(said ? { said } : {}) };
    const found = finding(
      CAUSES[state],
      outside ? 'notice' : state === 'unreachable' ? 'attention' : 'error',
      SUBJECT,
      words,
      {
        since,
        affects: ['*'],
      },
    );
    return [
      outside
        ? {
            ...found,
            problem: `${found.problem} Providers’ posts have come in since, so the way from outside is open.`,
          }
        : found,
    ];
  },
};
