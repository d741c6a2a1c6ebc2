/** Causes after the provider took a message, and what receipts tell. */
import { by, type Cause } from '../cause';

export const DELIVERY_CAUSES = {
  'handset-unreachable': {
    title: 'The handset was switched off or out of coverage',
    explain: () => 'The network kept the message for its whole lifetime and the handset never came back.',
    remedy: 'Send again later or reach the person in another way.',
    transient: true,
  },
  'number-not-in-service': {
    title: 'No handset has this number',
    explain: (c) => `The network says ${c.subject ?? 'the number'} is not in service.`,
    remedy: 'Ask the person for their present number and correct the contact.',
    transient: false,
  },
  'message-expired': {
    title: 'The message outlived its validity',
    explain: () => 'The network gave up before the handset could be reached.',
    remedy: 'Send again, or raise the validity period for messages that can wait.',
    transient: true,
  },
  'no-longer-useful': {
    title: 'Its last useful moment passed',
    explain: () => 'It was not handed over before the moment after which it was of no use, so it was not sent at all.',
    remedy: 'See on its trail what it waited for; send it again with a later moment if it still helps.',
    transient: false,
  },
  'taken-elsewhere': {
    title: 'It took too long here and went another way',
    explain: (c) =>
      `It was not handed over in the time it had on this channel${c.said ? `, and went over ${c.said}` : ', and went over another'}.`,
    remedy: 'See on its trail what it waited for here, and what became of it on its second way.',
    transient: false,
  },
  'first-way-arrived': {
    title: 'Not needed: the first one arrived after all',
    explain: () => 'The receipt of the first came before this one had left, so it was not sent.',
    remedy: 'Nothing is to be done; give the first way more time if this happens often.',
    transient: false,
  },
  'broadcast-cancelled': {
    title: 'Its broadcast was cancelled',
    explain: () => 'The broadcast was cancelled before this message had left.',
    remedy: 'Nothing is to be done; send it to them by hand if they need it.',
    transient: false,
  },
  'taken-back': {
    title: 'Kept back before it left',
    explain: () =>
      'When its turn came it was not to leave any more: its recipient opted out, or its broadcast was held.',
    remedy: 'Nothing is to be done; what was held goes on when the broadcast is resumed.',
    transient: true,
  },
  'undelivered-unknown': {
    title: 'The network gave no reason',
    explain: (c) =>
      `The receipt says the message failed${c.said ? ` with "${c.said}"` : ''}, which the connector profile does not explain.`,
    remedy: 'Look the code up at the provider and add it to the connector profile.',
    transient: false,
  },
  'outcome-unknown': {
    title: 'It is not known whether the provider took it',
    explain: () =>
      'Windgap was stopped after handing the message over and before it could note the answer, and this provider does not recognise repeats.',
    remedy:
      'A receipt will settle it. If none comes, look in the provider’s log, then choose “Send again” or “It arrived”.',
    transient: false,
  },
  'carrier-refused': {
    title: 'The carrier refused to pass it on',
    explain: (c) => `The network rejected the message${c.said ? ` with "${c.said}"` : ''}.`,
    remedy: 'Ask the carrier for the reason of this code, and add it to the connector profile.',
    transient: false,
  },
  'mail-bounced': {
    title: 'The mail came back',
    explain: (c) => `The mail was returned${c.said ? `: ${c.said}` : ''}.`,
    remedy:
      'Read what the server said. Where the mail was for a carrier’s gateway, the carrier on the contact is probably out of date: look it up again.',
    transient: false,
  },
  'mail-address-unknown': {
    title: 'There is no such mailbox',
    explain: (c) => `The mail was returned because nobody has this address${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Ask the person for their address over another channel and correct it on the contact.',
    transient: false,
  },
  'mailbox-full': {
    title: 'The mailbox is full',
    explain: (c) => `The mail was returned because the mailbox takes no more${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Write over another channel, or again when they have made room.',
    transient: false,
  },
  'receipts-not-coming': {
    title: 'It arrived, and its receipt did not come here',
    explain: (c) =>
      `No receipt has come${c.said ? `; asked now, ${by(c, 'the provider')} says “${c.said}”` : ''}. Its receipts do not find their way to this server.`,
    remedy:
      'Look at the requests the provider makes: whether it posts receipts at all, to which address, and what it is answered.',
    transient: false,
  },
  'receipt-id-base': {
    title: 'Receipts carry the message id in another base',
    explain: (c) => `The carrier’s receipts name ids that no message has${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Change the trunk’s setting for ids in receipts; those that came are then matched.',
    transient: false,
    breaks: 'receipt',
  },
} satisfies Record<string, Cause>;
