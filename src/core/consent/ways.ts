/** What a person agrees to or declines: being written to over one kind of channel. */
export const CONSENT_WAYS = ['text', 'chat', 'web', 'mail', 'platform'] as const;
export type ConsentWay = (typeof CONSENT_WAYS)[number];

export const WAY_WORDS: Record<ConsentWay, string> = {
  text: 'texts',
  chat: 'business chat',
  web: 'web chat',
  mail: 'e-mail',
  platform: 'chat platforms',
};
