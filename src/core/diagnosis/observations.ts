/**
 * What can be observed of a path. Each has the share in which it is so when nothing in
 * particular is wrong with it; the causes say in which share it is so when they are to blame.
 */
import type { Symptom } from './symptoms';

export interface Observation {
  /** How it reads when it is so, and when it is not. */
  yes: string;
  no: string;
  /** The share in which it is so, whatever the cause. */
  usually: number;
  /** Asked of a person, where evidence does not say. */
  ask?: { question: string; help: string; of: readonly Symptom[] };
  /** Found out by Windgap itself, with a handset of the bench or a verified phone. */
  test?: { offer: string; of: readonly Symptom[] };
}

const OUT = ['nothing-arrives', 'only-some', 'worked-before', 'app-cannot-send'] as const;
const IN = ['replies-missing', 'worked-before', 'app-silent'] as const;

export const OBSERVATIONS = {
  'out-asked': {
    yes: 'Windgap was asked to send',
    no: 'Windgap was not asked to send anything',
    usually: 0.9,
  },
  'out-taken': {
    yes: 'The provider took the latest messages',
    no: 'The provider has not taken the latest messages',
    usually: 0.6,
  },
  'out-delivered': {
    yes: 'Receipts say that the latest messages arrived',
    no: 'No receipt says that the latest messages arrived',
    usually: 0.5,
  },
  'others-delivered': {
    yes: 'Other people got messages from the same channel meanwhile',
    no: 'Nobody got a message from this channel meanwhile',
    usually: 0.5,
  },
  'in-called': {
    yes: 'The provider has called the inbound URL lately',
    no: 'The provider has not called the inbound URL lately',
    usually: 0.5,
  },
  'in-arrived': {
    yes: 'What people wrote has come in lately',
    no: 'Nothing people wrote has come in lately',
    usually: 0.5,
  },
  'in-routed': {
    yes: 'Routes took what came in',
    no: 'No route took what came in last',
    usually: 0.6,
  },
  'app-told': {
    yes: 'The app took the event of what came in last',
    no: 'The app has not taken the event of what came in last',
    usually: 0.5,
  },
  'ordered-twice': {
    yes: 'Windgap was asked for the same message twice',
    no: 'Windgap was asked for the message once',
    usually: 0.03,
  },
  'handed-twice': {
    yes: 'One message was handed to the provider more than once',
    no: 'The message was handed to the provider once',
    usually: 0.03,
  },
  'phone-gets-others': {
    yes: 'The phone gets texts from other people',
    no: 'The phone gets no texts at all',
    usually: 0.7,
    ask: {
      question: 'Does the phone get texts from anybody else?',
      help: 'Write to it from your own phone.',
      of: ['nothing-arrives', 'only-some', 'worked-before'],
    },
  },
  'wrote-here': {
    yes: 'They wrote to this very number',
    no: 'They wrote to another number',
    usually: 0.85,
    ask: {
      question: 'Did the person write to exactly this number?',
      help: 'Compare it digit by digit with what stands in their phone.',
      of: ['replies-missing'],
    },
  },
  'shown-sent': {
    yes: 'Their phone shows the text as sent',
    no: 'Their phone says that the text could not be sent',
    usually: 0.85,
    ask: {
      question: 'Does the person’s phone show the text as sent?',
      help: 'Phones mark a text that the network did not take.',
      of: ['replies-missing'],
    },
  },
  'provider-log-has-it': {
    yes: 'The provider’s own log has the text',
    no: 'The provider’s own log does not have the text',
    usually: 0.6,
    ask: {
      question: 'Does the provider’s own log show the text?',
      help: 'Look in the provider’s console at the time in question.',
      of: ['replies-missing', 'worked-before'],
    },
  },
  'letters-wrong': {
    yes: 'Letters are replaced by others',
    no: 'The letters are right',
    usually: 0.3,
    ask: {
      question: 'Are letters replaced by others?',
      help: 'Such as é, ñ or @ shown as another sign.',
      of: ['arrives-wrong'],
    },
  },
  'values-wrong': {
    yes: 'A value is missing, or somebody else’s',
    no: 'The values in it are right',
    usually: 0.3,
    ask: {
      question: 'Is a value missing or wrong, such as a name or a time?',
      help: 'A gap, a placeholder, or what belongs to another record.',
      of: ['arrives-wrong'],
    },
  },
  'bench-in': {
    yes: 'A text from a handset of the bench came in',
    no: 'A text from a handset of the bench did not come in',
    usually: 0.5,
    test: { offer: 'Write to the channel from a handset of the bench', of: IN },
  },
  'bench-out': {
    yes: 'A text to a handset of the bench arrived',
    no: 'A text to a handset of the bench did not arrive',
    usually: 0.5,
    test: { offer: 'Send a text to a handset of the bench', of: OUT },
  },
  'bench-once': {
    yes: 'The same text arrived once on a handset of the bench',
    no: 'One text arrived more than once on a handset of the bench',
    usually: 0.9,
    test: { offer: 'Send the same text to a handset of the bench, and count', of: ['arrives-twice'] },
  },
  'bench-same': {
    yes: 'The same text arrived unchanged on a handset of the bench',
    no: 'The same text arrived changed on a handset of the bench',
    usually: 0.7,
    test: { offer: 'Send the same text to a handset of the bench, and compare', of: ['arrives-wrong'] },
  },
} as const satisfies Record<string, Observation>;

export type ObservationId = keyof typeof OBSERVATIONS;

export const observation = (id: ObservationId): Observation => OBSERVATIONS[id];

export function isObservation(id: string): id is ObservationId {
  return Object.hasOwn(OBSERVATIONS, id);
}
