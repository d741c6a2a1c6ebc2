/** The record that was read of a post, kept with it so that a page does not read it anew. */
import type { CauseCode } from '../delivery/causes';
import type { PostedRecord } from '../text/fields';
import { readPost } from './post';

interface StoredPost {
  record: PostedRecord | null;
  cause: CauseCode | null;
  headers: Readonly<Record<string, string>>;
  body: string;
}

/** The record of a post; undefined where it holds none. Posts from before records were kept are read here. */
export function recordIn(post: StoredPost): PostedRecord | undefined {
  if (post.record) return post.record;
  if (post.cause === 'hook-unreadable') return undefined;
  const read = readPost(post.headers['content-type'], post.body);
  return read.ok ? read.record : undefined;
}

/** The records of those posts that hold one, in the order given. */
export function recordsIn(posts: readonly StoredPost[]): PostedRecord[] {
  return posts.map(recordIn).filter((record) => record !== undefined);
}
