/** Messages as people look for them: the log, trails and what can be done from one, traffic. Others come in here. */
export { type LogChoices, logChoices } from './logChoices';
export {
  exportMessages,
  getMessage,
  type ListedMessage,
  listMessages,
  type MessageFilter,
  messageRows,
} from './messageLog';
export { type FlowBucket, type FlowRow, type FlowSpan, getFlow } from './traffic';
export { getInboundRequest, getTrail, type TrailLeg } from './trail';
export { againFrom, type Beside, besideTheLast, trailFile } from './trailActions';
