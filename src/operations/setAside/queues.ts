/** Every queue of the engine: the only place that lists them. */
import { eventQueue } from '../apps/webhooks';
import { inboundQueue } from '../inbound';
import { fallbackQueue, sendQueue } from '../outbound';
import { runQueue } from '../runs';
import { reviewQueue } from '../templates';
import type { WorkQueue } from '../workQueue';

export const QUEUES: readonly WorkQueue[] = [inboundQueue, sendQueue, fallbackQueue, eventQueue, runQueue, reviewQueue];
