/**
 * The second way of a message: over which other channel it goes when the first does not deliver it, and whether that can
 * be done without the person getting it twice. What is not known is never taken for lost.
 */
import type { CauseCode } from './causes';
import type { MessageEventKind, MessageState } from './lifecycle';

export interface FallbackRule {
  id: string;
  /** The channel it goes over instead. */
  to: string;
  /** Of the recipient's number; null for all, and for people who have none. */
  countries: readonly string[] | null;
  what: FallbackScope;
  /** So long the first way has, milliseconds; null: until it has certainly failed. */
  after: number | null;
  /** A person said that twice is better than never. */
  twice: boolean;
}

export const FALLBACK_SCOPES = {
  all: 'everything',
  codes: 'verification codes',
  others: 'everything but verification codes',
} as const;
export type FallbackScope = keyof typeof FALLBACK_SCOPES;

/** The first rule that is for such a message. */
export function fallbackFor<Rule extends FallbackRule>(
  rules: readonly Rule[],
  { country, code }: { country: string | undefined; code: boolean },
): Rule | undefined {
  return rules.find(
    ({ countries, what }) =>
      (countries === null || (country !== undefined && countries.includes(country))) &&
      (what === 'all' || (what === 'codes') === code),
  );
}

/** What no other channel would change: the person's will, the words themselves, a moment that is over, our own limits. */
const OF_THE_MESSAGE: ReadonlySet<CauseCode> = new Set<CauseCode>([
  'opted-out',
  'no-longer-useful',
  'code-over',
  'content-refused',
  'dropped-by-hand',
  'limit-reached',
  'codes-unread',
  'rise-held',
  'may-only-reply',
  'values-missing',
]);

/** What is wrong with the address is as wrong over any channel that uses the same one. */
const OF_THE_ADDRESS: ReadonlySet<CauseCode> = new Set<CauseCode>([
  'address-malformed',
  'number-not-in-service',
  'mail-address-unknown',
  'number-costly',
]);

export interface FirstWay {
  state: MessageState;
  cause: CauseCode | null;
  events: readonly { kind: MessageEventKind /** Whether it was taken is not known. */; unknown?: boolean }[];
}

/** Whether it may be with the provider, or be there twice, without anything that says so. */
export function isInDoubt(events: FirstWay['events']): boolean {
  const has = (kind: MessageEventKind) => events.some((event) => event.kind === kind);
  const unknown = has('uncertain') || events.some((event) => event.unknown);
  if (!unknown) return false;
  const heardOf = (['accepted', 'sent', 'delivered', 'undelivered', 'read'] as const).some(has);
  // Sent again by hand: what is heard of one copy says nothing of the other.
  return !heardOf || has('requeued');
}

export type FallbackVerdict =
  /** It arrived: nothing more is to be done. */
  | { is: 'arrived' }
  /** The second way is taken now. */
  | { is: 'goes' }
  /** It is being handed over at this moment: to be asked again. */
  | { is: 'soon' }
  /** Not as long as it is not certain that the first way failed. */
  | { is: 'waits' }
  /** Never. */
  | { is: 'stays'; because: 'in-doubt' | 'of-the-message' | 'of-the-address' };

/** What to do about a message whose first way failed, or whose time on it is over. */
export function judgeFallback(
  { state, cause, events }: FirstWay,
  { twice, sameAddress }: { twice: boolean; sameAddress: boolean },
): FallbackVerdict {
  if (state === 'delivered' || state === 'read' || state === 'received') return { is: 'arrived' };
  if (state === 'sending') return { is: 'soon' };
  const doubt = isInDoubt(events);
  if (state === 'failed') {
    if (cause && OF_THE_MESSAGE.has(cause)) return { is: 'stays', because: 'of-the-message' };
    if (cause && OF_THE_ADDRESS.has(cause) && sameAddress) return { is: 'stays', because: 'of-the-address' };
    return doubt && !twice ? { is: 'stays', because: 'in-doubt' } : { is: 'goes' };
  }
  if (state === 'queued') return doubt && !twice ? { is: 'waits' } : { is: 'goes' };
  return twice ? { is: 'goes' } : { is: 'waits' };
}
