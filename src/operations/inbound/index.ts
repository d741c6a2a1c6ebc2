/** A provider’s request, stored, read, and made into messages. Others come in here. */
export { createFileFetcher } from './fetchFiles';
export { inboundQueue, processInbound } from './inboundQueue';
export { refusedThatFit, reworkInbound, reworkRefused, wouldBeTakenNow } from './reprocessInbound';
export { createIntake, type Intake } from './storeRequests';
