/** What a switch is called; with a number where that is what it sets, in milliseconds. */
type FaultWord = string | readonly [words: string, ms: number];

/** What each fault switch does, in the administrator’s words. A fault without words here is not offered. */
export const FAULT_WORDS: Record<string, { name: string; groups: [string, Record<string, FaultWord>][] }> = {
  brackwater: {
    name: 'Brackwater',
    groups: [
      [
        'Its API',
        {
          down: 'Cannot be reached',
          hangs: 'Takes calls and never answers',
          answers500: 'Answers 500',
          slowAnswers: ['Answers after four seconds', 4000],
          throttlesAll: 'Throttles every text',
          portal: 'A guest network answers for it',
          refusesOddly: 'Refuses with an undocumented code',
        },
      ],
      [
        'The account',
        {
          creditGone: 'Credit is gone',
          secretEnded: 'Secret has ended',
          regionsOff: 'Other countries are off',
          trialAgain: 'On trial again',
        },
      ],
      [
        'Texts',
        {
          losesTexts: 'Takes texts and loses them',
          swallowsAbroad: 'Swallows texts to other countries',
          delaysTexts: ['Holds texts for twenty seconds', 20_000],
          carriesTwice: 'Carries every text twice',
          ignoresReferences: 'Ignores our references',
        },
      ],
      [
        'Receipts and posts',
        {
          sendsNoReports: 'Sends no receipts',
          reportsBeforeAnswer: 'Receipt before the answer',
          reportsReversed: 'Receipts in reverse order',
          strayReports: 'Receipts for unknown messages',
          losesIncoming: 'Does not post what comes in',
          keepsStops: 'Keeps STOP and START to itself',
          tellsStops: 'Keeps them, and tells of it',
          garblesPosts: 'Posts what cannot be read',
          postsTwice: 'Posts everything twice',
          signsWithAnotherSecret: 'Signs with another secret',
        },
      ],
    ],
  },
  ostrel: {
    name: 'Ostrel',
    groups: [
      [
        'The link',
        {
          down: 'Cannot be reached',
          silent: 'Half open: answers nothing',
          refusesBinds: 'Refuses binds',
          slowAnswers: ['Answers after four seconds', 4000],
          cutsBeforeAnswer: 'Cuts before answering',
          halfDead: 'Answers everything but texts',
        },
      ],
      ['Texts', { throttles: 'Throttles every text', losesTexts: 'Loses texts', sendsNoReceipts: 'Sends no receipts' }],
    ],
  },
  tarrow: {
    name: 'Tarrow',
    groups: [
      ['Its API', { down: 'Cannot be reached', answers500: 'Answers 500', tokenEnded: 'Token has ended' }],
      [
        'The business',
        {
          developmentAgain: 'In development again',
          paymentGone: 'No way to pay',
          windowsShut: 'Reply windows are shut',
          eventsDropped: 'Events are not subscribed',
        },
      ],
      [
        'Requests',
        {
          losesEvents: 'Does not post messages',
          postsTwice: 'Posts everything twice',
          signsWithAnotherKey: 'Seals with another key',
        },
      ],
    ],
  },
  corvane: {
    name: 'Corvane',
    groups: [
      [
        'Chat',
        {
          down: 'Cannot be reached',
          losesEvents: 'Loses what people say',
          signsWithAnotherKey: 'Signs its posts wrongly',
          postsTwice: 'Repeats its posts',
        },
      ],
    ],
  },
  fennick: {
    name: 'Fennick',
    groups: [
      [
        'Mail',
        {
          down: 'Cannot be reached',
          bouncesEverything: 'Returns every mail',
          lookupDown: 'Look-up fails',
          reportsNothing: 'Reports no delivery and no return',
        },
      ],
    ],
  },
  lockbook: {
    name: 'Lockbook',
    groups: [
      [
        'Its webhook address',
        {
          down: 'Cannot be reached',
          neverAnswers: 'Never answers',
          answers500: 'Answers 500',
          answers404: 'Has moved (404)',
          answers410: 'Wants no more (410)',
          redirects: 'Redirects',
          answersPage: 'Wants people to sign in',
          anotherSecret: 'Has another secret',
          forgets: 'Takes events and shows nothing',
        },
      ],
    ],
  },
  towpath: {
    name: 'Towpath Records',
    groups: [
      [
        'Its API',
        {
          down: 'Cannot be reached',
          slow: 'Takes eight seconds',
          answers500: 'Answers 500',
          tokenEnded: 'Token has ended',
        },
      ],
    ],
  },
  weir: {
    name: 'Weir Desk',
    groups: [
      [
        'Its API',
        { down: 'Cannot be reached', answers500: 'Answers 500', takesAndHangs: 'Takes a ticket and never says so' },
      ],
    ],
  },
};

export function wordsOfFault(word: FaultWord): string {
  return typeof word === 'string' ? word : word[0];
}

/** What its switch sets when it is switched on. */
export function valueOfFault(word: FaultWord): true | number {
  return typeof word === 'string' ? true : word[1];
}
