/** Causes of a refusal before a message is on its way. */
import { by, type Cause } from '../cause';

export const SENDING_CAUSES = {
  'mail-unsigned': {
    title: 'Mail leaves here unsigned',
    explain: (c) =>
      `${c.who ?? 'The account'} sends mail that nobody asked for one by one${c.said ? ` (${c.said})` : ''}, and it is not signed here. Whether the mail server signs it is not known; if it does not, large mail services may refuse it. Without a signature from here it carries no link by which people leave with one press.`,
    remedy: 'Make a key on the account’s page and publish its record at the domain.',
    transient: false,
  },
  'mail-record-wrong': {
    title: 'The record of the mail key is not right',
    explain: (c) =>
      `The record that receivers look for is not as it must be${c.said ? `: ${c.said}` : ''}. Until it is, mail leaves here unsigned.`,
    remedy: 'Publish the record exactly as the account’s page shows it, then look for it there.',
    transient: false,
  },
  'opted-out': {
    title: 'This person asked for no more messages',
    explain: (c) => `${c.subject ?? 'This person'} declined messages of this kind${c.said ? `: “${c.said}”` : ''}.`,
    remedy: 'Nothing may be sent until they say START or agree again; enter that on the contact with its evidence.',
    transient: false,
  },
  'sender-not-owned': {
    title: 'The account may not send from this number',
    explain: (c) =>
      `Refused by ${by(c, 'the provider')}: ${c.subject ?? 'the sender'} does not belong to this account.`,
    remedy: 'Choose a number the account owns, or move the number to this account at the provider.',
    transient: false,
    breaks: 'outbound',
  },
  'address-malformed': {
    title: 'The number is not one the provider can reach',
    explain: (c) => `Refused by ${by(c, 'the provider')}: ${c.subject ?? 'the recipient'} is not a valid number.`,
    remedy: 'Correct the number on the contact and send again.',
    transient: false,
  },
  'content-refused': {
    title: 'The provider does not take this text',
    explain: (c) => `Refused by ${by(c, 'the provider')} for its content.`,
    remedy: 'Read the provider’s reason in the response below and change the text.',
    transient: false,
  },
  'request-refused': {
    title: 'The provider refused it, for a reason Windgap does not know',
    explain: (c) =>
      `Refused by ${by(c, 'the provider')}${c.said ? `: “${c.said}”` : ''}. Its profile does not list this.`,
    remedy:
      'Ask the provider what its answer means, with the report of this message; then list the answer in the connector profile.',
    transient: false,
  },
  'answered-by-other': {
    title: 'Something other than the provider answered',
    explain: (c) =>
      `The answer is not one that ${by(c, 'the provider')} gives${c.said ? `: ${c.said}` : ''}. Something on the way answered in its place, such as a proxy, a firewall or a page to sign in.`,
    remedy:
      'Ask whoever runs the network between this server and the provider, with the report of this message. Windgap keeps trying.',
    transient: true,
    breaks: 'outbound',
  },
  throttled: {
    title: 'Sent faster than the provider allows',
    explain: (c) => `${by(c, 'The provider')} asked Windgap to slow down.`,
    remedy: 'Nothing now: Windgap waits and sends again. If it goes on, lower the channel’s pace.',
    transient: true,
  },
  'credit-gone': {
    title: 'The account has no credit left',
    explain: (c) => `Refused by ${by(c, 'the provider')}: the balance does not cover this message.`,
    remedy: 'Top up at the provider, then send again.',
    transient: false,
    breaks: 'outbound',
  },
  'provider-unreachable': {
    title: 'The provider could not be reached',
    explain: (c) => `No connection to ${by(c, 'the provider')}${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Windgap keeps trying. If it lasts, check the provider’s status page and the API address on the account.',
    transient: true,
  },
  'provider-timeout': {
    title: 'The provider did not answer in time',
    explain: (c) => `${by(c, 'The provider')} took the request but gave no answer before the time limit.`,
    remedy: 'Windgap keeps trying where a repeat is safe.',
    transient: true,
  },
  'provider-error': {
    title: 'The provider had a fault of its own',
    explain: (c) => `${by(c, 'The provider')} answered with a server error${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Windgap keeps trying. If it lasts, report the time and response below to the provider.',
    transient: true,
  },
  'gave-up': {
    title: 'Windgap stopped trying',
    explain: (c) => `Every attempt failed; the last because ${by(c, 'the provider')} ${c.said ?? 'did not answer'}.`,
    remedy: 'When the provider works again, send the message again.',
    transient: false,
  },
  'dropped-by-hand': {
    title: 'Somebody decided not to send it',
    explain: () => 'Windgap could not process this message; it was set aside, and a person dropped it.',
    remedy: 'Nothing, or send it again as a new message.',
    transient: false,
  },
  'sender-wrong-direction': {
    title: 'This sender cannot do that',
    explain: (c) => `${c.subject ?? 'The sender'} carries messages one way only.`,
    remedy: 'Use a number of your own that sends and receives.',
    transient: false,
  },
  'country-off': {
    title: 'The account may not send to this country',
    explain: (c) => `${by(c, 'The provider')} has ${c.subject ?? 'this country'} switched off for the account.`,
    remedy: 'Switch the country on in the provider’s console, then press “Check now” on the account.',
    transient: false,
  },
  'registration-missing': {
    title: 'This country demands a registration first',
    explain: (c) =>
      `${c.subject ?? 'The country'} takes messages from applications only after the brand and its use are registered and approved${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Register the brand and the campaign use on the account page and wait for approval.',
    transient: false,
  },
  'trial-unverified': {
    title: 'A trial account reaches verified phones only',
    explain: (c) =>
      `${by(c, 'The provider')} has the account on trial, and ${c.subject ?? 'this phone'} is not verified there.`,
    remedy: 'Verify the phone by code on the account page, or end the trial at the provider.',
    transient: false,
  },
  'window-closed': {
    title: 'The reply window is closed',
    explain: (c) =>
      `Free text is allowed only within the reply window after a contact’s last message${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Send an approved template, or wait until the contact writes.',
    transient: false,
  },
  'allowance-used': {
    title: 'The day’s allowance is used up',
    explain: (c) => `${by(c, 'The platform')} allows no more business-initiated conversations today.`,
    remedy: 'Wait until the allowance renews, or ask the platform for a higher level.',
    transient: true,
    renewsDaily: true,
  },
  'mode-development': {
    title: 'The platform has the connection in development mode',
    explain: (c) => `${by(c, 'The platform')} delivers only to and from its test people while in development mode.`,
    remedy: 'Switch the connection to live in the platform’s console.',
    transient: false,
    breaks: 'outbound',
  },
  'payment-missing': {
    title: 'No way to pay is set up',
    explain: (c) => `${by(c, 'The platform')} sends nothing that costs money until payment is set up.`,
    remedy: 'Set payment up in the platform’s console.',
    transient: false,
    breaks: 'outbound',
  },
  'trunk-alphabet': {
    title: 'The carrier reads another alphabet',
    explain: (c) => `What was sent as data_coding 0 is read in another alphabet${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Set the trunk’s default alphabet to the carrier’s.',
    transient: false,
    breaks: 'outbound',
  },
  'trunk-long-text-refused': {
    title: 'The carrier does not take long texts this way',
    explain: (c) => `Refused by ${by(c, 'the carrier')}: it does not support the way parts are marked.`,
    remedy: 'Change how the trunk sends long texts: by header, by sar parameters or as payload.',
    transient: false,
  },
  'partly-taken': {
    title: 'Only some parts of the text were taken',
    explain: (c) =>
      `${by(c, 'The carrier')} took some parts of the text and refused another${c.said ? ` (${c.said})` : ''}.`,
    remedy:
      'Send it again if the person needs the whole of it; parts that arrive without the others may show as fragments.',
    transient: false,
  },
  'carrier-unknown': {
    title: 'The recipient’s carrier is not known',
    explain: (c) =>
      `Mail to a phone needs the carrier of ${c.subject ?? 'the recipient'}, and the look-up gave none${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Enter the carrier on the contact, or add it to the table of gateways.',
    transient: false,
  },
  'gateway-unknown': {
    title: 'No mail gateway is known for this carrier',
    explain: (c) =>
      `${c.said ?? 'The carrier'} carries ${c.subject ?? 'the recipient'}, and where it takes mail for phones is not in the table of gateways.`,
    remedy: 'Add the carrier to the table of gateways on the channel’s page.',
    transient: false,
  },
  'sender-name-refused': {
    title: 'Networks there take no sender made of letters',
    explain: (c) =>
      `${c.said ?? 'The sender'} is a name, and networks in ${c.subject ?? 'this country'} do not carry it.`,
    remedy: 'Send to this country from a number, or from a short code of that country.',
    transient: false,
  },
  'sender-name-unregistered': {
    title: 'The name is not registered there',
    explain: (c) =>
      `Networks in ${c.subject ?? 'this country'} carry a sender name only once it is registered, and ${c.said ?? 'this one is not'}.`,
    remedy:
      'Have the carrier register it and note on the channel’s page that it is; until then send there from a number.',
    transient: false,
  },
  'purpose-forbids': {
    title: 'The number is for something else',
    explain: (c) => `${c.subject ?? 'The number'} is for ${c.said ?? 'something else'}.`,
    remedy: 'Send from a number that is for this, or change what the number is for on the page of numbers.',
    transient: false,
  },
  'number-taken': {
    title: 'The number is on the network in another way',
    explain: (c) =>
      `Refused by ${by(c, 'the platform')}: ${c.subject ?? 'the number'} is already used in another way there.`,
    remedy:
      'Delete the number’s account in the chat application on the phone and wait until the platform has released it.',
    transient: false,
    breaks: 'outbound',
  },
  'number-code-needed': {
    title: 'The number has not been proven by code',
    explain: (c) => `Refused by ${by(c, 'the platform')}: ${c.subject ?? 'the number'} must be proven by a code first.`,
    remedy: 'Ask for a code on the Numbers page and enter what arrives.',
    transient: false,
    breaks: 'outbound',
  },
  'code-wrong': {
    title: 'This is not the code',
    explain: (c) => `${by(c, 'The provider')} does not accept the code.`,
    remedy: 'Look at the message again, or ask for a new code.',
    transient: false,
  },
  'visitor-gone': {
    title: 'The visitor has left',
    explain: () => 'The visitor’s browser has not come back for it.',
    remedy: 'If the visitor left a phone number, answer by text.',
    transient: false,
  },
  'destination-not-allowed': {
    title: 'The channel does not text this country',
    explain: (c) =>
      `${by(c, 'The channel')} texts ${c.said ? `${c.said} only` : 'no country yet'}, and ${c.subject ?? 'this number'} is elsewhere.`,
    remedy: 'If you have people there, allow the country on the channel’s page under “Where it may text”.',
    transient: false,
  },
  'number-costly': {
    title: 'This number costs many times a text',
    explain: (c) =>
      `${c.subject ?? 'The recipient'} is ${c.said ?? 'a number of a costly kind'}; nothing is sent there.`,
    remedy: 'Ask for the person’s mobile number. If it is meant, allow the kind on the channel’s page.',
    transient: false,
  },
  'limit-reached': {
    title: 'A limit on sending is reached',
    explain: (c) => `No more than ${c.said ?? 'is allowed'}${c.subject ? `: reached for ${c.subject}` : ''}.`,
    remedy: 'Look at what sends so much. The limit is raised, or lifted for a while, under Send, Limits.',
    transient: true,
  },
  'codes-unread': {
    title: 'Codes to this place are confirmed by nobody',
    explain: (c) => `Of the latest codes to ${c.subject ?? 'this place'}, ${c.said ?? 'almost none'} were confirmed.`,
    remedy:
      'Somebody probably asks for codes to earn by the texts. Look at who asks; the stop is lifted under Send, Limits.',
    transient: true,
  },
  'code-over': {
    title: 'The code opened nothing any more',
    explain: () => 'The code had run out, or another took its place, before the text could leave.',
    remedy: 'Ask for a new code.',
    transient: false,
  },
  'rise-held': {
    title: 'An unusual rise is held',
    explain: (c) => `${c.said ?? 'Far more than usual'} to ${c.subject ?? 'one place'} by ${by(c, 'apps')}: held.`,
    remedy: 'Look at them under “Set aside”: process them again, or drop them and end what sends them.',
    transient: true,
  },
  'number-unconfirmed': {
    title: 'The visitor has not confirmed the phone they left',
    explain: (c) =>
      `${c.subject ?? 'A phone number'} was left in the chat, and the code that was texted to it not typed in.`,
    remedy:
      'They can still type it in the chat. Until then anybody may have left the number, and nothing is texted there.',
    transient: false,
  },
  'may-only-reply': {
    title: 'This person can reply, but not start conversations',
    explain: (c) => `${c.who ?? 'You'} may answer people who wrote, and ${c.subject ?? 'this contact'} never has.`,
    remedy: 'Ask an administrator to start it, or to give you the right under Settings, People.',
    transient: false,
  },
} satisfies Record<string, Cause>;
