/** Causes between Windgap and business applications. */
import { by, type Cause } from '../cause';

export const APPS_CAUSES = {
  'app-unreachable': {
    title: 'The app could not be reached',
    explain: (c) => `No connection to ${by(c, 'the app')}${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Check that the app is running and that the address of the subscription is right. Windgap keeps trying.',
    transient: true,
    breaks: 'call-out',
  },
  'app-timeout': {
    title: 'The app did not answer in time',
    explain: (c) => `${by(c, 'The app')} gave no answer before the time limit.`,
    remedy: 'An app should answer 2xx first and work afterwards. Windgap keeps trying.',
    transient: true,
    breaks: 'call-out',
  },
  'app-error': {
    title: 'The app answered with an error',
    explain: (c) => `${by(c, 'The app')} answered ${c.said ?? 'with an error'}.`,
    remedy: 'Look at the response below with the people who run the app. Windgap keeps trying.',
    transient: true,
    breaks: 'call-out',
  },
  'app-refused': {
    title: 'The app refused the event, for a reason Windgap does not know',
    explain: (c) => `${by(c, 'The app')} answered ${c.said ?? 'with a refusal'}.`,
    remedy:
      'Ask the people who run the app, or what stands before it, why it gave this answer, with the report. Windgap keeps trying.',
    transient: true,
    breaks: 'call-out',
  },
  'app-signature-refused': {
    title: 'The app does not accept our signature',
    explain: (c) =>
      `${by(c, 'The app')} answered ${c.said ?? '401'} and named the signature: its copy of the signing secret is probably not the present one.`,
    remedy: 'Copy the subscription’s secret into the app again.',
    transient: true,
    breaks: 'call-out',
  },
  'app-answers-page': {
    title: 'The app answered with a web page',
    explain: (c) =>
      `${by(c, 'The app')} answered ${c.said ?? '200'} with a page for people, such as one to sign in: the event was not taken.`,
    remedy:
      'Give the address that takes webhooks, and let it be called without signing in; the signature proves who calls.',
    transient: true,
    breaks: 'call-out',
  },
  'app-redirects': {
    title: 'The app sends webhooks on to another address',
    explain: (c) =>
      `${by(c, 'The app')} answered ${c.said ?? 'with a redirect'}. Windgap does not follow: the signed event stays with whom it was meant for.`,
    remedy: 'Enter the address it leads to, often the same with https or with a slash at the end.',
    transient: true,
    breaks: 'call-out',
  },
  'app-address-unknown': {
    title: 'The app has nothing at this address',
    explain: (c) => `${by(c, 'The app')} answered ${c.said ?? '404'}: its server is there, the path is not.`,
    remedy: 'Compare the path letter by letter with the one the app shows, and change the subscription’s address.',
    transient: true,
    breaks: 'call-out',
  },
  'app-clock-off': {
    title: 'The app’s clock is more than five minutes off',
    explain: (c) =>
      `${by(c, 'The app')} answered ${c.said ?? '401'}, and its clock and ours differ by more than the five minutes a signature lives.`,
    remedy: 'Set the clock of the app’s server by a time server; nothing is wrong with the secret.',
    transient: true,
    breaks: 'call-out',
  },
  'app-gone': {
    title: 'The app wants no more events',
    explain: (c) => `${by(c, 'The app')} answered ${c.said ?? '410'}: it has closed this address for good.`,
    remedy: 'Ask its people for the new address, change it here and resume. Nothing is lost meanwhile.',
    transient: true,
    breaks: 'call-out',
  },
  'key-expired': {
    title: 'The app calls with an API key that has expired',
    explain: (c) => `${by(c, 'The app')} was answered 401: the time of its key is over.`,
    remedy: 'Make a key for the app and put it in place of the old one. Nothing it sends arrives until then.',
    transient: false,
    breaks: 'call-in',
  },
  'key-revoked': {
    title: 'The app calls with an API key that was revoked',
    explain: (c) => `${by(c, 'The app')} was answered 401: its key was revoked here.`,
    remedy: 'If the app is to go on, make it a key; if not, let its people take the old one out.',
    transient: false,
    breaks: 'call-in',
  },
  'call-refused': {
    title: 'A call of the app was refused by Windgap',
    explain: (c) => `${by(c, 'The app')} was answered ${c.said ?? 'with a refusal'}. Nothing was sent for it.`,
    remedy: 'Give the answer, which says what is wrong, to the people who run the app; the call is kept with it.',
    transient: false,
  },
  'call-key-unknown': {
    title: 'Somebody calls with a key that Windgap does not know',
    explain: (c) =>
      `Calls${c.subject ? ` from ${c.subject}` : ''} were answered 401: ${c.said ?? 'the key is nobody’s'}. If it is the app, its key is wrong or cut short.`,
    remedy: 'Compare the beginning of the key with the keys of the app, and put a whole one into it.',
    transient: false,
  },
  'hook-off': {
    title: 'The app posts to a send hook that is switched off',
    explain: (c) => `${by(c, 'The app')} was answered 410${c.said ? `: ${c.said}` : ''}. No message went out.`,
    remedy: 'Switch the hook on, or let the app’s people take its address out of their automation.',
    transient: false,
    breaks: 'call-in',
  },
  'hook-guard-refused': {
    title: 'A post to the send hook does not show that it is the app',
    explain: (c) =>
      `${by(c, 'The app')} was answered 401: ${c.said ?? 'the token or signature is missing or another one'}.`,
    remedy: 'Put the hook’s present token or signing secret into the app, or make a new one here.',
    transient: false,
    breaks: 'call-in',
  },
  'hook-name-mismatch': {
    title: 'The name in the address is not this send hook’s',
    explain: (c) =>
      `A post came to ${c.subject ?? 'another name'} with the key of ${by(c, 'this hook')}: the address was put together of two.`,
    remedy: 'Copy the whole address from the hook that is meant.',
    transient: false,
    breaks: 'call-in',
  },
  'hook-other-shape': {
    title: 'The post looks like one for another send hook',
    explain: (c) => `It has the fields of “${c.subject ?? 'another hook'}” and not those of this one.`,
    remedy: 'An automation that was copied keeps the address of its original: put the right address into it.',
    transient: false,
    breaks: 'call-in',
  },
  'hook-record-refused': {
    title: 'A post could not be made into a message',
    explain: (c) => c.said ?? 'A field that the message needs is missing, empty or not what it should be.',
    remedy: 'Open the post: each field that is wrong is named, with what to do.',
    transient: false,
    breaks: 'call-in',
  },
  'hook-unreadable': {
    title: 'A post to the send hook cannot be read',
    explain: (c) => `It was answered with an error: ${c.said ?? 'it is no record'}.`,
    remedy: 'Have the app post the fields of one record, as a form or as JSON.',
    transient: false,
    breaks: 'call-in',
  },
  'automation-failed': {
    title: 'An automation could not do its work',
    explain: (c) => c.said ?? 'One of its steps failed for good.',
    remedy: 'Open the latest run: it says which step, why, and what to do.',
    transient: false,
    breaks: 'call-in',
  },
  'address-not-allowed': {
    title: 'Windgap does not call private addresses',
    explain: (c) => `${c.subject ?? 'The address'} leads to a private network, which this installation does not allow.`,
    remedy: 'Use a public address, or allow private ones for this installation (see docs/operations.md).',
    transient: false,
    breaks: 'call-out',
  },
} satisfies Record<string, Cause>;
