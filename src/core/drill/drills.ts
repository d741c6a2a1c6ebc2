/**
 * Drills: a fault is set out of sight, somebody complains, and the administrator finds the
 * cause. Each has the complaint, three hints from wide to narrow, and the causes that are right.
 */

import type { CauseCode } from '../delivery/causes';
import type { Symptom } from '../diagnosis/symptoms';

export type DrillLevel = 'first' | 'usual' | 'hard';

export interface Drill {
  id: string;
  level: DrillLevel;
  symptom: Symptom;
  /** What somebody says, as they would say it. */
  complaint: string;
  fault: { service: string; fault: string };
  causes: readonly CauseCode[];
  hints: readonly [string, string, string];
}

export const DRILLS: readonly Drill[] = [
  {
    id: 'credit',
    level: 'first',
    symptom: 'worked-before',
    complaint: 'The front desk: “Since this morning not one customer has had a confirmation from us.”',
    fault: { service: 'brackwater', fault: 'creditGone' },
    causes: ['credit-gone'],
    hints: [
      'It is on the way out.',
      'The provider itself says why, in its answer to each message.',
      'Look at what the account can still afford.',
    ],
  },
  {
    id: 'secret',
    level: 'first',
    symptom: 'replies-missing',
    complaint: 'The main office: “They say they text us. Nothing shows, not even in Windgap.”',
    fault: { service: 'brackwater', fault: 'signsWithAnotherSecret' },
    causes: ['signature-wrong'],
    hints: [
      'It is on the way in.',
      'The provider does call, and is turned away.',
      'Compare who signed with what is saved here.',
    ],
  },
  {
    id: 'app-down',
    level: 'first',
    symptom: 'app-silent',
    complaint: 'The booking team: “The booking app has no new texts, and people are waiting.”',
    fault: { service: 'lockbook', fault: 'down' },
    causes: ['app-unreachable'],
    hints: [
      'Windgap has the texts.',
      'Look at what was tried towards the app.',
      'Does anything answer at its address?',
    ],
  },
  {
    id: 'region',
    level: 'usual',
    symptom: 'only-some',
    complaint: 'A customer’s sister: “My brother in Sweden gets nothing, I get everything.”',
    fault: { service: 'brackwater', fault: 'regionsOff' },
    causes: ['country-off'],
    hints: [
      'Compare one who gets it with one who does not.',
      'They differ in the country of their number.',
      'What may the account send to?',
    ],
  },
  {
    id: 'expired',
    level: 'usual',
    symptom: 'worked-before',
    complaint: 'The duty manager: “It worked yesterday, and I swear nobody touched it.”',
    fault: { service: 'brackwater', fault: 'secretEnded' },
    causes: ['credential-expired'],
    hints: ['Nobody did touch it.', 'Time passed, and that was enough.', 'How long was the secret to last?'],
  },
  {
    id: 'app-secret',
    level: 'usual',
    symptom: 'app-silent',
    complaint: 'The booking app’s people: “We rotated our secrets last night. Why do you ask?”',
    fault: { service: 'lockbook', fault: 'anotherSecret' },
    causes: ['app-signature-refused'],
    hints: [
      'Windgap calls the app.',
      'The app answers, with a refusal.',
      'What does the refusal say about the signature?',
    ],
  },
  {
    id: 'receipts',
    level: 'usual',
    symptom: 'nothing-arrives',
    complaint: 'The notices desk: “The notices by trunk are stuck since the carrier’s maintenance.”',
    fault: { service: 'ostrel', fault: 'throttles' },
    causes: ['throttled'],
    hints: [
      'The trunk is bound.',
      'Every text is answered, and none is taken.',
      'Read the status the carrier answers with.',
    ],
  },
  {
    id: 'page',
    level: 'hard',
    symptom: 'app-silent',
    complaint: 'The booking team: “The status page is green, and still no new texts.”',
    fault: { service: 'lockbook', fault: 'answersPage' },
    causes: ['app-answers-page'],
    hints: [
      'The app answers with success.',
      'Success is no proof: look at what it answered.',
      'It answered something for people.',
    ],
  },
  {
    id: 'garbled',
    level: 'hard',
    symptom: 'replies-missing',
    complaint: 'The main office: “The provider swears that it delivered every text to us.”',
    fault: { service: 'brackwater', fault: 'garblesPosts' },
    causes: ['inbound-unreadable'],
    hints: ['It did call.', 'It was even properly signed.', 'Read the body of what it posted.'],
  },
  {
    id: 'kept-back',
    level: 'hard',
    symptom: 'replies-missing',
    complaint: 'A customer: “I have written four times today. Is anybody there?”',
    fault: { service: 'brackwater', fault: 'losesIncoming' },
    causes: ['provider-silent'],
    hints: [
      'Nothing was refused here, because nothing came.',
      'The inbound URL is set and right.',
      'Compare the provider’s own log with what it called.',
    ],
  },
  {
    id: 'copies',
    level: 'hard',
    symptom: 'arrives-twice',
    complaint: 'A customer: “Do you think I can’t read? I get each of your texts twice.”',
    fault: { service: 'brackwater', fault: 'carriesTwice' },
    causes: ['network-repeats'],
    hints: ['Count the orders.', 'Count the attempts.', 'If both are one, the copy was made further on.'],
  },
  {
    id: 'silent-app',
    level: 'hard',
    symptom: 'app-silent',
    complaint:
      'The booking team: “Nothing new in the booking app since ten.” Their developers: “We answer 204 to everything.”',
    fault: { service: 'lockbook', fault: 'forgets' },
    causes: ['app-hides'],
    hints: ['The event was sent, signed and taken.', 'The whole of our way is proven.', 'What is left is not ours.'],
  },
];

export function drillOf(id: string): Drill | undefined {
  return DRILLS.find((drill) => drill.id === id);
}

/** The causes that can be named as an answer to any drill, and some that are right for none. */
export const ANSWERS: readonly CauseCode[] = [
  ...new Set(DRILLS.flatMap(({ causes }) => causes)),
  'credential-secret-wrong',
  'provider-unreachable',
  'registration-missing',
  'trial-unverified',
  'opted-out',
  'window-closed',
  'address-missing',
  'address-not-ours',
  'events-not-subscribed',
  'no-route',
  'app-error',
  'app-timeout',
  'app-redirects',
  'webhook-paused',
  'asked-twice',
  'handed-twice',
  'trunk-down',
  'receipt-id-base',
  'handset-unreachable',
  'number-moved',
];

const FULL = 100;
const LEAST = 5;
/** Points lost for a minute, for a hint and for a wrong answer. */
const A_MINUTE = 6;
const A_HINT = 12;
const A_WRONG_ANSWER = 18;

/** Out of 100; whoever finds it at all gets a little. */
export function scoreOf({ ms, hints, wrong }: { ms: number; hints: number; wrong: number }): number {
  const lost = (ms / 60_000) * A_MINUTE + hints * A_HINT + wrong * A_WRONG_ANSWER;
  return Math.max(LEAST, Math.round(FULL - lost));
}
