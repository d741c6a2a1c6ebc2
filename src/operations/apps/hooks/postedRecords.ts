/** The record that was read of a post, kept with it so that a page does not read it anew. */
import { readPost } from '../../../core/hooks/post';
import type { PostedRecord } from '../../../core/text/fields';
import type { HookPostRow } from '../../../store/schema/rows';

type Post = Pick<HookPostRow, 'record' | 'cause' | 'headers' | 'body'>;

/** The record of a post; undefined where it holds none. Posts from before records were kept are read here. */
export function recordIn(post: Post): PostedRecord | undefined {
  if (post.record) return post.record;
  if (post.cause === 'hook-unreadable') return undefined;
  const read = readPost(post.headers['content-type'], post.body);
  return read.ok ? read.record : undefined;
}

/** The records of those posts that hold one, in the order given. */
export function recordsIn(posts: readonly Post[]): PostedRecord[] {
  return posts.map(recordIn).filter((record) => record !== undefined);
}
