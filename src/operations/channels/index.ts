/** Channels, the inbound URLs they are reached at, the web chat, and the proof of one hop on purpose. Others come in here. */
export {
  type ChannelView,
  getChannel,
  handOverForMe,
  type InboundRequestSummary,
  listChannels,
  loadChannel,
  markHandedOver,
  openChannel,
  replaceInboundUrl,
  requirePace,
  setChannelPace,
} from './channels';
export {
  endMove,
  handOverOtherSide,
  makeTimedMoves,
  prepareMove,
  rehearseMove,
  swapSides,
  timeCutOver,
} from './moves/moveNumber';
export { type MoveView, moveChoices, movingChannels, readMove, type SideOfMove } from './moves/moveViews';
export {
  listNameRegistrations,
  NAME_REGISTRATION_WORDS,
  type NameRegistrationView,
  noteNameRegistration,
} from './nameRegistrations';
export { benchPhones, proveInbound } from './proveNow';
export { answerReserved, findReserved, type ReservedView, reserveAddress, reservedAddress } from './reservedAddresses';
export { type Chat, type ChatRefusal, createChat, openWebChat, saveWebChat, snippetFor } from './webChat';
export { type ChannelPeople, readChannelPeople } from './whoUses';
