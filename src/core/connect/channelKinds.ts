/** The kinds of channels there are, each described once: whatever depends on the kind of a channel is asked here. */
import type { ConsentWay } from '../consent/ways';
import type { IdentityKind } from '../identities/identityKinds';

interface KindOfChannel {
  name: string;
  /** What a person is known by on it. */
  identity: IdentityKind;
  /** What a person opts in to or out of with it. */
  consent: ConsentWay;
  /** Windgap is its own provider: no account is asked, nothing is handed over, no number is listed, no phone is tried. */
  hosted: boolean;
  /** Carries plain texts to any phone, so it can stand in where another channel may not write. */
  reachesAnyPhone: boolean;
  /** Whether the provider has to be given an address to call. */
  handsOverAddress: boolean;
  /** Said in the place of the receipt, where none can come. */
  noReceipts?: string;
  /** There are several platforms of the kind, and what people agree to on one says nothing of another. */
  platforms?: boolean;
  /** What a message goes through after the provider, and where people read it. */
  ends: { between: string; theirs: string };
  /** What is written over it has a subject. */
  subjects?: boolean;
  /** How a handset on the bench writes to it; absent where none can. */
  handset?: 'text' | 'chat' | 'mail' | 'talk';
  /** What passes each way, in words: what Windgap calls the provider for, and what it is called for. */
  calls: { out: string; back: string };
  /** What somebody is told to do with a phone of their own: “Text …”. */
  writeTo: string;
}

const PHONES = { between: 'Network', theirs: 'Handset' };

const KINDS = {
  'sms-http': {
    name: 'SMS over HTTP',
    ends: PHONES,
    identity: 'phone',
    consent: 'text',
    hosted: false,
    reachesAnyPhone: true,
    handsOverAddress: true,
    handset: 'text',
    calls: { out: 'texts to send', back: 'texts and receipts' },
    writeTo: 'Text',
  },
  'sms-trunk': {
    name: 'SMS trunk',
    ends: PHONES,
    identity: 'phone',
    consent: 'text',
    hosted: false,
    reachesAnyPhone: true,
    handsOverAddress: false,
    handset: 'text',
    calls: { out: 'one bind: texts to send', back: 'the same bind: texts and receipts' },
    writeTo: 'Text',
  },
  'business-chat': {
    name: 'Business chat',
    ends: PHONES,
    identity: 'phone',
    consent: 'chat',
    platforms: true,
    hosted: false,
    reachesAnyPhone: false,
    handsOverAddress: true,
    handset: 'chat',
    calls: { out: 'messages to send', back: 'messages and progress' },
    writeTo: 'Write to',
  },
  'web-chat': {
    name: 'Web chat',
    ends: { between: 'Website', theirs: 'Their browser' },
    identity: 'visitor',
    consent: 'web',
    hosted: true,
    reachesAnyPhone: false,
    handsOverAddress: false,
    calls: { out: 'answers', back: 'visitors’ words' },
    writeTo: 'Write to',
  },
  'email-gateway': {
    name: 'E-mail gateway',
    noReceipts: 'Mail gateways give no receipts: a text counts as sent unless its mail comes back.',
    ends: PHONES,
    identity: 'phone',
    consent: 'text',
    hosted: false,
    reachesAnyPhone: false,
    handsOverAddress: true,
    handset: 'mail',
    calls: { out: 'mail, look-ups', back: 'answers and returned mail' },
    writeTo: 'Text',
  },
  'platform-chat': {
    name: 'Chat platform',
    ends: { between: 'Platform', theirs: 'Their chat' },
    identity: 'handle',
    consent: 'platform',
    platforms: true,
    hosted: false,
    reachesAnyPhone: false,
    handsOverAddress: true,
    handset: 'talk',
    calls: { out: 'messages to send', back: 'messages and progress' },
    writeTo: 'Write to',
  },
  mailbox: {
    name: 'E-mail',
    ends: { between: 'Mail systems', theirs: 'Their mailbox' },
    identity: 'mail',
    subjects: true,
    noReceipts: 'This mail server reports no deliveries: a mail counts as sent unless it comes back.',
    consent: 'mail',
    hosted: false,
    reachesAnyPhone: false,
    handsOverAddress: true,
    handset: 'mail',
    calls: { out: 'mail', back: 'answers and returned mail' },
    writeTo: 'Write a mail to',
  },
} as const satisfies Record<string, KindOfChannel>;

export type ChannelKind = keyof typeof KINDS;
export const CHANNEL_KINDS = Object.keys(KINDS) as [ChannelKind, ...ChannelKind[]];

export function channelKind(kind: ChannelKind): KindOfChannel {
  return KINDS[kind];
}

/** Kinds in which Windgap is its own provider. Their accounts have the kind as connector. */
export const HOSTED_KINDS: readonly ChannelKind[] = CHANNEL_KINDS.filter((kind) => channelKind(kind).hosted);
