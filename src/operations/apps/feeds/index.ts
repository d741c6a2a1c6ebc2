/** Calendars that are read again and again, and the reminders made of them. Others come in here. */
export {
  addFeed,
  changeFeed,
  type FeedEventView,
  type FeedInput,
  type FeedView,
  listFeeds,
  switchFeed,
  syncNow,
} from './feeds';
export { createFeedReader, noteAnswers, recoverFeeds } from './syncFeeds';
