/**
 * Why somebody gets nothing of a broadcast. Each reason says what it is, what would change it, and where that is done, so
 * that a plan can be read as a list of things to do.
 */

/** Where a reason is dealt with. */
export type FixedAt = 'contact' | 'contacts' | 'channel' | 'account' | 'template' | 'broadcast';

interface Reason {
  /** After a number of people: “12 opted out”. */
  title: string;
  remedy: string;
  at: FixedAt;
}

const REASONS = {
  declined: {
    title: 'opted out',
    remedy: 'Only they can change that: an opt-in from them, entered at the contact.',
    at: 'contact',
  },
  'no-consent': {
    title: 'no consent recorded, and this is marketing',
    remedy: 'Enter at the contact what they agreed to and how, or make this a notice if it is one.',
    at: 'contact',
  },
  'no-address': {
    title: 'no address for the channel',
    remedy: 'Add an address to the contact, or a second channel to the broadcast.',
    at: 'contact',
  },
  'address-invalid': {
    title: 'the number is not valid',
    remedy: 'Correct the number at the contact or in the file.',
    at: 'contact',
  },
  'address-doubted': {
    title: 'the address may be somebody else’s by now',
    remedy: 'Say at the contact whose it is.',
    at: 'contact',
  },
  landline: {
    title: 'a landline',
    remedy: 'Add a mobile number to the contact.',
    at: 'contact',
  },
  'number-costly': {
    title: 'a number that costs many times a text',
    remedy: 'Allow the kind on the channel if it is meant.',
    at: 'channel',
  },
  duplicate: {
    title: 'the same address is in the audience twice',
    remedy: 'Nothing needs to be done: it gets one message. Merge the contacts if they are one person.',
    at: 'contacts',
  },
  'held-out': {
    title: 'on the list of those it does not go to',
    remedy: 'Take the exclusion out of the audience if they are meant.',
    at: 'broadcast',
  },
  'value-missing': {
    title: 'a merge field has no value',
    remedy: 'Fill the attribute or the column, or give the field a fallback.',
    at: 'broadcast',
  },
  'text-too-long': {
    title: 'the text becomes too long',
    remedy: 'Shorten the text, or the value that makes it so long.',
    at: 'broadcast',
  },
  'window-closed': {
    title: 'the reply window is closed',
    remedy: 'Send an approved template, or add a channel that has no window.',
    at: 'broadcast',
  },
  'template-not-approved': {
    title: 'the template is not approved in a language they read',
    remedy: 'Have the variant approved, or allow another language.',
    at: 'template',
  },
  'trial-unverified': {
    title: 'the account is on trial and the phone not verified',
    remedy: 'Verify the phone at the provider, or end the trial.',
    at: 'account',
  },
  'country-off': {
    title: 'the account does not send to the country',
    remedy: 'Have the country opened at the provider, or choose another channel.',
    at: 'account',
  },
  'destination-not-allowed': {
    title: 'the channel is not allowed to send to the country',
    remedy: 'Allow the country on the channel.',
    at: 'channel',
  },
  'registration-missing': {
    title: 'the country’s registration is missing',
    remedy: 'Register the sender or the campaign there.',
    at: 'account',
  },
  'sender-name-refused': {
    title: 'the country takes no sender names',
    remedy: 'Choose a channel with a number.',
    at: 'broadcast',
  },
  'sender-name-unregistered': {
    title: 'the sender name is not registered in the country',
    remedy: 'Register it there and note it on the channel.',
    at: 'channel',
  },
  'purpose-forbids': {
    title: 'the number’s purpose forbids it',
    remedy: 'Choose a channel for this purpose, or change the purpose of the number.',
    at: 'channel',
  },
  'channel-cannot-send': {
    title: 'the channel cannot send now',
    remedy: 'Switch the account on, renew its credential, or choose another channel.',
    at: 'account',
  },
  'cap-reached': {
    title: 'they had as many broadcasts as they may get',
    remedy: 'Wait, or change how many marketing messages a person may get.',
    at: 'broadcast',
  },
  'time-passed': {
    title: 'the time has passed where they are',
    remedy: 'Choose another time, or send it at once or a day later there.',
    at: 'broadcast',
  },
  'too-late': {
    title: 'it could only leave when it is of no use any more',
    remedy: 'Begin earlier, or give it longer.',
    at: 'broadcast',
  },
  refused: {
    title: 'it was refused when its turn came',
    remedy: 'The recipient says what it was.',
    at: 'contact',
  },
} as const satisfies Record<string, Reason>;

export type LeftOutCode = keyof typeof REASONS;
export const LEFT_OUT_CODES = Object.keys(REASONS) as LeftOutCode[];

export function leftOutReason(code: LeftOutCode): Reason {
  return REASONS[code];
}

/** Somebody who gets nothing, and why. */
export interface LeftOut {
  code: LeftOutCode;
  /** What in particular: the field, the country, the moment. */
  said?: string;
  /** Of the channel it is about, where the reason is one channel’s. */
  channelId?: string;
}
