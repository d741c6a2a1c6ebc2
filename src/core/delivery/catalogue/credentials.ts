/** Causes around accounts: being let in. */
import { by, type Cause } from '../cause';

export const CREDENTIALS_CAUSES = {
  'answer-unread': {
    title: 'The answer has nothing that the profile looks for',
    explain: (c) =>
      `${by(c, 'The provider')} answered, and whether it accepts the credentials cannot be seen from that${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Compare the answer with the profile: the paths under “account” lead elsewhere, or the answer is an error.',
    transient: false,
    breaks: 'credential',
  },
  'credential-refused': {
    title: 'The provider does not accept the credentials',
    explain: (c) =>
      `Refused by ${by(c, 'the provider')}: the id and secret do not belong together or the secret has been replaced.`,
    remedy: 'Copy the secret again from the provider’s console and save it on the account page.',
    transient: false,
    breaks: 'credential',
  },
  'credential-id-unknown': {
    title: 'The provider does not know this id',
    explain: (c) => `Refused by ${by(c, 'the provider')}: no account has this id.`,
    remedy: 'Copy the account id again; look for a missing first or last character.',
    transient: false,
    breaks: 'credential',
  },
  'credential-secret-wrong': {
    title: 'The secret is wrong, the id is right',
    explain: (c) => `Refused by ${by(c, 'the provider')}: it knows the id but not this secret.`,
    remedy: 'Copy the secret again from the provider’s console; if it was shown only once, make a new one there.',
    transient: false,
    breaks: 'credential',
  },
  'credential-swapped': {
    title: 'Id and secret look swapped',
    explain: () => 'The value in the id field has the shape of a secret and the other way round.',
    remedy: 'Exchange the two values.',
    transient: false,
    breaks: 'credential',
  },
  'credential-expired': {
    title: 'The token has expired',
    explain: (c) => `Refused by ${by(c, 'the provider')}: the access token is past its end.`,
    remedy: 'Make a new token in the provider’s console and save it on the account page under “Replace credentials”.',
    transient: false,
    breaks: 'credential',
  },
  'credential-lacks-permission': {
    title: 'The token lacks a permission',
    explain: (c) => `Refused by ${by(c, 'the provider')}: the token may not do this${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Give the token the missing permission in the provider’s console; a new token may be needed.',
    transient: false,
    breaks: 'credential',
  },
  'account-disabled': {
    title: 'The account is switched off in Windgap',
    explain: (c) => `${by(c, 'The account')} was switched off here, so nothing is sent through it.`,
    remedy: 'Switch the account on again on its page.',
    transient: false,
    breaks: 'credential',
  },
  'trunk-bind-wrong': {
    title: 'The carrier does not allow this kind of bind',
    explain: (c) => `Refused by ${by(c, 'the carrier')}: this login may not do that on this bind.`,
    remedy:
      'Ask the carrier whether the login is a transceiver or a separate transmitter and receiver, and set the same on the account.',
    transient: false,
    breaks: 'credential',
  },
  'encryption-refused': {
    title: 'No encrypted connection could be agreed on',
    explain: (c) => `There is no encrypted connection to ${by(c, 'the provider')}${c.said ? `: ${c.said}` : ''}.`,
    remedy:
      'Compare host, port and encryption with what the provider published. Where it uses a certificate of its own, put that into the settings.',
    transient: false,
    breaks: 'credential',
  },
  'trunk-bound-elsewhere': {
    title: 'Somebody else is bound with this login',
    explain: (c) => `${by(c, 'The carrier')} says the system id is bound already.`,
    remedy: 'Stop the other system that uses this login, or ask the carrier for more binds. Windgap keeps trying.',
    transient: true,
  },
  'trunk-down': {
    title: 'The trunk is not bound',
    explain: (c) => `There is no bind to ${by(c, 'the carrier')} at the moment; the message waits.`,
    remedy: 'Look at the trunk’s bind state: Windgap reconnects by itself with growing delay.',
    transient: true,
  },
} satisfies Record<string, Cause>;
