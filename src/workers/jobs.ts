/** What is worked through apart: each takes plain data and answers plain data. */
import { type FeedReading, type FeedSpan, readFeed } from '../core/schedule/feed';

export const JOBS = {
  feed: ({ text, span }: { text: string; span: FeedSpan }): FeedReading => readFeed(text, span),
};

export type Jobs = typeof JOBS;
export type JobName = keyof Jobs;
