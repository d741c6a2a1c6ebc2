/** What a trial of a profile part looked for and did not find, each with its line: an empty reading is no success. */
import { readPost } from '../../connectors/http/inbound';
import { type Json, nodes } from '../../connectors/http/jsonPath';
import { foundNothing, parseJson } from '../../connectors/http/read';
import { lineOf } from '../../connectors/profile/readProfile';
import type { HttpProfile, Profile } from '../../connectors/profile/schema';

export interface NotFound {
  /** Of the profile’s text, from 1. */
  line: number;
  /** What it would have been read for, and where it was looked for. */
  name: string;
  path: string;
}

/** The parts of a profile that are read from an answer or a post. */
type ReadPart = 'account' | 'numbers' | 'search' | 'send' | 'inbound';

/** `body`: the answer of the provider, or what it posts. */
export function whatIsMissing(text: string, profile: Profile, part: ReadPart, body: string): NotFound[] {
  if (!('account' in profile)) return [];
  const answer = part === 'inbound' ? readPost(profile.inbound, body) : parseJson(body);
  if (answer === undefined) return [];
  return placesOf(profile, part).flatMap(({ at, each, read }): NotFound[] => {
    const entries = each === undefined ? [answer] : nodes(answer, each);
    if (each !== undefined && entries.length === 0)
      return [{ line: lineOf(text, [...at, 'each']), name: 'each', path: each }];
    // What one of several has not may be left out there; what none has is looked for in the wrong place.
    const missing = entries.map((entry) => foundNothing(entry as Json, read));
    const everywhere = (missing[0] ?? []).filter(({ name }) =>
      missing.every((each) => each.some((other) => other.name === name)),
    );
    return everywhere.map(({ name, path }) => ({ line: lineOf(text, [...at, ...placeOfRead(at, name)]), name, path }));
  });
}

interface ReadPlace {
  at: string[];
  each?: string;
  read: Readonly<Record<string, unknown>>;
}

const placeOfRead = (at: readonly string[], name: string) => (at[0] === 'inbound' ? [name] : ['read', name]);

function placesOf({ account, numbers, send, inbound }: HttpProfile, part: ReadPart): ReadPlace[] {
  if (part === 'account') return [{ at: ['account'], read: account.read }];
  if (part === 'send') return [{ at: ['send'], read: send.read }];
  if (part === 'numbers') return [{ at: ['numbers'], each: numbers.each, read: numbers.read }];
  if (part === 'search')
    return numbers.search ? [{ at: ['numbers', 'search'], each: numbers.search.each, read: numbers.search.read }] : [];
  // A post brings a text or a receipt: of what it does not bring nothing is missing.
  const kinds = (['texts', 'receipts', 'consents', 'reactions'] as const).flatMap((kind) => {
    const { each, ...read } = inbound[kind] ?? {};
    return each ? [{ at: ['inbound', kind], each, read }] : [];
  });
  return kinds;
}
