/** What a person agrees to or declines: being written to over one kind of channel. */
import type { ChannelKind } from '../connect/facts';

export const CONSENT_WAYS = ['text', 'chat', 'web'] as const;
export type ConsentWay = (typeof CONSENT_WAYS)[number];

export const WAY_WORDS: Record<ConsentWay, string> = { text: 'texts', chat: 'business chat', web: 'web chat' };

/** Whichever number or carrier a text comes from, it is a text. */
export function consentWay(kind: ChannelKind): ConsentWay {
  if (kind === 'business-chat') return 'chat';
  return kind === 'web-chat' ? 'web' : 'text';
}
