import type { RecordWay } from '../../../../../core/records/recordType';

export const WAY_WORDS: Record<RecordWay, (what: string) => string> = {
  upsert: (what) => `Find the sender’s ${what} and change it, or make one`,
  create: (what) => `Make a ${what} for each message`,
  'create-if-none': (what) => `Make a ${what}, unless the sender has an open one`,
};
