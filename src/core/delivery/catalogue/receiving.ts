/** Causes on the way in. */
import type { Cause } from '../cause';

export const RECEIVING_CAUSES = {
  'signature-missing': {
    title: 'A request came without a signature',
    explain: () => 'The request did not carry the signature header that this provider always sends.',
    remedy:
      'If the provider signs, something on the way removes the header: ask whoever runs it. If not, switch signing on there. If it did not come from the provider, someone else has the address: replace it.',
    transient: false,
    breaks: 'inbound',
  },
  'signature-wrong': {
    title: 'A request’s signature does not match',
    explain: () =>
      'The signature was made with another secret than the one saved here, or the request was changed on the way.',
    remedy:
      'Save the provider’s present secret on the account page; what was refused can then be processed on the channel’s page. If it is saved already, something on the way changes requests: compare the raw request with what the provider says it sent.',
    transient: false,
    breaks: 'inbound',
  },
  'signature-stale': {
    title: 'A request was signed too long ago',
    explain: () => 'The time in the signature is further from this machine’s clock than the profile allows.',
    remedy: 'Check this machine’s clock; a repeat of an old request is refused on purpose.',
    transient: false,
    breaks: 'inbound',
  },
  'mailbox-unread': {
    title: 'The mailbox cannot be read',
    explain: (c) =>
      `What came into the mailbox is not fetched${c.said ? `: ${c.said}` : ''}. It stays there meanwhile.`,
    remedy: 'See whether the mail server can be reached over IMAP; what waits there is taken as soon as it can.',
    transient: true,
    breaks: 'inbound',
  },
  'inbound-method': {
    title: 'The provider uses the wrong method',
    explain: (c) => `The inbound URL was called with ${c.said ?? 'another method'}; it takes POST.`,
    remedy: 'Set the method of the inbound address to POST at the provider, or use “Set it for me”.',
    transient: false,
    breaks: 'inbound',
  },
  'inbound-too-large': {
    title: 'A request was larger than Windgap takes',
    explain: (c) => `The body was over the limit${c.said ? ` (${c.said})` : ''} and was not kept.`,
    remedy: 'Find out what the provider sends; media should come as links.',
    transient: false,
  },
  'inbound-unreadable': {
    title: 'A request could not be read',
    explain: (c) => `The body does not have the shape the connector profile describes${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Compare the stored body with the profile. After the profile is fixed it can be processed again.',
    transient: false,
    breaks: 'inbound',
  },
  'inbound-partly-unreadable': {
    title: 'A part of a post could not be read',
    explain: (c) => `What could be read was taken${c.said ? `; the rest was not: ${c.said}` : ''}.`,
    remedy: 'Say what an unlisted word means, or compare the stored body with the profile; then process it again.',
    transient: false,
  },
  'inbound-not-processed': {
    title: 'A request could not be processed',
    explain: (c) =>
      `Windgap itself failed at this request${c.said ? `: ${c.said}` : ''}. It was set aside; others go on.`,
    remedy: 'Press “Process again” on the page of the request. If it fails again, that page has what to report.',
    transient: false,
    breaks: 'inbound',
  },
  'challenge-wrong': {
    title: 'The platform used another verification word',
    explain: () => 'The platform tried to verify the inbound URL with a word that is not this channel’s.',
    remedy: 'Copy the verification word from the channel page into the platform’s console and verify again.',
    transient: false,
    breaks: 'inbound',
  },
  'arrived-on-another-number': {
    title: 'A text for another number came to this channel',
    explain: (c) => `The inbound URL of this channel was called for ${c.subject ?? 'another number'}.`,
    remedy: 'At the provider, give that number its own channel’s address and this number this one.',
    transient: false,
    breaks: 'inbound',
  },
  'chat-origin-refused': {
    title: 'A website that is not allowed tried to show the chat',
    explain: (c) =>
      `The snippet was loaded by ${c.subject ?? 'another website'}, which is not in the list of allowed ones.`,
    remedy: 'If it is one of yours, add it to the allowed websites of the chat; otherwise nothing needs doing.',
    transient: false,
  },
  'number-not-a-channel': {
    title: 'A text came for a number that is not here',
    explain: (c) => `The trunk brought a text for ${c.subject ?? 'a number'} that no channel has.`,
    remedy: 'Correct the number on the trunk, or add it and make it a channel.',
    transient: false,
  },
  'no-route': {
    title: 'No route matched the message',
    explain: () => 'No route matches this message, so no automation ran; it is on the shared desk.',
    remedy: 'Answer it from the desk. Add a route that matches, or a last one for everything.',
    transient: false,
  },
  'look-up-failed': {
    title: 'An app did not say what a route needed to know',
    explain: () =>
      'A connected app was asked how many records of this person are open and did not say, so neither “none” nor “several” could be told.',
    remedy:
      'See on the app’s page whether its records are still connected. Give the look-up that fails a route of its own.',
    transient: true,
  },
  'auto-reply-loop': {
    title: 'Answers were going back and forth by themselves',
    explain: (c) =>
      `${c.subject ?? 'This person'} was answered by a route again and again within minutes: most likely something on their side answers by itself too, so Windgap stopped answering.`,
    remedy:
      'Answer by hand if a person is there. Answers begin again ten minutes after the last one; a narrower keyword keeps the two apart.',
    transient: true,
  },
} satisfies Record<string, Cause>;
