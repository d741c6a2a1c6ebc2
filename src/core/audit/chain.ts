/**
 * The record of who did what, as a chain: each entry holds a digest over itself and the one before, so that what is changed,
 * taken out or put in between later is found. What names people is covered by a digest of its own under a salt: when it is
 * forgotten one day, with its salt, the chain still holds.
 */
import { createHash } from 'node:crypto';

/** What identifies somebody. `details` is the text of a JSON document. */
export interface PersonalPart {
  actor_name: string;
  summary: string;
  details: string | null;
}

export interface ChainedEntry {
  /** Counted from 1, without a gap. */
  place: number;
  id: string;
  /** Epoch milliseconds. */
  at: number;
  actor_kind: string;
  actor_id: string;
  action: string;
  subject_id: string;
  /** SHA-256 over salt and personal part, hexadecimal. */
  personal: string;
}

/** What the first entry follows. */
export const BEGINNING = '0'.repeat(64);

export function personalDigest(salt: string, { actor_name, summary, details }: PersonalPart): string {
  return sha256([salt, actor_name, summary, details]);
}

export function chainDigest(before: string, entry: ChainedEntry): string {
  const { place, id, at, actor_kind, actor_id, action, subject_id, personal } = entry;
  return sha256([before, place, id, at, actor_kind, actor_id, action, subject_id, personal]);
}

/** As it is stored; `salt` is null where the personal part was forgotten. */
export type StoredEntry = ChainedEntry & PersonalPart & { salt: string | null; digest: string };

export type ChainVerdict =
  | { holds: true; entries: number; head: { place: number; digest: string } | undefined }
  | { holds: false; place: number; id: string; why: string };

/**
 * Follows the chain from its beginning. `noted` are heads that were written down elsewhere at some time: they find what a
 * chain alone cannot, that its end was cut off or all of it made anew.
 */
export function verifyChain(
  entries: Iterable<StoredEntry>,
  noted: readonly { place: number; digest: string }[] = [],
): ChainVerdict {
  let before = BEGINNING;
  let place = 0;
  for (const entry of entries) {
    const broken = (why: string): ChainVerdict => ({ holds: false, place: entry.place, id: entry.id, why });
    place += 1;
    if (entry.place !== place)
      return broken(entry.place > place ? `entries are missing before it, from ${place} on` : 'it stands there twice');
    if (entry.salt !== null && personalDigest(entry.salt, entry) !== entry.personal)
      return broken('who did it, what was done or its details were changed');
    if (chainDigest(before, entry) !== entry.digest) return broken('it was changed, or the one before it was replaced');
    const known = noted.find((head) => head.place === place);
    if (known && known.digest !== entry.digest)
      return broken('it is another than the one that was noted for this place');
    before = entry.digest;
  }
  const cut = noted.find((head) => head.place > place);
  if (cut)
    return { holds: false, place: place + 1, id: '', why: `the end was cut off: ${cut.place} entries were noted` };
  return { holds: true, entries: place, head: place === 0 ? undefined : { place, digest: before } };
}

function sha256(parts: readonly (string | number | null)[]): string {
  return createHash('sha256').update(JSON.stringify(parts)).digest('hex');
}
